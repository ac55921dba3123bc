import { readWay } from '@/core/media/coldProof';
import type { PlaybackSettings } from '@/core/playback/settings';
import type { SoundPart } from '@/core/tasks/soundPlan';
import type { SoundClip, SoundJob } from './soundShared';

/**
 * What works out a run's sound, as its settings ask for it.
 * @param clipOf a clip with sound; null of one that has none. Asked once for each
 * @returns null where sound is off, or nothing of it has any
 */
export function soundJob(
  parts: readonly SoundPart[],
  clipOf: (media: string) => SoundClip | null,
  course: Pick<SoundJob, 'rate' | 'slotCount'>,
  settings: PlaybackSettings,
): SoundJob | null {
  if (settings.sound !== 'on') return null;
  const clips = new Map<string, SoundClip>();
  for (const media of new Set(parts.map((part) => part.media))) {
    const clip = clipOf(media);
    if (!clip) continue;
    const { path, setup, sound, pacing } = clip;
    clips.set(media, { path, setup, sound, pacing });
  }
  if (clips.size === 0) return null;
  const { readAhead, decoded, ready } = settings.buffers;
  return {
    parts: parts.filter(({ media }) => clips.has(media)),
    clips,
    ...course,
    direct: readWay(settings) === 'past',
    ahead: readAhead + decoded + ready,
    holdTime: settings.policy === 'hold-time',
  };
}
