import type { RigMeanwhile } from './doubt';
import type { GraphicsSummary } from './graphics';
import type { LinkSummary } from './networkLink';

/** Load on the rig over a run, in shares of all cores, 0 to 1. */
export interface LoadSummary extends RigMeanwhile {
  readonly trialMean: number;
  readonly othersPeak: number;
  readonly peakMemoryBytes: number | null;
  /** Null where the system tells nothing of it; absent of older trials. */
  readonly graphics?: GraphicsSummary | null;
  /** Null where no volume was reached over the network; absent of older trials. */
  readonly link?: LinkSummary | null;
}
