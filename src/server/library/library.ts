import { randomUUID } from 'node:crypto';
import type { InferType } from '@/core/edge/strict';
import type { StorageModel } from '@/core/storage/model';
import { standInModel, standInProblem } from '@/core/storage/standInChoice';
import {
  addVolume,
  findVolumeByPath,
  getVolume,
  listVolumes,
  removeVolume,
  setScan,
  updateVolume,
  type VolumeRow,
} from '@/db/queries/volumes';
import { inspectFolder } from '@/engine/volume';
import { RequestError } from '../platform/errors';
import { sendJob } from '../platform/queue';
import { currentRigId } from '../platform/rig';
import { allowedRoots } from './roots';
import type { volumeChange, volumeInput } from '@/core/asked/volumes';

/** Adds a folder of this host as a volume and asks for its first scan. Returns the volume's id. */
export async function createVolume(input: InferType<typeof volumeInput>): Promise<string> {
  const rigId = await currentRigId();
  const standIn = modelFrom(input.standIn);
  const { path, facts } = await inspectFolder(input.path, allowedRoots());
  // Several stand-ins may share a folder: the same store over different links.
  const known = standIn ? null : await findVolumeByPath(rigId, path);
  if (known) throw new RequestError('volume-known', { path, name: known.name }, 'path');
  const id = `volume-${randomUUID()}`;
  await addVolume({ id, rigId, kind: input.kind, path, facts, ...described(input, standIn) });
  await requestScan(id);
  return id;
}

/** Changes what a person has noted of a volume, and a stand-in's model. Trials keep what they were made under. */
export async function changeVolume(id: string, input: InferType<typeof volumeChange>): Promise<void> {
  const volume = await requireVolume(id);
  if (Boolean(volume.standIn) !== Boolean(input.standIn))
    throw new RequestError('simulated-stays-so', {}, 'standIn');
  await updateVolume(id, described(input, modelFrom(input.standIn)));
}

function described(
  { name, link, notes, price, cacheGigabytes }: InferType<typeof volumeChange>,
  standIn: StorageModel | null,
) {
  return {
    name,
    notes,
    price,
    standIn,
    link: standIn ? standIn.link.label : link,
    cacheBytes: standIn ? standIn.cache.bytes : cacheGigabytes * 1e9,
  };
}

function modelFrom(choice: InferType<typeof volumeChange>['standIn']): StorageModel | null {
  if (!choice) return null;
  const problem = standInProblem(choice);
  if (problem) throw RequestError.of({ ...problem, field: 'standIn' });
  return standInModel(choice);
}

export async function requireVolume(id: string): Promise<VolumeRow> {
  const volume = await getVolume(id);
  if (!volume) throw new RequestError('volume-gone');
  return volume;
}

/** Asks the runner to scan a volume; it does so between trials. */
export async function requestScan(id: string): Promise<void> {
  const volume = await requireVolume(id);
  await setScan(id, { done: 0, total: 0, startedAt: new Date().toISOString(), error: null });
  await sendJob(volume.rigId, { kind: 'scan', volumeId: id });
}

export async function deleteVolume(id: string): Promise<void> {
  await requireVolume(id);
  await removeVolume(id);
}

export async function volumesOfRig() {
  return listVolumes(await currentRigId());
}

/** Volumes that something can be written to, as forms offer them. */
export async function writableVolumes() {
  return (await volumesOfRig())
    .filter(({ facts }) => facts.writable)
    .map(({ id, name, standIn }) => ({ id, name, simulated: standIn !== null }));
}
