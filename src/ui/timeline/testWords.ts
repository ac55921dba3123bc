import { nameOf, volumesOf } from '@/core/playback/subject';
import type { BuiltInGesture } from '@/core/scrub/gesture';
import { levelLabel } from '@/core/timeline/ramp';
import type { TimelineKind } from '@/core/kinds/kinds';
import type { TrialListRow } from '@/db/kinds';
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
export function testWords({ settings }: Pick<TrialListRow<TimelineKind>, 'settings'>): string {
  switch (settings.kind) {
    case 'scrub': {
      const { gesture } = settings;
      return `${gesture.kind === 'recorded' ? `recorded: ${gesture.name}` : gesture.kind === 'shuttle' ? `shuttle ${Math.abs(gesture.speed)}x ${gesture.speed < 0 ? 'back' : 'on'}` : gestureWords[gesture.kind]}, ${settings.scale} scale`;
    }
    case 'ramp':
      return `load ramp by ${settings.family}`;
    case 'calibration':
      return 'calibration of effects';
  }
}

/** What was scrubbed or loaded, from where. */
export function subjectWords({ subject }: Pick<TrialListRow<TimelineKind>, 'subject'>): string {
  return `${nameOf(subject)}, ${subject.timeline.read}, from ${volumesOf(subject).names.join(', ')}`;
}

/** The result in a few words; null before there is one. */
export function resultWords(trial: TrialListRow<TimelineKind>): string | null {
  switch (trial.kind) {
    case 'scrub':
      if (!trial.summary) return null;
      return trial.summary.latencyMs
        ? `p50 ${milliseconds(trial.summary.latencyMs.p50)}, p95 ${milliseconds(trial.summary.latencyMs.p95)}`
        : 'nothing shown';
    case 'ramp': {
      const { summary } = trial;
      return (
        summary &&
        summary.edges
          .map(
            ({ scale, plays, drops }) =>
              `${scale}: ${levelLabel(summary.family, plays)}${drops === null ? ' and more' : ''}`,
          )
          .join('; ')
      );
    }
    case 'calibration':
      return trial.summary && `${trial.summary.scales.length} scales`;
  }
}
