import type { ClipFaults, RunFaults } from '@/core/media/faults';
import type { BufferDepths, PlaybackScale, Policy } from '@/core/playback/slots';
import type { ScaleCosts } from '@/core/playback/cures';
import type { CodecSetup } from '../media/probe';
import type { ColdProof } from '../media/coldFile';
import type { StorageModel } from '@/core/storage/model';
import type { PartTimes } from '@/core/timeline/parts';
import type { CourseSpec } from '../timeline/spec';
import type { InjectedFault } from './faults';
import type { Failed, Finished } from '../processes';

export type { PlaybackScale };

export interface PlaybackSettings {
  readonly scale: PlaybackScale;
  readonly policy: Policy;
  /** Decoder threads; 0 lets the decoder take one per core. */
  readonly threads: number;
  /** Read through the system's cache on purpose. */
  readonly warm: boolean;
  /** Scale and convert decoded frames. Off measures reading and decoding alone. */
  readonly processing: boolean;
  readonly buffers: BufferDepths;
  /** Play only the first so many slots; null plays all. */
  readonly slotLimit: number | null;
  readonly faults: readonly InjectedFault[];
}

/** A clip to be played from its first frame on. */
export interface ClipSubject {
  readonly kind: 'clip';
  readonly path: string;
  /** The model of a simulated volume, which paces every read; null reads as fast as the file comes. */
  readonly standIn: StorageModel | null;
  readonly setup: CodecSetup;
  readonly rate: { readonly num: number; readonly den: number };
  /** Packed packet table. */
  readonly packets: Uint8Array;
  /** Frames that are not whole, as earlier runs met them; absent: none is known. */
  readonly knownFaults?: ClipFaults | undefined;
}

/** All that a trial process needs; it never asks the database. */
export interface TrialSpec {
  readonly trialId: string;
  readonly subject: ClipSubject | ({ readonly kind: 'timeline' } & CourseSpec);
  readonly settings: PlaybackSettings;
}

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
  /** What was met of frames that are not whole; absent: nothing. */
  readonly faults?: RunFaults;
  /** Measured after the run, so that it costs the run nothing; null when it ended before. */
  readonly afterwards: RunFindings | null;
}

export interface RunFindings {
  /** Process times at each playback scale; null when the run processed nothing. */
  readonly scaleCosts: ScaleCosts | null;
  /** Processor times of the same; absent in trials from before they were measured. */
  readonly coreCosts?: ScaleCosts | null;
  /** The picture carries a frame code, and shown frames are proved by it. */
  readonly frameCode: boolean;
  /** Times of a timeline's parts; absent for a clip. Kept until the run is judged, not stored. */
  readonly parts?: PartTimes | null;
}

export interface LiveCounters {
  readonly slot: number;
  readonly slotCount: number;
  readonly shown: number;
  readonly dropped: number;
  /** Slots whose frame the pipeline has finished or given up: what the watchdog looks at. */
  readonly settled: number;
  readonly achievedRate: number;
  readonly depths: { readonly read: number; readonly decoded: number; readonly ready: number };
  /** Processor time of the trial process, µs. */
  readonly cpuUs: number;
}

export type FromTrial =
  | { readonly type: 'prepared'; readonly conditions: RunConditions; readonly slotCount: number }
  | { readonly type: 'faults'; readonly faults: RunFaults }
  | { readonly type: 'findings'; readonly findings: RunFindings }
  | { readonly type: 'batch'; readonly from: number; readonly count: number; readonly data: Uint8Array }
  | { readonly type: 'counters'; readonly counters: LiveCounters }
  | { readonly type: 'picture'; readonly frame: number; readonly jpeg: Uint8Array }
  | (Finished & {
      readonly cpuUs: number;
      readonly wallUs: number;
      readonly peakMemoryBytes: number;
    })
  | Failed;

export type ToTrial =
  | { readonly type: 'start'; readonly spec: TrialSpec }
  | { readonly type: 'cancel' }
  | { readonly type: 'viewers'; readonly count: number };
