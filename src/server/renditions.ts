import { randomBytes, randomUUID } from 'node:crypto';
import type { InferType } from 'yup';
import { presetOf, renditionName, settingsKey, type RenditionChoice } from '@/core/rendition/presets';
import { getClips, listClips } from '@/db/queries/clips';
import {
  addRenditionJob,
  getRenditionJob,
  listRenditionItems,
  listRenditionJobs,
  removeRenditionJob,
  updateRenditionJob,
  type RenditionJobRow,
} from '@/db/queries/renditions';
import { RequestError } from './errors';
import { publish } from './events';
import { requireVolume, volumesOfRig } from './library';
import { plainFolder } from './paths';
import { sendJob } from './queue';
import { currentRigId } from './rig';
import type { renditionInput } from './validation';

/** Queues a batch of renditions. Returns its id. @throws RequestError when a clip or the volume cannot serve */
export async function startRenditions({
  clipIds,
  presetId,
  raster,
  volumeId,
  folder,
  lanes,
}: InferType<typeof renditionInput>): Promise<string> {
  const volume = await requireVolume(volumeId);
  if (!volume.facts.writable)
    throw new RequestError(`${volume.name} is read-only. Choose another volume.`, 409, 'volumeId');
  const clips = await getClips(clipIds);
  const choice: RenditionChoice = { presetId, raster };
  const into = plainFolder(folder, 'folder');
  const id = randomBytes(5).toString('hex');
  const taken = new Set<string>();
  const items = clipIds.map((clipId, position) => {
    const clip = clips.find((found) => found.id === clipId);
    if (!clip)
      throw new RequestError(
        'Some of these clips are no longer in the library. Load the page again.',
        404,
        'clipIds',
      );
    if (clip.status !== 'ready' || !clip.format || !clip.identity)
      throw new RequestError(
        `${clip.path}: ${clip.problem ?? 'it was not read fully. Scan its volume again.'}`,
        409,
        'clipIds',
      );
    if (presetOf(presetId).needsConstantRate && !clip.identity.timing.constant)
      throw new RequestError(
        `${clip.path} has a variable rate, which ${presetOf(presetId).name} cannot keep. Choose another preset or leave the clip out.`,
        409,
        'presetId',
      );
    return {
      id: randomUUID(),
      jobId: id,
      position,
      sourceClipId: clip.id,
      sourcePath: clip.path,
      sourceHash: clip.contentHash,
      sourceFormat: clip.format,
      sourceFrames: clip.frames ?? 0,
      sourceBytes: clip.sizeBytes,
      settingsKey: settingsKey(choice),
      status: 'waiting' as const,
      outputPath: freeName(`${into === '' ? '' : `${into}/`}${renditionName(clip.path, choice)}`, taken),
    };
  });
  await addRenditionJob(
    {
      id,
      rigId: volume.rigId,
      status: 'queued',
      demo: volume.demo,
      settings: {
        ...choice,
        volumeId,
        volumeName: volume.name,
        simulated: volume.standIn !== null,
        folder: into,
        lanes,
      },
    },
    items,
  );
  await send(id, volume.rigId);
  return id;
}

/** A name that no other of the batch has: clips of different folders may be called alike. */
function freeName(path: string, taken: Set<string>): string {
  let free = path;
  for (let number = 2; taken.has(free); number++) free = path.replace(/\.mov$/, `_${number}.mov`);
  taken.add(free);
  return free;
}

async function send(id: string, rigId: string): Promise<void> {
  await sendJob(rigId, { kind: 'rendition', trialId: id });
  await publish({ type: 'rendition-status', jobId: id, status: 'queued' });
}

/** Takes a waiting batch out of the queue, or stops a running one; what is made stays. */
export async function cancelRenditions(id: string): Promise<void> {
  await requireRenditionJob(id);
  if (
    await updateRenditionJob(id, ['queued', 'paused'], {
      status: 'cancelled',
      outcome: 'Cancelled.',
      endedAt: new Date(),
    })
  ) {
    await publish({ type: 'rendition-status', jobId: id, status: 'cancelled' });
    return;
  }
  // Asked anew: it may have begun since.
  if ((await requireRenditionJob(id)).status !== 'running')
    throw new RequestError('This batch has ended already.', 409);
  await publish({ type: 'cancel', trialId: id });
}

/** Pauses a running batch, the rig is free meanwhile; or one that waits. */
export async function pauseRenditions(id: string): Promise<void> {
  await requireRenditionJob(id);
  if (await updateRenditionJob(id, ['queued'], { status: 'paused', outcome: 'Paused before it began.' })) {
    await publish({ type: 'rendition-status', jobId: id, status: 'paused' });
    return;
  }
  if ((await requireRenditionJob(id)).status !== 'running')
    throw new RequestError('This batch does not run.', 409);
  await publish({ type: 'pause', trialId: id });
}

/** Queues a batch again: what is made stays, what waits or failed is made. */
export async function resumeRenditions(id: string): Promise<void> {
  const job = await requireRenditionJob(id);
  const left = (await listRenditionItems(id)).some(
    ({ status }) => status === 'waiting' || status === 'failed',
  );
  if (
    !left ||
    !(await updateRenditionJob(id, ['paused', 'interrupted', 'failed', 'cancelled', 'done'], {
      status: 'queued',
      outcome: null,
      endedAt: null,
    }))
  )
    throw new RequestError('This batch has nothing left to do.', 409);
  await send(id, job.rigId);
}

export async function deleteRenditions(id: string): Promise<void> {
  const job = await requireRenditionJob(id);
  if (job.status === 'running' || job.status === 'queued')
    throw new RequestError('Cancel the batch first, then remove it.', 409);
  await removeRenditionJob(id);
}

export async function requireRenditionJob(id: string): Promise<RenditionJobRow> {
  const job = await getRenditionJob(id);
  if (!job)
    throw new RequestError(
      'There is no batch of renditions with this address. It may have been removed.',
      404,
    );
  return job;
}

export async function readRenditionPage(id: string) {
  return { job: await requireRenditionJob(id), items: await listRenditionItems(id) };
}
export type RenditionPage = Awaited<ReturnType<typeof readRenditionPage>>;

/** Batches, and what a new one can be made of and go to. */
export async function readRenditionsPage() {
  const rigId = await currentRigId();
  const [jobs, volumes, clips] = await Promise.all([
    listRenditionJobs(rigId),
    volumesOfRig(),
    listClips(rigId),
  ]);
  return {
    jobs,
    volumes: volumes
      .filter(({ facts }) => facts.writable)
      .map(({ id, name, standIn }) => ({ id, name, simulated: standIn !== null })),
    clips: clips
      .filter(({ status }) => status === 'ready')
      .map(({ id, path, volumeName, volumeId, volumeStandIn, format, frames }) => ({
        id,
        path,
        volumeName,
        volumeId,
        simulated: volumeStandIn !== null,
        format,
        frames,
      })),
  };
}
export type RenditionsPage = Awaited<ReturnType<typeof readRenditionsPage>>;
