import { randomUUID } from 'node:crypto';
import type { InferType } from 'yup';
import { addVolume, findVolumeByPath, getVolume, listVolumes, removeVolume, setScan } from '@/db/queries/volumes';
import { listClips } from '@/db/queries/clips';
import { inspectFolder } from '@/engine/volume';
import { RequestError } from './errors';
import { sendJob } from './queue';
import { currentRigId } from './rig';
import type { volumeInput } from './validation';

/** Adds a folder of this host as a volume and asks for its first scan. Returns the volume's id. */
export async function createVolume(input: InferType<typeof volumeInput>): Promise<string> {
  const rigId = await currentRigId();
  const { path, facts } = await inspectFolder(input.path);
  const known = await findVolumeByPath(rigId, path);
  if (known) throw new RequestError(`${path} is the volume "${known.name}" already. Scan it again, or choose another folder.`, 409, 'path');
  const id = `volume-${randomUUID()}`;
  await addVolume({ id, rigId, name: input.name, kind: input.kind, path, facts });
  await requestScan(id);
  return id;
}

/** Asks the runner to scan a volume; it does so between trials. */
export async function requestScan(id: string): Promise<void> {
  const volume = await getVolume(id);
  if (!volume) throw new RequestError('This volume is no longer in the list. Load the page again.', 404);
  await setScan(id, { done: 0, total: 0, startedAt: new Date().toISOString(), error: null });
  await sendJob(volume.rigId, { kind: 'scan', volumeId: id });
}

export async function deleteVolume(id: string): Promise<void> {
  await removeVolume(id);
}

export async function volumesOfRig() {
  return listVolumes(await currentRigId());
}

/** The clips of all volumes as the media table shows them: without decoder set-up. */
export async function clipsOfRig() {
  return (await listClips(await currentRigId())).map(({ setup: _setup, timeBase: _timeBase, ...clip }) => clip);
}

export type LibraryClip = Awaited<ReturnType<typeof clipsOfRig>>[number];
