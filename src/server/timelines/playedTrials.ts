import { isSimulatedDecoding } from '@/core/decode/decoding';
import { recoverServices } from '@/core/playback/measuredWork';
import { rateOf } from '@/core/timeline/subject';
import { viewOfTrace, encodeTraceView } from '@/core/playback/traceView';
import { intraGraph } from '@/core/playback/work';
import { getClip, type ClipWithVolume } from '@/db/queries/clips';
import { playedKinds, type PlayedKind } from '@/core/kinds/kinds';
import { getCharges, listTimelineRuns, type TimelineRun } from '@/db/queries/trials';
import { getVolume } from '@/db/queries/volumes';
import type { NewTrial, PlayedTrial } from '@/db/kinds';
import { RequestError } from '../platform/errors';
import { currentRigId } from '../platform/rig';
import { playedGraph } from './timelineMedia';
import { loadTrace } from '../trials/traces';
import type { PlaybackSettings } from '@/core/playback/settings';
import type { ClipSubject } from '@/core/kinds/shared/played';
import { queueTrial, requireTrial } from '../platform/trialQueue';

export async function playableClip(id: string): Promise<ClipWithVolume> {
  const clip = await getClip(id);
  if (!clip) throw new RequestError('clip-gone', {}, 'clipId');
  if (clip.status !== 'ready')
    throw clip.problem === null
      ? new RequestError('clip-unplayable', {}, 'clipId')
      : new RequestError('clip-has-problem', { problem: clip.problem }, 'clipId');
  return clip;
}

export async function queueClip(
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
    throw new RequestError('clip-not-read', {}, 'clipId');
  const subject: ClipSubject = {
    clipPath: clip.path,
    volumeId: volume.id,
    volumeName: volume.name,
    volumeKind: volume.kind,
    volumeFacts: volume.facts,
    standIn: volume.standIn,
    contentHash: clip.contentHash,
    format: clip.format,
    scan: clip.identity?.scan ?? null,
    sound: clip.sound?.label ?? null,
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
    simulated: volume.standIn !== null || isSimulatedDecoding(settings.decoding),
    demo: volume.demo,
  };
}

function slotUsOf(trial: Pick<PlayedTrial, 'subject'>): number {
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
