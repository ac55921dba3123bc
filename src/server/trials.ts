import type { InferType } from 'yup';
import { recoverServices } from '@/core/playback/measuredWork';
import { rateOf } from '@/core/playback/subject';
import { defaultBufferDepths } from '@/core/playback/slots';
import { viewOfTrace, encodeTraceView } from '@/core/playback/traceView';
import { intraGraph } from '@/core/playback/work';
import { getClip, listClips, type ClipWithVolume } from '@/db/queries/clips';
import {
  addTrial,
  getTrial,
  latestTrial,
  listTrialTable,
  removeTrial,
  updateTrial,
  type TrialRow,
  type TrialTableRow,
} from '@/db/queries/trials';
import { getRig } from '@/db/queries/rigs';
import { getVolume } from '@/db/queries/volumes';
import type { ClipSubject, PlanTemplate, TrialKind } from '@/db/schema';
import type { InjectedFault } from '@/engine/playback/faults';
import type { PlaybackSettings } from '@/engine/playback/spec';
import { readAround } from './around';
import { RequestError } from './errors';
import { publish } from './events';
import { newTrialId } from './ids';
import { sendJob } from './queue';
import { currentRigId } from './rig';
import { playedGraph } from './timelineMedia';
import { loadTrace } from './traces';
import type { playbackInput } from './validation';

/** Queues a playback trial of a clip. Returns its id. */
export async function startPlayback(input: InferType<typeof playbackInput>): Promise<string> {
  const clip = await playableClip(input.clipId);
  const { scale, policy, threads, warm } = input;
  return queueTrial('playback', clip, {
    scale,
    policy,
    threads,
    warm,
    processing: true,
    buffers: defaultBufferDepths,
    slotLimit: null,
    faults: [],
  });
}

/** Where the self-check holds a stage back. Far enough apart that the read-ahead recovers between them. */
export const selfCheckFaults: readonly InjectedFault[] = [
  { stage: 'read', slot: 36, slots: 1 },
  { stage: 'read', slot: 64, slots: 3 },
  { stage: 'decode', slot: 92, slots: 1 },
  { stage: 'decode', slot: 112, slots: 4 },
  { stage: 'process', slot: 136, slots: 1 },
  { stage: 'process', slot: 156, slots: 2 },
];
/** Slots a self-check plays: enough for its last fault to pass and the buffers to fill again. */
export const selfCheckSlots = 180;

/** Queues a self-check on the lightest intra clip of this rig that is long enough. Returns its id. */
export async function startSelfCheck(): Promise<string> {
  const rigId = await currentRigId();
  const running = await latestTrial(rigId, 'self-check');
  if (running && ['queued', 'running'].includes(running.status))
    throw new RequestError('A self-check is under way already. Wait for its result.', 409);
  const weight = (clip: ClipWithVolume) =>
    clip.format
      ? clip.format.width * clip.format.height * (clip.format.rate.num / clip.format.rate.den)
      : Infinity;
  const [lightest] = (await listClips(rigId))
    .filter(
      (clip) => clip.status === 'ready' && clip.structure?.intra && (clip.frames ?? 0) >= selfCheckSlots,
    )
    .sort((a, b) => weight(a) - weight(b));
  if (!lightest)
    throw new RequestError(
      `The self-check needs an all-intra clip of at least ${selfCheckSlots} frames. Add a volume with one on the Storage page, for example a proxy.`,
      409,
    );
  return queueTrial('self-check', lightest, {
    scale: 'full',
    policy: 'hold-time',
    threads: 0,
    warm: false,
    processing: true,
    buffers: defaultBufferDepths,
    slotLimit: selfCheckSlots,
    faults: selfCheckFaults,
  });
}

async function playableClip(id: string): Promise<ClipWithVolume> {
  const clip = await getClip(id);
  if (!clip) throw new RequestError('This clip is no longer in the library. Choose another.', 404, 'clipId');
  if (clip.status !== 'ready')
    throw new RequestError(clip.problem ?? 'This clip cannot be played.', 409, 'clipId');
  return clip;
}

/** A trial of a clip as a row without identity. */
export async function clipTrial(
  kind: TrialKind,
  clip: ClipWithVolume,
  settings: PlaybackSettings,
): Promise<Extract<PlanTemplate, { kind: 'trial' }>['row']> {
  const volume = await getVolume(clip.volumeId);
  if (!volume || !clip.format || !clip.structure || clip.frames === null)
    throw new RequestError('This clip was not read fully. Scan its volume again.', 409, 'clipId');
  const subject: ClipSubject = {
    clipPath: clip.path,
    volumeId: volume.id,
    volumeName: volume.name,
    volumeKind: volume.kind,
    volumeFacts: volume.facts,
    standIn: volume.standIn,
    contentHash: clip.contentHash,
    format: clip.format,
    structure: clip.structure,
    frames: clip.frames,
    startTimecode: clip.startTimecode,
  };
  return {
    kind,
    clipId: clip.id,
    subject,
    settings,
    slotCount: settings.slotLimit ?? clip.frames,
    demo: volume.demo,
  };
}

async function queueTrial(
  kind: TrialKind,
  clip: ClipWithVolume,
  settings: PlaybackSettings,
): Promise<string> {
  const rigId = await currentRigId();
  const id = newTrialId();
  await addTrial({ id, rigId, status: 'queued', ...(await clipTrial(kind, clip, settings)) });
  await sendJob(rigId, { kind: 'trial', trialId: id });
  await publish({ type: 'trial-status', trialId: id, status: 'queued' });
  return id;
}

/** Takes a waiting trial out of the queue, or stops a running one; what it measured is kept. */
export async function cancelTrial(id: string): Promise<void> {
  await requireTrial(id);
  if (
    await updateTrial(id, ['queued'], {
      status: 'cancelled',
      outcome: 'Cancelled before it began.',
      endedAt: new Date(),
    })
  ) {
    await publish({ type: 'trial-status', trialId: id, status: 'cancelled' });
    return;
  }
  // Asked anew: it may have begun since.
  if ((await requireTrial(id)).status !== 'running')
    throw new RequestError('This trial has ended already.', 409);
  await updateTrial(id, ['running'], { cancelRequestedAt: new Date() });
  await publish({ type: 'cancel', trialId: id });
}

/** Removes an ended trial with its trace. */
export async function deleteTrial(id: string): Promise<void> {
  const trial = await requireTrial(id);
  if (trial.status === 'running' || trial.status === 'queued')
    throw new RequestError('Cancel the trial first, then remove it.', 409);
  await removeTrial(id);
}

export async function requireTrial(id: string): Promise<TrialRow> {
  const trial = await getTrial(id);
  if (!trial) throw new RequestError('There is no trial with this address. It may have been removed.', 404);
  return trial;
}

export function slotUsOf(trial: Pick<TrialRow, 'subject'>): number {
  const { num, den } = rateOf(trial.subject);
  return (1e6 * den) / num;
}

/** What the page draws of a trial's trace, packed. */
export async function traceViewOf(id: string): Promise<Uint8Array> {
  const trial = await requireTrial(id);
  const trace = await loadTrace(id);
  const { policy, buffers } = trial.settings;
  // Without the clip's packet table (its volume was removed) the order of decoding is not known any more.
  const graph = (await playedGraph(trial, trace.length))?.graph ?? intraGraph(trace.length);
  const { services } = recoverServices(trace, graph, slotUsOf(trial), policy, buffers);
  return encodeTraceView(
    viewOfTrace(trace, trial.charges, slotUsOf(trial), services, trial.conditions?.run?.faults?.doubtful),
  );
}

/** Runs of one timeline, newest first. */
export async function runsOfTimeline(timelineId: string): Promise<TrialTableRow[]> {
  return listTrialTable(await currentRigId(), 'playback', timelineId);
}

export async function playbackTrials() {
  return listTrialTable(await currentRigId(), 'playback');
}

/** What a trial's page shows besides its trace. */
export async function readTrialPage(id: string) {
  const { charges: _charges, ...trial } = await requireTrial(id);
  const [around, rig] = await Promise.all([readAround(id), getRig(trial.rigId)]);
  return { trial, ...around, rig: { name: rig?.name ?? 'unknown rig', imported: rig?.imported ?? null } };
}

export type TrialPage = Awaited<ReturnType<typeof readTrialPage>>;
