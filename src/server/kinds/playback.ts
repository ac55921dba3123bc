import type { InferType } from '@/core/edge/strict';
import { playbackInput, timelinePlaybackInput } from '@/core/kinds/playback';
import { defaultBufferDepths } from '@/core/playback/slots';
import { decodingOf } from '../library/decode';
import { volumesOfTrial } from '@/core/kinds/volumes';
import { readAs } from '../library/readAs';
import type { SoundChoice } from '@/core/playback/settings';
import { courseOf, subjectFor, timelineTrial, type SoundUse } from '../timelines/trialSubjects';
import { requireTimeline } from '../timelines/timelines';
import { lengthOf } from '@/core/timeline/model';
import { traceCsv } from '../trials/traceCsv';
import { playedAsTimeline, wholeClip } from '../timelines/timelineTrials';
import { queueTrial } from '../platform/trialQueue';
import { playableClip, queueClip } from '../timelines/playedTrials';
import type { KindServer } from './kind';

/** Queues a playback trial of a clip. Returns its id. */
export async function startPlayback(input: InferType<typeof playbackInput>): Promise<string> {
  const { fields } = input;
  if (fields === 'each') return startFieldByField(input);
  const clip = await playableClip(input.clipId);
  const { scale, policy, threads, warm, depth, meanwhile, sound } = input;
  return queueClip('playback', clip, {
    scale,
    policy,
    threads,
    warm,
    depth,
    fields,
    meanwhile,
    sound,
    ...(await decodingOf(input.decodeOn)),
    ...(await readAs(input, [clip.volumeId])),
    processing: true,
    buffers: defaultBufferDepths,
    slotLimit: null,
    faults: [],
  });
}

/** Queues a playback of an interlaced clip at twice its rate, each field in a slot of its own: a timeline of it. */
async function startFieldByField(input: InferType<typeof playbackInput>): Promise<string> {
  const { timelineId, fields } = await playedAsTimeline(input);
  return startTimelinePlayback(timelineId, { ...input, ...wholeClip, fields });
}

/** What becomes of sound that is asked to go along, or is not. */
export const played = (sound: SoundChoice): SoundUse => (sound === 'on' ? 'played' : 'none');

/** Queues a playback trial of a timeline. Returns its id. */
export async function startTimelinePlayback(
  timelineId: string,
  input: InferType<typeof timelinePlaybackInput>,
): Promise<string> {
  const { document, demo } = await requireTimeline(timelineId);
  const course = courseOf(input, lengthOf(document));
  // What may be refused comes before a version is kept.
  const decodedBy = await decodingOf(input.decodeOn);
  const subject = await subjectFor(timelineId, course, input, played(input.sound));
  const { scale, policy, threads, warm, depth, fields, meanwhile, sound } = input;
  const decoded = { ...decodedBy, ...(await readAs(input, volumesOfTrial(subject))) };
  return queueTrial(
    timelineTrial(
      subject,
      { scale, policy, threads, warm, depth, fields, meanwhile, sound, ...decoded },
      demo,
    ),
  );
}

export const playback: KindServer<'playback'> = {
  start: async (input) => [
    'timelineId' in input ? await startTimelinePlayback(input.timelineId, input) : await startPlayback(input),
  ],
  csv: ({ id }) => traceCsv(id),
};
