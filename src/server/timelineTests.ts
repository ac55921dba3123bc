import type { InferType } from 'yup';
import { gestureProblem, type Gesture } from '@/core/scrub/gesture';
import { sideBySide } from '@/core/timeline/loads';
import { lengthOf, type Timeline } from '@/core/timeline/model';
import { getClip } from '@/db/queries/clips';
import {
  addGesture,
  clipTimelinePrefix,
  putTimeline,
  addTimelineTest,
  getGesture,
  getTimelineTest,
  getTimelineTests,
  listGestures,
  listTimelineTests,
  removeGesture,
  removeTimelineTest,
  updateTimelineTest,
  type TimelineTestRow,
} from '@/db/queries/timelines';
import type { PlanTemplate } from '@/db/schema';
import type { TimelineTestSettings } from '@/engine/scrub/spec';
import { RequestError } from './errors';
import { publish } from './events';
import { newTrialId } from './ids';
import { sendJob } from './queue';
import { currentRigId } from './rig';
import { mediaRefOf, type MediaChoice } from './timelineMedia';
import { subjectFor } from './timelines';
import type { costsInput, rampInput, scrubInput } from './validation';

/** A test of a timeline as a row without identity. */
export async function timelineTest(
  timelineId: string,
  settings: TimelineTestSettings,
  choice: MediaChoice,
): Promise<Extract<PlanTemplate, { kind: 'timelineTest' }>['row']> {
  const subject = await subjectFor(timelineId, null, choice);
  if (Object.keys(subject.timeline.media).length === 0)
    throw new RequestError("None of the timeline's media is at hand. Relink them first.", 409);
  return { kind: settings.kind, timelineId, subject, settings };
}

async function queueTest(
  timelineId: string,
  settings: TimelineTestSettings,
  choice: MediaChoice,
): Promise<string> {
  const rigId = await currentRigId();
  const id = newTrialId();
  await addTimelineTest({
    id,
    rigId,
    status: 'queued',
    ...(await timelineTest(timelineId, settings, choice)),
  });
  await sendJob(rigId, { kind: 'timelineTest', trialId: id });
  await publish({ type: 'test-status', trialId: id, status: 'queued' });
  return id;
}

/** A clip is tested as a timeline of its own, which is in no list. */
export async function timelineOfClip(clipId: string): Promise<string> {
  const clip = await getClip(clipId);
  const ref = clip?.status === 'ready' ? mediaRefOf(clip) : null;
  if (!clip || !ref)
    throw new RequestError('This clip cannot be played or is gone. Choose another.', 409, 'clipId');
  const document: Timeline = { ...sideBySide({ id: 'm1', ref }, 1), name: ref.name };
  const id = `${clipTimelinePrefix}${clipId}`;
  await putTimeline({
    id,
    rigId: await currentRigId(),
    name: document.name,
    document,
    slots: lengthOf(document),
  });
  return id;
}

async function targetOf({
  timelineId,
  clipId,
}: {
  timelineId?: string | null | undefined;
  clipId?: string | null | undefined;
}): Promise<string> {
  if (timelineId) return timelineId;
  if (clipId) return timelineOfClip(clipId);
  throw new RequestError('Choose a timeline or a clip.', 400, 'timelineId');
}

/** Queues a scrub trial for each gesture asked for. Returns the ids. */
export async function startScrub(input: InferType<typeof scrubInput>): Promise<string[]> {
  const timelineId = await targetOf(input);
  const { scale, threads, warm, seed, speed } = input;
  const ids: string[] = [];
  for (const kind of input.gestures) {
    const gesture: Extract<TimelineTestSettings, { kind: 'scrub' }>['gesture'] =
      kind === 'recorded' ? await recordedGesture(input.gestureId ?? '') : { kind, seed, speed };
    ids.push(await queueTest(timelineId, { kind: 'scrub', scale, threads, warm, gesture }, input));
  }
  return ids;
}

async function recordedGesture(gestureId: string) {
  const row = await getGesture(gestureId);
  if (!row)
    throw new RequestError(
      "This recorded gesture is gone. Record another in a timeline's viewer.",
      404,
      'gestureId',
    );
  return { kind: 'recorded' as const, gestureId: row.id, name: row.name };
}

export async function startRamp(input: InferType<typeof rampInput>): Promise<string> {
  const { family, most, seconds, scales, threads, warm } = input;
  return queueTest(
    await targetOf(input),
    { kind: 'ramp', family, most, seconds, scales, threads, warm },
    input,
  );
}

export async function startCosts(input: InferType<typeof costsInput>): Promise<string> {
  return queueTest(
    await targetOf(input),
    { kind: 'costs', threads: input.threads, warm: true },
    { read: 'originals', volumeId: null },
  );
}

export async function requireTest(id: string): Promise<TimelineTestRow> {
  const test = await getTimelineTest(id);
  if (!test) throw new RequestError('There is no result with this address. It may have been removed.', 404);
  return test;
}

export async function testsOfRig(
  kinds: readonly TimelineTestSettings['kind'][] = ['scrub', 'ramp', 'costs'],
) {
  return listTimelineTests(await currentRigId(), kinds);
}

/** Tests with their records, to be laid over each other; in the order asked for. */
export async function testsByIds(ids: readonly string[]): Promise<TimelineTestRow[]> {
  const rows = new Map((await getTimelineTests(ids)).map((row) => [row.id, row]));
  return ids.flatMap((id) => rows.get(id) ?? []);
}

export async function cancelTest(id: string): Promise<void> {
  await requireTest(id);
  if (
    await updateTimelineTest(id, ['queued'], {
      status: 'cancelled',
      outcome: 'Cancelled before it began.',
      endedAt: new Date(),
    })
  ) {
    await publish({ type: 'test-status', trialId: id, status: 'cancelled' });
    return;
  }
  // Asked anew: it may have begun since.
  if ((await requireTest(id)).status !== 'running') throw new RequestError('This has ended already.', 409);
  await publish({ type: 'cancel', trialId: id });
}

export async function deleteTest(id: string): Promise<void> {
  const { status } = await requireTest(id);
  if (status === 'running' || status === 'queued')
    throw new RequestError('Cancel it first, then remove it.', 409);
  await removeTimelineTest(id);
}

export async function saveGesture(name: string, gesture: Gesture): Promise<string> {
  const problem = gestureProblem(gesture);
  if (problem) throw new RequestError(problem);
  const id = newTrialId();
  await addGesture({ id, name, gesture });
  return id;
}

export { listGestures as gesturesKept, removeGesture as forgetGesture };
