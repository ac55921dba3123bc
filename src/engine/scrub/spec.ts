import type { RunFaults } from '@/core/media/faults';
import type { ScrubRequest } from '@/core/scrub/analyse';
import type { BuiltInGesture, Gesture } from '@/core/scrub/gesture';
import type { EffectCosts } from '@/core/timeline/effectCosts';
import type { RampFamily, RampProbe } from '@/core/timeline/ramp';
import type { ColdProof } from '../media/coldFile';
import type { PlaybackScale } from '../playback/spec';
import type { TimelineSpec } from '../timeline/spec';
import type { Failed, Finished } from '../processes';

interface Common {
  readonly threads: number;
  readonly warm: boolean;
}

export interface ScrubSettings extends Common {
  readonly kind: 'scrub';
  readonly scale: PlaybackScale;
  readonly gesture:
    | { readonly kind: BuiltInGesture; readonly seed: number; readonly speed: number }
    | { readonly kind: 'recorded'; readonly gestureId: string; readonly name: string };
}

export interface RampSettings extends Common {
  readonly kind: 'ramp';
  readonly family: RampFamily;
  readonly most: number;
  /** Length of one probe. */
  readonly seconds: number;
  readonly scales: readonly PlaybackScale[];
}

export interface CalibrationSettings extends Common {
  readonly kind: 'calibration';
}

export type TimelineTestSettings = ScrubSettings | RampSettings | CalibrationSettings;

/** All that the process needs. */
export interface TimelineTestSpec {
  readonly source: TimelineSpec;
  readonly settings: TimelineTestSettings;
  /** Of a scrub trial. */
  readonly gesture: Gesture | null;
}

export interface TimelineTestProgress {
  readonly share: number;
  readonly note: string;
  readonly msLeft: number | null;
}

/** What was measured, piece by piece. */
export interface TimelineTestRecord {
  readonly cold: ColdProof | null;
  readonly requests: readonly ScrubRequest[];
  readonly gesture: Gesture | null;
  readonly probes: readonly RampProbe[];
  readonly costs: EffectCosts | null;
  /** What was met of frames that are not whole; absent: nothing. */
  readonly faults?: RunFaults;
}

export type FromTimelineTest =
  | { readonly type: 'progress'; readonly progress: TimelineTestProgress }
  | { readonly type: 'record'; readonly record: Partial<TimelineTestRecord> }
  | Finished
  | Failed;

export type ToTimelineTest =
  { readonly type: 'start'; readonly spec: TimelineTestSpec } | { readonly type: 'cancel' };
