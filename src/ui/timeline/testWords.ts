import { nameOf, volumesOf } from '@/core/playback/subject';
import type { BuiltInGesture } from '@/core/scrub/gesture';
import { levelLabel } from '@/core/timeline/ramp';
import type { TimelineTestListRow } from '@/db/queries/timelines';
import { milliseconds } from '../format';

export const gestureWords: Record<BuiltInGesture, string> = {
  'slow-drag': 'slow drag',
  'fast-drag': 'fast drag back and forth',
  'jump-play': 'jump and play',
  'step-forward': 'step forward',
  'step-backward': 'step backward',
  shuttle: 'shuttle',
  jumps: 'jumps to random places',
};

/** What a test did, in words. */
export function testWords({ settings }: Pick<TimelineTestListRow, 'settings'>): string {
  switch (settings.kind) {
    case 'scrub': {
      const { gesture } = settings;
      return `${gesture.kind === 'recorded' ? `recorded: ${gesture.name}` : gesture.kind === 'shuttle' ? `shuttle ${Math.abs(gesture.speed)}x ${gesture.speed < 0 ? 'back' : 'on'}` : gestureWords[gesture.kind]}, ${settings.scale} scale`;
    }
    case 'ramp':
      return `load ramp by ${settings.family}`;
    case 'costs':
      return 'calibration of effects';
  }
}

/** What was scrubbed or loaded, from where. */
export function subjectWords({ subject }: Pick<TimelineTestListRow, 'subject'>): string {
  return `${nameOf(subject)}, ${subject.timeline.read}, from ${volumesOf(subject).names.join(', ')}`;
}

/** The result in a few words; null before there is one. */
export function resultWords({ result }: Pick<TimelineTestListRow, 'result'>): string | null {
  switch (result?.kind) {
    case 'scrub':
      return result.summary.latencyMs
        ? `p50 ${milliseconds(result.summary.latencyMs.p50)}, p95 ${milliseconds(result.summary.latencyMs.p95)}`
        : 'nothing shown';
    case 'ramp':
      return result.ramp.edges
        .map(
          ({ scale, plays, drops }) =>
            `${scale}: ${levelLabel(result.ramp.family, plays)}${drops === null ? ' and more' : ''}`,
        )
        .join('; ');
    case 'costs':
      return `${result.costs.scales.length} scales`;
    default:
      return null;
  }
}
