import type { Gesture } from '@/core/scrub/gesture';
import type { TimelineSpec } from '../timeline/spec';
import type { Failed, Finished } from '../processes';
import type {
  TimelineTrialSettings,
  TimelineTrialProgress,
  TimelineTrialRecord,
} from '@/core/kinds/shared/timeline';

/** All that the process needs. */
export interface TimelineTrialSpec {
  readonly source: TimelineSpec;
  readonly settings: TimelineTrialSettings;
  /** Of a scrub trial. */
  readonly gesture: Gesture | null;
}

export type FromTimelineTrial =
  | { readonly type: 'progress'; readonly progress: TimelineTrialProgress }
  | { readonly type: 'record'; readonly record: Partial<TimelineTrialRecord> }
  | Finished
  | Failed;

export type ToTimelineTrial =
  | { readonly type: 'start'; readonly spec: TimelineTrialSpec }
  | { readonly type: 'cancel' };
