import type { ComponentType } from 'react';
import type { TrialKind } from '@/core/kinds/kinds';
import type { TrialRow } from '@/db/kinds';
import type { TrialPage } from '@/server/trials/trialPage';
import type { Possible } from '../trial/TrialActions';

/** How a kind of trial is shown. What is alike of all kinds is not told here: `trial/TrialView` puts it around. */
export interface KindView<Kind extends TrialKind> {
  /** What it is and of what: the line above it. */
  readonly Line: ComponentType<{ trial: TrialRow<Kind> }>;
  /** While it waits or runs. */
  readonly Live: ComponentType<{ page: TrialPage<Kind> }>;
  /** What came of it, however it ended. */
  readonly Result: ComponentType<{ page: TrialPage<Kind> }>;
  /** What can be done with it once it has ended. */
  readonly possible: (page: TrialPage<Kind>) => Possible;
  /** Its pictures take the whole width. */
  readonly wide?: boolean;
}

/** A trial that has found something. */
export type WithSummary<Kind extends TrialKind> = TrialRow<Kind> & {
  readonly summary: NonNullable<TrialRow<Kind>['summary']>;
};
