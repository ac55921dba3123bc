import type { DecodedStream } from '@/core/decode/decoding';
import type { ClipFaults, RunFaults } from '@/core/media/faults';
import type { Format } from '@/core/media/format';
import type { PlaybackScale } from '@/core/playback/slots';
import type { CodecSetup, SoundSource } from '../media/streamFacts';
import type { StorageModel } from '@/core/storage/model';
import type { CourseSpec } from '../timeline/spec';
import type { Failed, Finished } from '../processes';
import type { PlaybackSettings } from '@/core/playback/settings';
import type { RunConditions, RunFindings } from '@/core/playback/conditions';

export type { PlaybackScale };

/** A clip to be played from its first frame on. */
export interface ClipInput {
  readonly kind: 'clip';
  readonly path: string;
  /** The model of a simulated volume, which paces every read; null reads as fast as the file comes. */
  readonly standIn: StorageModel | null;
  readonly setup: CodecSetup;
  readonly format: Format;
  readonly rate: { readonly num: number; readonly den: number };
  /** Packed packet table. */
  readonly packets: Uint8Array;
  /** Null where it has none that runs play. */
  readonly sound: SoundSource | null;
  /** Frames that are not whole, as earlier runs met them; absent: none is known. */
  readonly knownFaults?: ClipFaults | undefined;
}

/** All that a trial process needs; it never asks the database. */
export interface TrialSpec {
  readonly trialId: string;
  readonly subject: ClipInput | ({ readonly kind: 'timeline' } & CourseSpec);
  readonly settings: PlaybackSettings;
  /** Nothing is measured after the run. */
  readonly bare?: boolean;
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
  /** Pictures that are decoded before the run, for a made-up device. */
  | { readonly type: 'beforehand'; readonly done: number; readonly all: number }
  /** What each stream was decoded by; not told of a run by software alone. */
  | { readonly type: 'streams'; readonly streams: readonly DecodedStream[] }
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
