import type { DecodedStream } from '../decode/decoding';
import type { ColdProof } from '../media/coldProof';
import type { RunFaults } from '../media/faults';
import type { PartTimes } from '../timeline/parts';
import type { ScaleCosts } from './cures';

/** What a run was made under, as found by the trial process. */
export interface RunConditions {
  readonly cold: ColdProof;
  readonly startLatencyMs: number;
  /** Wall-clock time of t0, ms since 1970; absent in trials from before it was kept. */
  readonly beganAtMs?: number;
  readonly decoder: string;
  readonly decoderThreads: number;
  readonly threadKind: string;
  readonly codecLibrary: string;
  /** What each stream was decoded by; absent where it was software alone. */
  readonly streams?: readonly DecodedStream[];
  /** What was met of frames that are not whole; absent: nothing. */
  readonly faults?: RunFaults;
  /** Measured after the run, so that it costs the run nothing; null when it ended before. */
  readonly afterwards: RunFindings | null;
}

/** Previews that were drawn while a run went on. */
export interface DrawnMeanwhile {
  /** Clips that were done with; one counts again each time. */
  readonly clips: number;
  readonly strips: number;
  readonly sounds: number;
  readonly bytes: number;
  readonly seconds: number;
  /** Why it came to an end before the run; null where it did not. */
  readonly problem: string | null;
}

export interface RunFindings {
  /** Process times at each playback scale; null when the run processed nothing. */
  readonly scaleCosts: ScaleCosts | null;
  /** Processor times of the same; absent in trials from before they were measured. */
  readonly coreCosts?: ScaleCosts | null;
  /** The picture carries a frame code, and shown frames are proved by it. */
  readonly frameCode: boolean;
  /** Absent where nothing was drawn meanwhile. */
  readonly drawn?: DrawnMeanwhile;
  /** Why the sound that was asked for came to an end before the run; absent where it did not. */
  readonly soundProblem?: string;
  /** Times of a timeline's parts; absent for a clip. Kept until the run is judged, not stored. */
  readonly parts?: PartTimes | null;
}
