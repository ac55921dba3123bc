import { mkdir, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { generalFormats } from '@/core/storage/cameraFormats';
import { listCameraFormats } from '@/db/queries/cameraFormats';
import { storageKinds } from '@/core/kinds/kinds';
import { listCopyFiles } from '@/db/queries/storageRecords';
import { latestThroughput, updateTrial } from '@/db/queries/trials';
import { getVolume, updateVolume } from '@/db/queries/volumes';
import { smallTenBit } from '@/demo/smallClips';
import { namesIn, steadyModel } from '@/engine/testing/testStorage';
import { thisRigId } from '@/engine/rig';
import { cameraFormats, deleteCameraFormat, putCameraFormat, resetCameraFormats } from './cameraFormats';
import { loadBlocks } from '../trials/blocks';
import { closeOrphan, closeTrial } from '../runner/trialRun';
import { blocksCsv } from '../trials/blocksCsv';
import { readVolumePage, seriesOf } from './storage';
import { cancelTrial, deleteTrial, resumeTrial } from '../kinds/trialControls';
import { readTrialPage } from '../trials/trialPage';
import { cameraFormatInput } from '@/core/asked/volumes';
import { emptyVolume, measureTrial, onTestDatabase, scannedClip } from '../testing/testDatabase';
import { throughputInput } from '@/core/kinds/throughput';
import { copyInput } from '@/core/kinds/copy';
import { requireTrial } from '../platform/trialQueue';
import { startThroughput } from '../kinds/throughput';
import { startStreams } from '../kinds/streamsCarried';
import { startCopy } from '../kinds/copy';

onTestDatabase();

const mebi = 2 ** 20;

const storageTrial = (id: string) => requireTrial(id, storageKinds);

const test_ = (volumeId: string, change: object = {}) =>
  throughputInput.validate({
    volumeId,
    test: 'sequential-read',
    blockBytes: mebi,
    bytes: 16 * mebi,
    seconds: 20,
    repeats: 2,
    ...change,
  });

/** A folder with a model of so many MB/s. */
async function standIn(megabytes: number, files: Record<string, string | Buffer> = {}) {
  const volume = await emptyVolume();
  await updateVolume(volume.id, { standIn: steadyModel(megabytes) });
  for (const [path, content] of Object.entries(files)) {
    await mkdir(join(volume.folder, path, '..'), { recursive: true });
    await writeFile(join(volume.folder, path), content);
  }
  return volume;
}

test('a throughput trial is measured, saved, judged and told; its page, curves and record say the same', async () => {
  const { id: volumeId, folder } = await standIn(40);
  const id = await startThroughput(await test_(volumeId));
  expect((await storageTrial(id)).status).toBe('queued');
  await measureTrial(id);
  const { trial } = await readTrialPage(id, ['throughput']);
  expect(trial).toMatchObject({
    status: 'done',
    outcome: null,
    kind: 'throughput',
    subject: { standIn: { seed: 1 } },
    conditions: { writes: null },
  });
  expect(trial.conditions!.cold!.method).toMatch(/direct|evicted/);
  const { summary } = trial;
  expect(summary!.repeats).toHaveLength(2);
  expect(summary!.read!.bytes).toBe(32 * mebi);
  expect(summary!.read!.mean / 40e6).toBeLessThan(1.1);
  const { series } = await seriesOf(id);
  expect(series.map(({ repeat, write }) => [repeat, write])).toEqual([
    [0, false],
    [1, false],
  ]);
  expect((await blocksCsv(id)).trim().split('\n')).toHaveLength(1 + (await loadBlocks(id)).length);
  expect((await latestThroughput(await thisRigId())).map((row) => row.id)).toContain(id);
  expect((await readVolumePage(volumeId)).trials.map((row) => row.id)).toEqual([id]);
  expect(await namesIn(folder)).toEqual([]);
});

test('a process that is killed is an outcome, and its test files go', async () => {
  const { id: volumeId, folder } = await standIn(10);
  const id = await startThroughput(await test_(volumeId, { test: 'sequential-write', bytes: 200 * mebi }));
  await measureTrial(id, (_, pid) => setTimeout(() => process.kill(pid, 'SIGKILL'), 2_500));
  expect(await storageTrial(id)).toMatchObject({
    status: 'crashed',
    outcome: expect.stringContaining('signal SIGKILL') as string,
  });
  expect(await namesIn(folder)).toEqual([]);
});

test('what a dead runner left is closed with what was saved, and cleared away', async () => {
  const { id: volumeId, folder } = await standIn(10);
  const id = await startThroughput(await test_(volumeId));
  await updateTrial(id, ['queued'], { status: 'running' });
  await writeFile(join(folder, `.navvy-test-${id}-read.tmp`), 'Navvy test file. It may be removed.\n');
  await closeOrphan(id);
  expect(await storageTrial(id)).toMatchObject({ status: 'interrupted', summary: null });
  expect(await namesIn(folder)).toEqual([]);
  expect(await closeTrial(await storageTrial(id), { kind: 'crashed', message: 'again' }, null)).toBe(false);
  expect((await storageTrial(id)).status).toBe('interrupted'); // ended trials stay as they are
});

test('tests that cannot be are refused before they start, with what to do', async () => {
  const { id: volumeId, folder } = await emptyVolume();
  await expect(test_(volumeId, { blockBytes: 5_000 })).rejects.toThrow('whole number of 4 kiB pages');
  await expect(test_(volumeId, { bytes: 'much' })).rejects.toThrow('Give the size as a number.');
  await expect(startThroughput(await test_(volumeId, { bytes: 1e13 }))).rejects.toThrow(
    /would leave less than the reserve of .* Free space or choose a smaller test\./,
  );
  await expect(startThroughput(await test_(volumeId, { test: 'frame-paced' }))).rejects.toThrow(
    'A frame-paced test reads a clip.',
  );
  await expect(startThroughput(await test_(volumeId, { clipId: 'gone' }))).rejects.toMatchObject({
    status: 404,
    field: 'clipId',
  });
  await expect(startThroughput(await test_('gone'))).rejects.toMatchObject({ status: 404 });
  const clip = await scannedClip(smallTenBit);
  await expect(
    startThroughput(await test_(clip.volumeId, { test: 'sequential-write', clipId: clip.id })),
  ).rejects.toThrow('Leave the clip out');
  await expect(startStreams({ clipId: 'gone', seconds: 2, mostStreams: 4 })).rejects.toMatchObject({
    status: 404,
  });
  const id = await startThroughput(await test_(volumeId));
  await updateVolume(volumeId, { path: '/etc' }); // a root that is not allowed any more
  await measureTrial(id);
  expect(await storageTrial(id)).toMatchObject({
    status: 'failed',
    outcome: expect.stringContaining('lies outside') as string,
  });
  await updateVolume(volumeId, { path: folder });
});

test('a waiting trial is cancelled at once; an ended one is removed', async () => {
  const { id: volumeId } = await emptyVolume();
  const id = await startThroughput(await test_(volumeId));
  await expect(deleteTrial(id)).rejects.toThrow('Cancel the trial first');
  await cancelTrial(id);
  expect((await storageTrial(id)).status).toBe('cancelled');
  await measureTrial(id); // its job comes too late
  expect((await storageTrial(id)).status).toBe('cancelled');
  await expect(cancelTrial(id)).rejects.toMatchObject({ status: 409 });
  await deleteTrial(id);
  await expect(storageTrial(id)).rejects.toMatchObject({ status: 404 });
});

const files = {
  'clips/one.mov': Buffer.alloc(3 * mebi, 1),
  'clips/two.mov': Buffer.alloc(8 * mebi, 2),
  'clips/three.mov': Buffer.alloc(mebi, 3),
};

test('a copy that is killed goes on where it was, after its process and its runner have gone', async () => {
  const card = await standIn(6, files);
  const target = await emptyVolume();
  const id = await startCopy(
    await copyInput.validate({
      volumeId: card.id,
      folder: '',
      destinations: [{ volumeId: target.id, folder: 'cards/A001' }],
    }),
  );
  let killed = false;
  await measureTrial(id, (_, pid) => {
    const look = setInterval(
      () =>
        void listCopyFiles(id).then((done) => {
          if (killed || done.length === 0) return;
          killed = true;
          clearInterval(look);
          process.kill(pid, 'SIGKILL');
        }),
      50,
    );
  });
  expect((await storageTrial(id)).status).toBe('crashed');
  const before = await listCopyFiles(id);
  expect(before.length).toBeLessThan(3);
  expect((await namesIn(target.folder)).some((name) => name.includes('partial'))).toBe(false);
  await updateVolume(card.id, { standIn: null });
  await resumeTrial(id);
  await measureTrial(id);
  const row = await storageTrial(id);
  expect(row).toMatchObject({
    status: 'done',
    summary: { files: 3, copied: 3, damaged: 0 },
  });
  expect(await namesIn(target.folder)).toEqual(
    expect.arrayContaining([
      'cards/A001/clips/one.mov',
      'cards/A001/clips/two.mov',
      'cards/A001/clips/three.mov',
      'cards/A001/ascmhl/ascmhl_chain.xml',
    ]),
  );
  await expect(resumeTrial(id)).rejects.toThrow('nothing left to do');
});

test('a pause frees the rig and is no end', async () => {
  const card = await standIn(4, files);
  const target = await emptyVolume();
  const id = await startCopy(
    await copyInput.validate({
      volumeId: card.id,
      folder: 'clips',
      destinations: [{ volumeId: target.id, folder: 'A' }],
      verify: false,
    }),
  );
  await measureTrial(id, (copy) => setTimeout(() => copy.pause(), 900));
  expect(await storageTrial(id)).toMatchObject({ status: 'paused', outcome: 'Paused.' });
  await cancelTrial(id);
  expect(await storageTrial(id)).toMatchObject({
    status: 'cancelled',
    outcome: 'Cancelled while it was paused.',
  });
});

test('copies into themselves, twice into one place or out of a volume are refused', async () => {
  const card = await emptyVolume();
  const target = await emptyVolume();
  const copy = (change: object) =>
    copyInput
      .validate({
        volumeId: card.id,
        folder: '',
        destinations: [{ volumeId: target.id, folder: 'A' }],
        ...change,
      })
      .then(startCopy);
  await expect(copy({ destinations: [{ volumeId: card.id, folder: 'inside' }] })).rejects.toThrow(
    'cannot go into its own source',
  );
  await expect(
    copy({
      destinations: [
        { volumeId: target.id, folder: 'A' },
        { volumeId: target.id, folder: 'A/B' },
      ],
    }),
  ).rejects.toThrow('cannot go into its own source');
  await expect(copy({ folder: '../elsewhere' })).rejects.toMatchObject({ field: 'folder' });
  await expect(copy({ destinations: [] })).rejects.toThrow('Choose at least one destination.');
  await updateVolume(target.id, { facts: { ...(await getVolume(target.id))!.facts, writable: false } });
  await expect(copy({})).rejects.toThrow('is read-only. Choose another destination.');
});

test('streams carried are measured beside the arithmetic of the model', async () => {
  const clip = await scannedClip(smallTenBit);
  await updateVolume(clip.volumeId, { standIn: steadyModel((clip.peakBitsPerSecond! / 8e6) * 1.5) });
  const id = await startStreams({ clipId: clip.id, seconds: 3, mostStreams: 4 });
  await measureTrial(id);
  const { summary, record, outcome } = await requireTrial(id, ['streams-carried']);
  if (!summary) throw new Error('no result');
  expect(record!.streams[0]).toBe(1);
  expect(summary.clean).toBeLessThanOrEqual(1);
  expect(summary.clean === 1 || summary.limit === 'this machine').toBe(true);
  expect(summary.arithmetic).toMatchObject({ streams: 1, from: 'model' });
  expect(outcome).toContain('Arithmetic says 1.');
});

test('the table of camera formats begins with the general ones and takes changes back to them', async () => {
  expect((await cameraFormats()).map(({ name }) => name)).toEqual(generalFormats.map(({ name }) => name));
  const input = await cameraFormatInput.validate({
    name: 'Bridge camera',
    framesPerSecond: 25,
    bytesPerFrame: 900_000,
  });
  const id = await putCameraFormat(input, null);
  await putCameraFormat({ ...input, name: 'Bridge camera, new firmware' }, id);
  expect((await listCameraFormats()).at(-1)).toMatchObject({
    id,
    name: 'Bridge camera, new firmware',
    peakOverMean: 1,
  });
  await deleteCameraFormat(id);
  expect(await listCameraFormats()).toHaveLength(generalFormats.length);
  await putCameraFormat(input, id); // undo of the removal keeps its id
  expect((await resetCameraFormats()).map((row) => row.id)).not.toContain(id);
  await expect(cameraFormatInput.validate({ name: 'X', framesPerSecond: 25 })).rejects.toThrow(
    'Give the bytes per frame.',
  );
});
