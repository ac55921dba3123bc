import type { InferType } from '@/core/edge/strict';
import { isSimulatedDecoding } from '@/core/decode/decoding';
import { defaultBufferDepths } from '@/core/playback/slots';
import { prerenderedSlots } from '@/core/tasks/prerender';
import { courseLength, type Course } from '@/core/timeline/flatten';
import { lengthOf, type Timeline } from '@/core/timeline/model';
import { keepVersion } from '@/db/queries/timelines';
import type { NewTrial } from '@/db/kinds';
import { volumesOfTrial } from '@/core/kinds/volumes';
import { volumesOf, type TimelineSubject } from '@/core/timeline/subject';
import { RequestError } from '../platform/errors';
import { filesFor, mediaOfCourse, usedMedia, type MediaChoice } from './timelineMedia';
import { usablePrerenders } from './prerenders';
import type { PlaybackSettings } from '@/core/playback/settings';
import type { timelinePlaybackInput } from '@/core/kinds/playback';
import { requireTimeline } from './timelines';

/** What becomes of the sound of a run: it is made into a file, or goes along where the scan noted where it lies. */
export type SoundUse = 'none' | 'exported' | 'played';

/**
 * The course of a run with the files that it reads.
 * @param sound is needed of parts too that are shown from what was rendered
 * @throws RequestError when nothing of it is pre-rendered where that is asked for
 */
export async function readingOf(
  id: string,
  document: Timeline,
  plain: Course,
  choice: MediaChoice,
  sound: SoundUse = 'none',
): Promise<{ course: Course } & Awaited<ReturnType<typeof filesFor>>> {
  if (!choice.prerendered)
    return { course: plain, ...(await filesFor(document, usedMedia(document), choice)) };
  const rendered = await usablePrerenders(id, document, choice);
  const course: Course = { ...plain, prerendered: rendered.parts };
  if (prerenderedSlots(course) === 0) throw new RequestError('stretch-not-prerendered', {}, 'prerendered');
  const used = mediaOfCourse(document, course, sound !== 'none');
  const { media, missing } = await filesFor(document, used, choice);
  for (const [part, use] of Object.entries(rendered.media)) if (used.has(part)) media[part] = use;
  if (sound !== 'played') return { course, media, missing };
  const shown = mediaOfCourse(document, course, false);
  const read = Object.entries(media).filter(([of, use]) => shown.has(of) || use.sound);
  return { course, media: Object.fromEntries(read), missing };
}

/** What a trial of a timeline records: the version that is played and the files that will be read. @throws RequestError where `readingOf` does, and when it is empty */
export async function subjectFor(
  id: string,
  course: Course | null,
  choice: MediaChoice,
  sound: SoundUse = 'none',
): Promise<TimelineSubject> {
  const { document } = await requireTimeline(id);
  const slots = lengthOf(document);
  if (slots === 0) throw new RequestError('timeline-empty');
  const reading = await readingOf(id, document, course ?? { from: 0, slots, speed: 1 }, choice, sound);
  const { name, rate, width, height, startTimecode } = document;
  return {
    timeline: {
      id,
      version: await keepVersion(id, document, null),
      name,
      rate,
      width,
      height,
      slots,
      read: choice.read,
      ...reading,
    },
    startTimecode,
  };
}

/** A playback trial of a timeline that is to be made. */
export function timelineTrial(
  subject: TimelineSubject,
  settings: Pick<
    PlaybackSettings,
    | 'scale'
    | 'policy'
    | 'threads'
    | 'warm'
    | 'depth'
    | 'fields'
    | 'meanwhile'
    | 'sound'
    | 'decoding'
    | 'cache'
    | 'underWay'
  >,
  demo: number,
): NewTrial<'playback'> {
  return {
    kind: 'playback',
    timelineId: subject.timeline.id,
    volumeIds: volumesOfTrial(subject),
    simulated: volumesOf(subject).simulated || isSimulatedDecoding(settings.decoding),
    subject,
    settings: { ...settings, processing: true, buffers: defaultBufferDepths, slotLimit: null, faults: [] },
    progress: { slotCount: subject.timeline.course.slots },
    demo,
  };
}

/** From a place to the end (or to the beginning, backwards), or round in a stretch. @throws RequestError when it lies outside */
export function courseOf(
  {
    from,
    to,
    speed,
    loops,
  }: Pick<InferType<typeof timelinePlaybackInput>, 'from' | 'to' | 'speed' | 'loops'>,
  slots: number,
): Course {
  if (slots === 0) throw new RequestError('timeline-empty');
  const end = Math.min(slots, to ?? slots);
  if (from >= end) throw new RequestError('begins-after-end', { from, end }, 'from');
  const start = speed < 0 ? end - 1 : from;
  const once = courseLength(end - from, speed < 0 ? end - from - 1 : 0, speed);
  return loops > 1
    ? { from: start, slots: once * loops, speed, loop: { from, to: end } }
    : { from: start, slots: once, speed, loop: null };
}
