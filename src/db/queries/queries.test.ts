import { smallIntra, smallTenBit } from '@/demo/smallClips';
import type { TrialStatus } from '../kinds';
import { thisRigId } from '@/engine/rig';
import { emptyVolume, newId, scannedClip, storedTrial, onTestDatabase } from '@/server/testing/testDatabase';
import { getClip, getPacketTable, listClipsOfVolume, markMissing, saveClip } from './clips';
import { removeDemoData } from './demo';
import { getRig, getRunner, saveRig, saveRunner, updateRig } from './rigs';
import {
  getTrial,
  listSamples,
  listTraceBatches,
  listTrialIds,
  listTrials,
  countTrials,
  removeTrial,
  getCharges,
  saveCharges,
  saveSample,
  saveTraceBatch,
  updateTrial,
} from './trials';
import { getAnnotations, saveAnnotation } from './results';
import { findVolumeByPath, getVolume, listVolumes, removeVolume, setScan } from './volumes';

onTestDatabase();

const unreadable = {
  sizeBytes: 10,
  modifiedAt: new Date(5),
  status: 'unplayable',
  problem: 'no media',
} as const;

test('a rig that is read again keeps the name it was given', async () => {
  const id = await thisRigId();
  const { identity } = (await getRig(id))!;
  await updateRig(id, { name: 'Slipway, edit room 2', currency: 'CHF' });
  await saveRig(id, { ...identity, kernel: 'newer' }, 'This rig');
  expect(await getRig(id)).toMatchObject({ name: 'Slipway, edit room 2', identity: { kernel: 'newer' } });
});

test('a runner is known by its last sign of life', async () => {
  const rigId = await thisRigId();
  expect(await getRunner('rig-unknown')).toBeNull();
  await saveRunner({ rigId, pid: 10, picturePort: 4000, trialPid: null });
  await saveRunner({ rigId, pid: 11, picturePort: 4001, trialPid: 12 });
  const runner = (await getRunner(rigId))!;
  expect(runner).toMatchObject({ pid: 11, picturePort: 4001, trialPid: 12 });
  expect(runner.silentSeconds).toBeGreaterThanOrEqual(0);
  expect(runner.silentSeconds).toBeLessThan(60);
});

test('a clip and its packet table are replaced together, and go with their volume', async () => {
  const volume = await emptyVolume();
  const id = newId('clip');
  await saveClip({ id, volumeId: volume.id, path: 'a.mov', ...unreadable }, Uint8Array.from([1, 2, 3]));
  await saveClip(
    { id, volumeId: volume.id, path: 'a.mov', ...unreadable, problem: 'still none' },
    Uint8Array.from([4]),
  );
  expect(await getClip(id)).toMatchObject({ problem: 'still none', volumePath: volume.folder });
  expect([...(await getPacketTable(id))!]).toEqual([4]);
  await saveClip({ id, volumeId: volume.id, path: 'a.mov', ...unreadable }, null);
  expect(await getPacketTable(id)).toBeNull();
  await removeVolume(volume.id);
  expect(await getClip(id)).toBeNull();
});

test('clips that a scan did not find are marked, all others left alone', async () => {
  const [volume, other] = [await emptyVolume(), await emptyVolume()];
  for (const [volumeId, path] of [
    [volume.id, 'here.mov'],
    [volume.id, 'gone.mov'],
    [other.id, 'gone.mov'],
  ] as const)
    await saveClip({ id: newId('clip'), volumeId, path, ...unreadable }, null);
  const idsOf = async (id: string, paths: readonly string[]) =>
    (await listClipsOfVolume(id)).filter(({ path }) => paths.includes(path)).map((clip) => clip.id);
  await markMissing(await idsOf(volume.id, ['gone.mov']));
  const statuses = async (id: string) =>
    Object.fromEntries((await listClipsOfVolume(id)).map(({ path, status }) => [path, status]));
  expect(await statuses(volume.id)).toEqual({ 'here.mov': 'unplayable', 'gone.mov': 'missing' });
  expect(await statuses(other.id)).toEqual({ 'gone.mov': 'unplayable' });
  await markMissing(await idsOf(volume.id, ['here.mov', 'gone.mov']));
  expect(await statuses(volume.id)).toEqual({ 'here.mov': 'missing', 'gone.mov': 'missing' });
});

test('volumes are listed with how many clips they hold and how many have a problem', async () => {
  const clip = await scannedClip(smallTenBit);
  await saveClip({ id: newId('clip'), volumeId: clip.volumeId, path: 'broken.mov', ...unreadable }, null);
  const rigId = await thisRigId();
  const listed = (await listVolumes(rigId)).find(({ id }) => id === clip.volumeId)!;
  expect(listed.problemCount).toBe(1);
  expect(listed.clipCount).toBeGreaterThanOrEqual(2);
  expect((await findVolumeByPath(rigId, clip.volumePath))?.path).toBe(clip.volumePath);
  expect(await findVolumeByPath('rig-unknown', clip.volumePath)).toBeNull();
  await setScan(clip.volumeId, { done: 1, total: 2, startedAt: 'now', error: null });
  expect((await getVolume(clip.volumeId))!.scan).toMatchObject({ done: 1, total: 2 });
});

test('a trial changes only from a status it has', async () => {
  const id = await storedTrial(await scannedClip(smallTenBit));
  expect(await updateTrial(id, ['running'], { outcome: 'never' })).toBe(false);
  expect(await updateTrial(id, ['queued', 'running'], { status: 'running' })).toBe(true);
  expect(await updateTrial(id, ['queued'], { status: 'cancelled' })).toBe(false);
  expect(await getTrial(id)).toMatchObject({ status: 'running', outcome: null });
});

test('trials are listed newest first, by kind and by status', async () => {
  const clip = await scannedClip(smallTenBit);
  const rigId = await thisRigId();
  const queued = () => countTrials({ rigId, statuses: ['queued'] });
  const latest = async (statuses?: readonly TrialStatus[]) =>
    (await listTrials({ rigId, kinds: ['self-check'], ...(statuses ? { statuses } : {}) }, 1))[0]?.id;
  const before = await queued();
  const older = await storedTrial(clip, { createdAt: new Date(Date.now() + 1_000) });
  const newer = await storedTrial(clip, { createdAt: new Date(Date.now() + 2_000), status: 'done' });
  const check = await storedTrial(clip, { kind: 'self-check', status: 'done' });
  const listed = await listTrials({ rigId, kinds: ['playback'] }, 2);
  expect(listed.map(({ id }) => id)).toEqual([newer, older]);
  expect(await latest()).toBe(check);
  const waiting = await storedTrial(clip, {
    kind: 'self-check',
    createdAt: new Date(Date.now() + 3_000),
    status: 'cancelled',
  });
  expect(await latest()).toBe(waiting);
  expect(await latest(['done'])).toBe(check);
  expect(await queued()).toBe(before + 1);
  expect((await listTrialIds({ rigId, statuses: ['queued'] })).map(({ id }) => id)).toContain(older);
  expect(Object.keys(listed[0]!)).not.toContain('record'); // a list stays light
});

test('pieces of a trace come in order, and one saved twice changes nothing', async () => {
  const id = await storedTrial(await scannedClip(smallTenBit));
  for (const [from, slots, byte] of [
    [10, 5, 2],
    [0, 10, 1],
    [10, 5, 9],
  ] as const)
    await saveTraceBatch(id, from, slots, Buffer.from([byte]));
  expect((await listTraceBatches(id)).map(({ fromSlot, slots, data }) => [fromSlot, slots, data[0]])).toEqual(
    [
      [0, 10, 1],
      [10, 5, 2],
    ],
  );
  expect((await listTraceBatches(id, 10)).map(({ fromSlot }) => fromSlot)).toEqual([10]);
  await saveSample({ trialId: id, at: new Date(2), trialLoad: 0.5, othersLoad: 0.1, freeMemoryBytes: 7e9 });
  await saveSample({ trialId: id, at: new Date(1), trialLoad: 0.4, othersLoad: 0.1, freeMemoryBytes: 7e9 });
  expect((await listSamples(id)).map(({ trialLoad }) => trialLoad)).toEqual([0.4, 0.5]);
  await saveCharges(id, Buffer.from([1, 2]));
  await saveAnnotation(id, 'loud', null);
  expect([...(await getCharges(id))!]).toEqual([1, 2]);
  await removeTrial(id);
  expect([await listTraceBatches(id), await listSamples(id)]).toEqual([[], []]);
  expect([await getCharges(id), (await getAnnotations([id])).size]).toEqual([null, 0]);
});

test('resetting the demo removes what the demo made and nothing else', async () => {
  const [mine, demo] = [await scannedClip(smallTenBit), await scannedClip(smallIntra, 1)];
  const [myTrial, demoTrial] = [await storedTrial(mine), await storedTrial(demo)];
  expect(await removeDemoData()).toEqual({ volumes: 1, trials: 1 });
  expect([await getTrial(demoTrial), await getVolume(demo.volumeId), await getClip(demo.id)]).toEqual([
    null,
    null,
    null,
  ]);
  expect((await getTrial(myTrial))?.clipId).toBe(mine.id);
  await removeVolume(mine.volumeId);
  expect(await getTrial(myTrial)).toMatchObject({ clipId: null, subject: { clipPath: mine.path } }); // the result stays whole
});
