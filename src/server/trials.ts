import type { InferType } from 'yup';
import { recoverServices } from '@/core/playback/measuredWork';
import { rateOf } from '@/core/playback/subject';
import { defaultBufferDepths } from '@/core/playback/slots';
import { viewOfTrace, encodeTraceView } from '@/core/playback/traceView';
import { intraGraph } from '@/core/playback/work';
import { getClip, listClips, type ClipWithVolume } from '@/db/queries/clips';
import { playedKinds, type PlayedKind } from '@/core/kinds/kinds';
import { countTrials, getCharges, listTimelineRuns, type TimelineRun } from '@/db/queries/trials';
import { getVolume } from '@/db/queries/volumes';
import type { NewTrial, PlayedTrial } from '@/db/kinds';
import { RequestError } from './errors';
import { currentRigId } from './rig';
import { playedGraph } from './timelineMedia';
import { loadTrace } from './traces';
import { queueTrial, requireTrial } from './trialControls';
import type { InjectedFault } from '@/core/playback/injectedFault';
import type { PlaybackSettings } from '@/core/playback/settings';
import type { ClipSubject } from '@/core/kinds/shared/played';
import type { playbackInput } from '@/core/kinds/playback';

/** Queues a playback trial of a clip. Returns its id. */
export async function startPlayback(input: InferType<typeof playbackInput>): Promise<string> {
  const clip = await playableClip(input.clipId);
  const { scale, policy, threads, warm } = input;
  return queueClip('playback', clip, {
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
  if ((await countTrials({ rigId, kinds: ['self-check'], statuses: ['queued', 'running'] })) > 0)
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
  return queueClip('self-check', lightest, {
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

async function queueClip(
  kind: PlayedKind,
  clip: ClipWithVolume,
  settings: PlaybackSettings,
): Promise<string> {
  return queueTrial(await clipTrial(kind, clip, settings));
}

/** A trial of a clip that is to be made. */
export async function clipTrial(
  kind: PlayedKind,
  clip: ClipWithVolume,
  settings: PlaybackSettings,
): Promise<NewTrial<PlayedKind>> {
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
    volumeIds: [volume.id],
    subject,
    settings,
    progress: { slotCount: settings.slotLimit ?? clip.frames },
    simulated: volume.standIn !== null,
    demo: volume.demo,
  };
}

export function slotUsOf(trial: Pick<PlayedTrial, 'subject'>): number {
  const { num, den } = rateOf(trial.subject);
  return (1e6 * den) / num;
}

/** What the page draws of a trial's trace, packed. */
export async function traceViewOf(id: string): Promise<Uint8Array> {
  const trial = await requireTrial(id, playedKinds);
  const [trace, charges] = await Promise.all([loadTrace(id), getCharges(id)]);
  const { policy, buffers } = trial.settings;
  // Without the clip's packet table (its volume was removed) the order of decoding is not known any more.
  const graph = (await playedGraph(trial, trace.length))?.graph ?? intraGraph(trace.length);
  const { services } = recoverServices(trace, graph, slotUsOf(trial), policy, buffers);
  return encodeTraceView(
    viewOfTrace(trace, charges, slotUsOf(trial), services, trial.conditions?.run?.faults?.doubtful),
  );
}

/** Runs of one timeline, newest first. */
export async function runsOfTimeline(timelineId: string): Promise<TimelineRun[]> {
  return listTimelineRuns(await currentRigId(), timelineId);
}
