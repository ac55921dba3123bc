import { copyFile, mkdir, readdir, readFile, rename, rm, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { Readable } from 'node:stream';
import type { ReadableStream } from 'node:stream/web';
import { getPreview, getSoundTable, listClipsOfVolume, saveClip, updateClips } from '@/db/queries/clips';
import { decodeSoundTable } from '@/core/media/soundTable';
import { soundSource } from '../timelines/timelineMedia';
import { getVolume } from '@/db/queries/volumes';
import { smallIntra, smallLongGop, smallTenBit } from '@/demo/smallClips';
import { smallClip } from '@/engine/testing/testTrial';
import { writeTestMedia } from '@/engine/testing/testMedia';
import { thisRigId } from '@/engine/rig';
import { actOnClips, framesOf, readClipPage, stripOf, uploadClip } from './media';
import { makePreviews } from '../runner/shared/previews';
import { scanVolume } from '../runner/shared/scan';
import { emptyVolume, libraryClips, newId, onTestDatabase, testReader } from '../testing/testDatabase';

onTestDatabase();

const clipAt = async (volumeId: string, path: string) =>
  (await listClipsOfVolume(volumeId)).find((clip) => clip.path === path)!;
const scan = async (id: string) => {
  await scanVolume(id, await testReader());
  return (await getVolume(id))!.lastScan!;
};

test('a scan tells added, moved, changed, touched and missing files apart by their content', async () => {
  const { id, folder } = await emptyVolume();
  await mkdir(join(folder, 'day 1'));
  await copyFile(await smallClip(smallTenBit), join(folder, 'day 1', 'wall.mov'));
  await copyFile(await smallClip(smallLongGop), join(folder, 'kite.mp4'));
  expect(await scan(id)).toMatchObject({ added: 2, changed: 0, moved: 0, missing: 0, same: 0 });
  const wall = await clipAt(id, 'day 1/wall.mov');

  await rename(join(folder, 'day 1', 'wall.mov'), join(folder, 'wall renamed.mov'));
  await writeFile(join(folder, 'kite.mp4'), await readFile(join(folder, 'kite.mp4'))); // touched, not changed
  expect(await scan(id)).toMatchObject({ added: 0, moved: 1, missing: 0, same: 1 });
  expect((await clipAt(id, 'wall renamed.mov')).id).toBe(wall.id);

  await rm(join(folder, 'wall renamed.mov'));
  await copyFile(await smallClip(smallIntra), join(folder, 'kite.mp4'));
  expect(await scan(id)).toMatchObject({ changed: 1, missing: 1 });
  await mkdir(join(folder, 'back'));
  await copyFile(await smallClip(smallTenBit), join(folder, 'back', 'wall.mov'));
  expect(await scan(id)).toMatchObject({ moved: 1, missing: 0 });
  expect(await clipAt(id, 'back/wall.mov')).toMatchObject({ id: wall.id, status: 'ready' });
});

test('a scan notes where sound lies; clips that were read before that are read again, whatever they hold', async () => {
  const { id, folder } = await emptyVolume();
  await writeTestMedia(join(folder, 'TW_SOUND_0001.mov'), {
    encoder: 'libx264',
    pixelFormat: 'yuv420p',
    frames: 25,
    options: { preset: 'ultrafast' },
    audio: true,
  });
  await copyFile(await smallClip(smallTenBit), join(folder, 'TW_SILENT_0001.mov'));
  await scan(id);
  const [sounding, silent] = [await clipAt(id, 'TW_SOUND_0001.mov'), await clipAt(id, 'TW_SILENT_0001.mov')];
  expect(sounding.sound?.label).toMatch(/^stereo PCM 16-bit, 48.kHz$/);
  expect(silent.sound).toBeNull();
  const packed = (await getSoundTable(sounding.id))!;
  const table = decodeSoundTable(packed);
  // A second of it, 16 bits in stereo.
  expect(table.size.reduce((sum, bytes) => sum + bytes, 0)).toBe(48_000 * 4);
  expect(await getSoundTable(silent.id)).toBeNull();
  const source = await soundSource({ ...sounding, volumeName: '', volumePath: folder, volumeStandIn: null });
  expect(source).toEqual({ setup: sounding.sound, packets: packed });

  // As a migration leaves what was read before.
  await updateClips([sounding.id], { sound: null, modifiedAt: new Date(0) });
  expect(await scan(id)).toMatchObject({ changed: 1, same: 1 });
  expect((await clipAt(id, 'TW_SOUND_0001.mov')).sound).toEqual(sounding.sound);
  expect(await scan(id)).toMatchObject({ changed: 0, same: 2 });
});

test('thumbnails, fingerprint and grouping come in the background; hands may group otherwise', async () => {
  const { id, folder } = await emptyVolume();
  await copyFile(await smallClip(smallTenBit), join(folder, 'TW_TEST_0003.mov'));
  await copyFile(await smallClip(smallTenBit), join(folder, 'TW_TEST_0003_copy.mov'));
  await copyFile(await smallClip(smallLongGop), join(folder, 'TW_TEST_0002.mp4'));
  await scan(id);
  const rigId = await thisRigId();
  while (await makePreviews(rigId, await testReader()));
  const [original, copy, other] = await Promise.all(
    ['TW_TEST_0003.mov', 'TW_TEST_0003_copy.mov', 'TW_TEST_0002.mp4'].map((path) => clipAt(id, path)),
  );
  const preview = (await getPreview(original!.id))!;
  expect(preview).toMatchObject({ tiles: 12, problem: null });
  expect(preview.stripMs).toBeGreaterThan(0);
  expect((await stripOf(original!.id)).headers.get('content-type')).toBe('image/jpeg');
  expect((await getPreview(copy!.id))!.fingerprint).toEqual(preview.fingerprint);
  expect(copy!.footageId).toBe(original!.footageId);
  expect(other!.footageId).not.toBe(original!.footageId);

  await actOnClips('group', [original!.id, other!.id]);
  expect((await readClipPage(other!.id)).renditions.map((member) => member.id)).toEqual(
    expect.arrayContaining([original!.id, copy!.id, other!.id]),
  );
  await actOnClips('take-out', [other!.id]);
  await scan(id);
  expect((await readClipPage(other!.id)).renditions).toHaveLength(1);
  await actOnClips('group-automatically', [original!.id, other!.id]);
  await expect(actOnClips('group', [original!.id])).rejects.toThrow('Choose at least two clips');
  await expect(actOnClips('group', [original!.id, 'gone'])).rejects.toMatchObject({ status: 404 });
});

test('a clip’s page says what it is, what to know, and what it serves for', async () => {
  const { id, folder } = await emptyVolume();
  await writeTestMedia(join(folder, 'odd.mov'), {
    encoder: 'libx264',
    pixelFormat: 'yuv420p',
    frames: 80,
    gop: 200,
    options: { preset: 'ultrafast' },
    pixelAspect: [4, 3],
  });
  await writeFile(join(folder, 'camera.raw9'), Buffer.alloc(1_200_000, 7));
  await writeFile(join(folder, 'readme.txt'), Buffer.alloc(1_200_000, 7));
  await scan(id);
  expect((await listClipsOfVolume(id)).map(({ path }) => path).sort()).toEqual(['camera.raw9', 'odd.mov']);
  const odd = await readClipPage((await clipAt(id, 'odd.mov')).id);
  expect(odd.warnings.map(({ kind }) => kind)).toEqual(['sparse-keys', 'not-square', 'index-at-end']);
  expect(odd.uses.every(({ possible }) => possible)).toBe(true);
  const frames = await framesOf(odd.clip.id);
  expect(frames.bytes).toHaveLength(80);
  expect(frames.types).toMatch(/^i[PB]{79}$/);
  const raw = await readClipPage((await clipAt(id, 'camera.raw9')).id);
  expect(raw.clip).toMatchObject({
    status: 'unplayable',
    problem: expect.stringContaining('could not be opened as media') as string,
  });
  expect(raw.uses.filter(({ possible }) => possible).map(({ use }) => use)).toEqual([
    'Copies and throughput',
  ]);
  await expect(framesOf(raw.clip.id)).rejects.toMatchObject({ status: 404 });
  await expect(readClipPage('gone')).rejects.toMatchObject({ status: 404 });
});

test('an upload lands whole under its name, or not at all', async () => {
  const { id, folder } = await emptyVolume();
  const bytes = await readFile(await smallClip(smallTenBit));
  const body = () =>
    Readable.toWeb(
      Readable.from([bytes.subarray(0, 1000), bytes.subarray(1000)]),
    ) as ReadableStream<Uint8Array>;
  expect(await uploadClip(id, 'new.mov', 'uploads', body())).toEqual({ path: 'uploads/new.mov' });
  expect(bytes.equals(await readFile(join(folder, 'uploads/new.mov')))).toBe(true); // Jest compares number by number: seconds, a minute on a busy machine
  expect((await getVolume(id))!.scan).not.toBeNull(); // asked for
  await expect(uploadClip(id, 'new.mov', 'uploads', body())).rejects.toMatchObject({
    status: 409,
    field: 'file',
  });
  await expect(uploadClip(id, 'notes.txt', '', body())).rejects.toThrow('does not end like a media file');
  await expect(uploadClip(id, 'x.mov', '../out', body())).rejects.toThrow('without ".."');
  const broken = Readable.toWeb(
    Readable.from(
      (async function* () {
        yield bytes.subarray(0, 10);
        await Promise.resolve();
        throw new Error('the browser went away');
      })(),
    ),
  ) as ReadableStream<Uint8Array>;
  await expect(uploadClip(id, 'half.mov', '', broken)).rejects.toThrow('half.mov could not be used');
  expect(await readFile(join(folder, 'half.mov')).catch(() => null)).toBeNull();
});

test('of two uploads of one name one lands, whole; a file that comes there meanwhile stays', async () => {
  const { id, folder } = await emptyVolume();
  const piece = (letter: string) => Buffer.alloc(100_000, letter);
  const slow = (letter: string, meanwhile: () => Promise<unknown> = () => Promise.resolve()) =>
    Readable.toWeb(
      Readable.from(
        (async function* () {
          yield piece(letter);
          await meanwhile();
          yield piece(letter);
        })(),
      ),
    ) as ReadableStream<Uint8Array>;
  const sent = await Promise.allSettled([
    uploadClip(id, 'twice.mov', '', slow('a')),
    uploadClip(id, 'twice.mov', '', slow('b')),
  ]);
  expect(sent.map(({ status }) => status).sort()).toEqual(['fulfilled', 'rejected']);
  expect(sent.find(({ status }) => status === 'rejected')).toMatchObject({
    reason: { status: 409, field: 'file' },
  });
  const kept = await readFile(join(folder, 'twice.mov'), 'latin1');
  expect(kept).toHaveLength(200_000);
  expect(new Set(kept).size).toBe(1);

  const other = () => writeFile(join(folder, 'taken.mov'), 'somebody else’s');
  await expect(uploadClip(id, 'taken.mov', '', slow('c', other))).rejects.toMatchObject({ status: 409 });
  expect(await readFile(join(folder, 'taken.mov'), 'utf8')).toBe('somebody else’s');
  expect((await readdir(folder)).sort()).toEqual(['taken.mov', 'twice.mov']);
});

test('missing clips can be forgotten, others cannot', async () => {
  const { id } = await emptyVolume();
  const row = { volumeId: id, sizeBytes: 1, modifiedAt: new Date() };
  const [gone, here] = [newId('clip'), newId('clip')];
  await saveClip({ ...row, id: gone, path: 'gone.mov', status: 'missing' }, null);
  await saveClip({ ...row, id: here, path: 'here.mov', status: 'unplayable' }, null);
  expect(await actOnClips('forget', [gone, here])).toEqual({ done: 1 });
  expect((await libraryClips()).filter(({ volumeId }) => volumeId === id).map((clip) => clip.id)).toEqual([
    here,
  ]);
});
