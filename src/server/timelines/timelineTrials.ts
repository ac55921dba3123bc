import { mediaRefOf } from '@/core/timeline/mediaRef';
import { isSimulatedDecoding } from '@/core/decode/decoding';
import { timelineKinds, type TimelineKind } from '@/core/kinds/kinds';
import { volumesOfTrial } from '@/core/kinds/volumes';
import { isInterlaced } from '@/core/playback/fields';
import type { FieldsWay } from '@/core/playback/settings';
import { volumesOf } from '@/core/timeline/subject';
import { gestureProblem, type Gesture } from '@/core/scrub/gesture';
import { fieldBySlot, runThrough, sideBySide } from '@/core/timeline/loads';
import { lengthOf, type Timeline } from '@/core/timeline/model';
import { getClip, listClips } from '@/db/queries/clips';
import {
  addGesture,
  clipTimelinePrefix,
  putTimeline,
  listGestures,
  removeGesture,
} from '@/db/queries/timelines';
import { getTrials } from '@/db/queries/trials';
import type { NewTrial, TimelineTrial } from '@/db/kinds';
import { RequestError } from '../platform/errors';
import { newId } from '../platform/ids';
import { readAs, type ReadAsked } from '../library/readAs';
import { currentRigId } from '../platform/rig';
import type { MediaChoice } from './timelineMedia';
import { subjectFor } from './trialSubjects';
import type { TimelineTrialSettings } from '@/core/kinds/shared/timeline';
import { queueTrial } from '../platform/trialQueue';

/** A trial that tries a timeline out, to be made. @param read how its files are asked to be read; null where its kind says it */
export async function trialOnTimeline(
  timelineId: string,
  settings: TimelineTrialSettings,
  choice: MediaChoice,
  read: ReadAsked | null = null,
): Promise<NewTrial<TimelineKind>> {
  const subject = await subjectFor(timelineId, null, choice);
  if (Object.keys(subject.timeline.media).length === 0) throw new RequestError('no-media-at-hand');
  const volumeIds = volumesOfTrial(subject);
  return {
    kind: settings.kind,
    timelineId,
    volumeIds,
    simulated:
      volumesOf(subject).simulated || ('decoding' in settings && isSimulatedDecoding(settings.decoding)),
    subject,
    settings: read ? { ...settings, ...(await readAs(read, volumeIds)) } : settings,
  } as NewTrial<TimelineKind>;
}

export async function queueTest(
  timelineId: string,
  settings: TimelineTrialSettings,
  choice: MediaChoice,
  read: ReadAsked | null = null,
): Promise<string> {
  return queueTrial(await trialOnTimeline(timelineId, settings, choice, read));
}

/** Of each clip of a volume so much is put into the timeline that it is opened in. */
const secondsOfEach = 2;

/** The first clips of a volume, by their paths, one after the other as a timeline of their own, which is in no list. */
export async function timelineOfVolume(volumeId: string, most: number): Promise<string> {
  const rigId = await currentRigId();
  const media = (await listClips(rigId))
    .filter((clip) => clip.volumeId === volumeId && clip.status === 'ready')
    .flatMap((clip) => mediaRefOf(clip) ?? [])
    .slice(0, most)
    .map((ref, at) => ({ id: `m${at + 1}`, ref }));
  const [first] = media;
  if (!first) throw new RequestError('no-clip-on-volume', {}, 'clipsOfVolume');
  const { volumeName } = (await getClip(first.ref.clipId ?? '')) ?? { volumeName: 'a volume' };
  const timeline = runThrough(media, first.ref.rate, first.ref, secondsOfEach);
  const name = media.length === 1 ? `A clip of ${volumeName}` : `${media.length} clips of ${volumeName}`;
  return keepUnlisted(`${clipTimelinePrefix}of-${volumeId}-${most}`, { ...timeline, name });
}

/** A clip is tested as a timeline of its own, which is in no list. */
export async function timelineOfClip(clipId: string): Promise<string> {
  const { ref } = await requireMedia(clipId);
  const document: Timeline = { ...sideBySide({ id: 'm1', ref }, 1), name: ref.name };
  return keepUnlisted(`${clipTimelinePrefix}${clipId}`, document);
}

/** A clip's timeline played as a clip is: once, from its beginning to its end. */
export const wholeClip = {
  from: 0,
  to: null,
  speed: 1,
  loops: 1,
  read: 'originals',
  volumeId: null,
  prerendered: false,
} as const;

/** The timeline that shows each field of an interlaced clip in a slot of its own. @throws RequestError where it has none */
async function fieldsOfClip(clipId: string): Promise<string> {
  const { clip, ref } = await requireMedia(clipId);
  if (!isInterlaced(clip.identity?.scan)) throw new RequestError('no-fields', {}, 'fields');
  return keepUnlisted(`${clipTimelinePrefix}fields-${clipId}`, fieldBySlot({ id: 'm1', ref }));
}

/** The timeline that a playback of a clip is made of, and what becomes of fields there. @throws RequestError where they are to be shown one by one and it has none */
export async function playedAsTimeline({
  clipId,
  fields,
}: {
  readonly clipId: string;
  readonly fields: FieldsWay | 'each';
}): Promise<{ timelineId: string; fields: FieldsWay }> {
  return fields === 'each'
    ? { timelineId: await fieldsOfClip(clipId), fields: 'deinterlaced' }
    : { timelineId: await timelineOfClip(clipId), fields };
}

/** A clip that can be played, as a timeline has it. @throws RequestError */
async function requireMedia(clipId: string) {
  const clip = await getClip(clipId);
  const ref = clip?.status === 'ready' ? mediaRefOf(clip) : null;
  if (!clip || !ref) throw new RequestError('clip-unplayable-or-gone', {}, 'clipId');
  return { clip, ref };
}

async function keepUnlisted(id: string, document: Timeline): Promise<string> {
  const { name } = document;
  await putTimeline({ id, rigId: await currentRigId(), name, document, slots: lengthOf(document) });
  return id;
}

export async function targetOf({
  timelineId,
  clipId,
}: {
  timelineId?: string | null | undefined;
  clipId?: string | null | undefined;
}): Promise<string> {
  if (timelineId) return timelineId;
  if (clipId) return timelineOfClip(clipId);
  throw new RequestError('no-target', {}, 'timelineId');
}

/** Tests with their records, to be laid over each other; in the order asked for. */
export async function testsByIds(ids: readonly string[]): Promise<TimelineTrial[]> {
  const rows = new Map((await getTrials(ids, timelineKinds)).map((row) => [row.id, row]));
  return ids.flatMap((id) => rows.get(id) ?? []);
}

export async function saveGesture(name: string, gesture: Gesture): Promise<string> {
  const problem = gestureProblem(gesture);
  if (problem) throw RequestError.of(problem);
  const id = newId();
  await addGesture({ id, name, gesture });
  return id;
}

export { listGestures as gesturesKept };

/** @throws RequestError when there is none */
export async function forgetGesture(id: string): Promise<void> {
  if (!(await removeGesture(id))) throw new RequestError('no-such-gesture');
}
