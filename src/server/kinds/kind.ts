import type { TrialInput } from '@/core/asked/trials';
import type { TrialKind } from '@/core/kinds/kinds';
import type { TrialRow, TrialStatus } from '@/db/kinds';

/** What was sent to ask for a trial, besides its kind. */
export type Body = Readonly<Record<string, unknown>>;

/** What the server does of a kind of trial. */
export interface KindServer<Kind extends TrialKind> {
  /**
   * Queues what is asked for. Answers with the trials' ids.
   * @throws RequestError with the field at fault, or EngineError where the rig cannot
   */
  start(input: TrialInput<Kind>): Promise<readonly string[]>;
  /** What a trial recorded, as CSV. */
  csv(trial: TrialRow<Kind>): string | Promise<string>;
  /** It can pause, and go on after it has stopped; absent: it cannot. */
  readonly resumes?: {
    readonly from: readonly TrialStatus[];
    hasMore(id: string): Promise<boolean>;
  };
}
