import { nameOf, volumesOf } from '@/core/timeline/subject';
import type { BuiltInGesture } from '@/core/scrub/gesture';
import type { TimelineKind } from '@/core/kinds/kinds';
import type { TrialListRow } from '@/db/kinds';

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
    case 'opening':
      return `opening, ${settings.lanes === 1 ? 'one clip' : `${settings.lanes} clips`} at a time`;
  }
}

/** What was scrubbed or loaded, from where. */
export function subjectWords({ subject }: Pick<TrialListRow<TimelineKind>, 'subject'>): string {
  return `${nameOf(subject)}, ${subject.timeline.read}, from ${volumesOf(subject).names.join(', ')}`;
}
