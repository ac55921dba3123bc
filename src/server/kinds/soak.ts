import type { InferType } from '@/core/edge/strict';
import { analysisInput } from '@/core/kinds/analysis';
import { exportInput } from '@/core/kinds/export';
import { playbackInput, timelinePlaybackInput } from '@/core/kinds/playback';
import { soakable, soakInput } from '@/core/kinds/soak';
import { lengthOf } from '@/core/timeline/model';
import { toNumber } from '@/core/time/rational';
import type { NewTrial } from '@/db/kinds';
import { decodingOf } from '../library/decode';
import { volumesOfTrial } from '@/core/kinds/volumes';
import { readAs } from '../library/readAs';
import { RequestError } from '../platform/errors';
import { checked } from '../platform/http';
import { playedAsTimeline, wholeClip } from '../timelines/timelineTrials';
import { courseOf, subjectFor, timelineTrial } from '../timelines/trialSubjects';
import { requireTimeline } from '../timelines/timelines';
import { queueTrial } from '../platform/trialQueue';
import { analysisTrial } from './analysis';
import { exportTrial } from './export';
import type { Body, KindServer } from './kind';
import { played } from './playback';
import { linesCsv } from './shared/lines';

/** A pass of a playback goes round for so long at least, s: what lies between two passes is then little beside them. */
const passSeconds = 60;

/** A soak that is to be made. @throws RequestError when what it repeats cannot be done */
async function soakTrial({ minutes, work }: InferType<typeof soakInput>): Promise<NewTrial<'soak'>> {
  const { kind, ...body } = work;
  if (!isSoakable(kind)) throw new RequestError('not-soakable', {}, 'work');
  if (kind === 'playback') return playedSoak(minutes, body);
  if (kind === 'export') {
    const { settings, progress: _, ...made } = await exportTrial(checked(body, exportInput));
    const repeated = { ...settings, keep: false, likeness: false };
    return { ...made, kind: 'soak', settings: { minutes, work: { kind, settings: repeated } } };
  }
  const { settings, progress: _, ...made } = await analysisTrial(checked(body, analysisInput));
  return {
    ...made,
    kind: 'soak',
    settings: { minutes, work: { kind: 'analysis', settings: { ...settings, keep: false } } },
  };
}

async function playedSoak(minutes: number, body: Body): Promise<NewTrial<'soak'>> {
  const isTimeline = typeof body.timelineId === 'string';
  const asked = isTimeline
    ? checked(body, timelinePlaybackInput)
    : { ...checked(body, playbackInput), ...wholeClip };
  // What may be refused comes before anything is kept.
  const decoded = await decodingOf(asked.decodeOn);
  const { timelineId, fields } =
    'clipId' in asked
      ? await playedAsTimeline(asked)
      : { timelineId: String(body.timelineId), fields: asked.fields };
  const { document, demo } = await requireTimeline(timelineId);
  const once = courseOf({ ...asked, loops: 1 }, lengthOf(document));
  const wanted = Math.min(passSeconds, minutes * 60) * toNumber(document.rate);
  const loops = Math.max(1, Math.ceil(wanted / once.slots));
  const { scale, policy, threads, warm, depth, meanwhile, sound } = asked;
  const subject = await subjectFor(
    timelineId,
    courseOf({ ...asked, loops }, lengthOf(document)),
    asked,
    played(sound),
  );
  const how = {
    scale,
    policy,
    threads,
    warm,
    depth,
    fields,
    meanwhile,
    sound,
    ...decoded,
    ...(await readAs(asked, volumesOfTrial(subject))),
  };
  const { settings, progress: _, kind: __, ...made } = timelineTrial(subject, how, demo);
  return { ...made, subject, kind: 'soak', settings: { minutes, work: { kind: 'playback', settings } } };
}

const isSoakable = (kind: unknown): kind is (typeof soakable)[number] =>
  (soakable as readonly unknown[]).includes(kind);

export const soak: KindServer<'soak'> = {
  start: async (input) => [await queueTrial(await soakTrial(input))],
  csv: ({ record }) =>
    linesCsv(
      (record?.points ?? []).map(({ atS, seconds, framesPerSecond, dropped }) => ({
        atS,
        seconds,
        framesPerSecond,
        dropped,
      })),
    ),
};
