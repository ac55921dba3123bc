import type { DecodedStream, Decoding } from '../../decode/decoding';
import type { ColdProof, ReadBy } from '../../media/coldProof';
import type { RunFaults } from '../../media/faults';
import type { TimelineSubject } from '../../timeline/subject';
import type { ScrubRequest } from '../../scrub/analyse';
import type { Gesture } from '../../scrub/gesture';
import type { OpeningRecord } from '../../tasks/opening';
import type { EffectCosts } from '../../timeline/effectCosts';
import type { RampProbe } from '../../timeline/ramp';
import type { CalibrationSettings } from '../calibration';
import type { OpeningSettings } from '../opening';
import type { RampSettings } from '../ramp';
import type { ScrubSettings } from '../scrub';
import type { RigConditions } from './conditions';

/** What decodes what is tried out; absent in trials from before it could be chosen, and where it is software alone. */
export interface DecodedOn {
  readonly decoding?: Decoding;
}

/** What reads it as a player does; absent in trials from before it could be chosen. */
export type ReadAsPlayed = Pick<ReadBy, 'cache' | 'underWay'>;

/** How a timeline is tried out, whatever the kind. */
export interface TimelineCommon {
  readonly threads: number;
  readonly warm: boolean;
}

export type TimelineTrialSettings = ScrubSettings | RampSettings | CalibrationSettings | OpeningSettings;

export interface TimelineTrialProgress {
  readonly share: number;
  readonly note: string;
  readonly msLeft: number | null;
}

/** What was measured, piece by piece. */
export interface TimelineTrialRecord {
  readonly cold: ColdProof | null;
  readonly requests: readonly ScrubRequest[];
  readonly gesture: Gesture | null;
  readonly probes: readonly RampProbe[];
  readonly costs: EffectCosts | null;
  /** Absent in trials from before there were any. */
  readonly opening?: OpeningRecord;
  /** What was met of frames that are not whole; absent: nothing. */
  readonly faults?: RunFaults;
  /** What each stream was decoded by; absent where it was software alone. */
  readonly streams?: readonly DecodedStream[];
}

/** What trials keep that try a timeline out otherwise than by playing it through. */
export interface TimelineShape {
  readonly subject: TimelineSubject;
  readonly conditions: RigConditions;
  readonly progress: TimelineTrialProgress;
  readonly record: TimelineTrialRecord;
}
export const timelinePage = '/timelines/tests';
