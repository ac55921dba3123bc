import type { TrialListPage } from './trials/trialList';
import type { TrialPage } from './trials/trialPage';

/** What scripts may rely on, as `docs/openapi.json` tells it: `./navvy openapi` makes that file of these types. */

/** Answer of `GET /api/trials`. @public */
export type TrialsAnswer = TrialListPage;

/** Answer of `GET /api/trials/{id}`. @public */
export type TrialAnswer = TrialPage;

/** Answer to whatever is refused. */
export interface Refused {
  /** Which refusal it is, the same in every language: `no-such-trial`. */
  readonly code: string;
  /** What is wrong and what to do, for a person. */
  readonly message: string;
  /** The word or field at fault; null where none is. */
  readonly field: string | null;
}
