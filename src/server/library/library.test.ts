import { copyFile, mkdir, rm, symlink, truncate, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { decodePacketTable } from '@/core/media/packetTable';
import { getPacketTable, listClipsOfVolume } from '@/db/queries/clips';
import { getVolume } from '@/db/queries/volumes';
import { smallLongGop, smallTenBit } from '@/demo/smallClips';
import { smallClip, workFolder } from '@/engine/testing/testTrial';
import { changeVolume, createVolume, deleteVolume, requestScan, volumesOfRig } from './library';
import { scanVolume } from '../runner/shared/scan';
import { volumeChange, volumeInput } from '@/core/asked/volumes';
import { emptyVolume, libraryClips, newId, onTestDatabase, testReader } from '../testing/testDatabase';

onTestDatabase();

/** A volume as the form sends it, with what was left out filled in. */
const typed = (form: object) => volumeInput.validate(form);

const statusesOf = async (id: string) =>
  Object.fromEntries((await listClipsOfVolume(id)).map(({ path, status }) => [path, status]));

test('a folder becomes a volume once, by whatever path it is given', async () => {
  const folder = join(await workFolder(), newId('folder'));
  await mkdir(folder);
  const id = await createVolume(await typed({ name: 'Field disk A', kind: 'external', path: folder }));
  expect(await getVolume(id)).toMatchObject({
    name: 'Field disk A',
    kind: 'external',
    path: folder,
    scan: { done: 0, error: null },
  });
  await symlink(folder, `${folder}-link`);
  await expect(
    createVolume(await typed({ name: 'Again', kind: 'card', path: `${folder}-link` })),
  ).rejects.toMatchObject({
    status: 409,
    field: 'path',
    message: `${folder} is the volume "Field disk A" already. Scan it again, or choose another folder.`,
  });
  await expect(
    createVolume(await typed({ name: 'None', kind: 'card', path: join(folder, 'nothing') })),
  ).rejects.toThrow('is not there');
  await deleteVolume(id);
  expect((await volumesOfRig()).map((volume) => volume.id)).not.toContain(id);
  await expect(requestScan(id)).rejects.toMatchObject({ status: 404 });
});

test('a folder outside the allowed roots, or a link that leads out, is refused with what to do', async () => {
  await expect(createVolume(await typed({ name: 'Out', kind: 'card', path: '/etc' }))).rejects.toThrow(
    /lies outside the folders that Navvy may use: .*NAVVY_ROOTS/,
  );
  await expect(
    createVolume(await typed({ name: 'Out', kind: 'card', path: `${await workFolder()}/../..` })),
  ).rejects.toThrow('lies outside');
  const way = join(await workFolder(), newId('way'));
  await symlink('/etc', way);
  await expect(createVolume(await typed({ name: 'Out', kind: 'card', path: way }))).rejects.toThrow(
    `${way} leads by a link to /etc, which lies outside`,
  );
});

test('stand-ins may share a folder, keep their model, and may change it', async () => {
  const { folder } = await emptyVolume();
  const standIn = {
    link: 'ethernet-1',
    drive: 'disk',
    level: 6,
    drives: 8,
    cacheGigabytes: 2,
    roundTripMs: 4,
    fault: { kind: 'drop-out', atSeconds: 2, seconds: 1 },
  };
  const form = { name: 'Store', kind: 'network', path: folder, standIn };
  const id = await createVolume(await typed(form));
  await createVolume(
    await typed({ ...form, name: 'Store again', standIn: { ...standIn, link: 'ethernet-10' } }),
  );
  const row = (await getVolume(id))!;
  expect(row).toMatchObject({
    link: '1 Gb/s Ethernet, normal frames',
    cacheBytes: 2e9,
    standIn: { level: 6, link: { roundTripUs: 4_000 }, fault: standIn.fault },
  });
  await changeVolume(
    id,
    await volumeChange.validate({
      name: 'Store, slower',
      notes: 'one drive out',
      standIn: { ...standIn, drives: 7, fault: null },
    }),
  );
  expect(await getVolume(id)).toMatchObject({
    name: 'Store, slower',
    notes: 'one drive out',
    standIn: { drives: 7, fault: null },
  });
  await expect(changeVolume(id, await volumeChange.validate({ name: 'Real' }))).rejects.toThrow(
    'A real volume does not become a simulated one',
  );
  await expect(
    createVolume(await typed({ ...form, standIn: { ...standIn, level: 10, drives: 3 } })),
  ).rejects.toThrow('Level 10 needs at least 4 drives.');
  await expect(
    typed({ ...form, standIn: { ...standIn, fault: { kind: 'drop-out', atSeconds: -1, seconds: 1 } } }),
  ).rejects.toThrow('The scripted fault has a figure that cannot be.');
  await expect(typed({ ...form, standIn: { ...standIn, drives: 'some' } })).rejects.toThrow(
    'Drives must be a number.',
  );
});

test('a scan tells ready, damaged, changed and missing files apart', async () => {
  const { id, folder } = await emptyVolume();
  await copyFile(await smallClip(smallLongGop), join(folder, 'kite.mp4'));
  await writeFile(join(folder, 'notes.mov'), 'no media');
  await scanVolume(id, await testReader());
  expect(await statusesOf(id)).toEqual({ 'kite.mp4': 'ready', 'notes.mov': 'unplayable' });
  const [kite] = (await libraryClips()).filter((clip) => clip.volumeId === id && clip.path === 'kite.mp4');
  expect(kite).toMatchObject({
    frames: smallLongGop.frames,
    startTimecode: '02:00:00:00',
    format: { codec: 'H.264', rate: { num: 25, den: 1 } },
  });
  expect(Object.keys(kite!)).not.toContain('setup'); // decoder set-up is no page's business
  const packets = decodePacketTable((await getPacketTable(kite!.id))!);
  expect(packets.length).toBe(smallLongGop.frames);

  // Replaced by a clip cut short, under the same name: read again, kept under the same id.
  await truncate(join(folder, 'kite.mp4'), packets.offset[60]);
  await rm(join(folder, 'notes.mov'));
  await scanVolume(id, await testReader());
  expect(await statusesOf(id)).toEqual({ 'kite.mp4': 'unplayable', 'notes.mov': 'missing' });
  const cut = (await listClipsOfVolume(id)).find(({ path }) => path === 'kite.mp4')!;
  expect(cut.id).toBe(kite!.id);
  expect(cut.problem).toMatch(/Cut short: the last \d+ frames/);
  expect(cut.contentHash).not.toBe(kite!.contentHash);

  // Put back whole: playable again.
  await copyFile(await smallClip(smallLongGop), join(folder, 'kite.mp4'));
  await scanVolume(id, await testReader());
  expect(await statusesOf(id)).toMatchObject({ 'kite.mp4': 'ready' });
  expect((await getVolume(id))!.scan).toBeNull();
  expect((await getVolume(id))!.scannedAt).not.toBeNull();
});

test('a file that has not changed is not read again', async () => {
  const { id, folder } = await emptyVolume();
  await copyFile(await smallClip(smallTenBit), join(folder, 'wall.mov'));
  await scanVolume(id, await testReader());
  const [first] = await listClipsOfVolume(id);
  await scanVolume(id, await testReader());
  const [second] = await listClipsOfVolume(id);
  expect(second!.scannedAt).toEqual(first!.scannedAt);
});

test('a volume that has gone says so in its scan and keeps its clips', async () => {
  const { id, folder } = await emptyVolume();
  await copyFile(await smallClip(smallTenBit), join(folder, 'wall.mov'));
  await scanVolume(id, await testReader());
  await rm(folder, { recursive: true });
  await scanVolume(id, await testReader());
  expect((await getVolume(id))!.scan!.error).toContain('is not there. Check that the volume is connected');
  expect(await statusesOf(id)).toEqual({ 'wall.mov': 'ready' });
});
