import { copyFile, readdir, readFile, rm, writeFile } from 'node:fs/promises';
import { setTimeout } from 'node:timers/promises';
import { existsSync } from 'node:fs';
import { join } from 'node:path';
import { getClip, listClipsOfVolume } from '@/db/queries/clips';
import { listRenditionItems } from '@/db/queries/renditions';
import { smallLongGop, smallTenBit } from '@/demo/smallClips';
import { smallClip } from '@/engine/testing/testTrial';
import { scanVolume } from '../runner/shared/scan';
import { cancelTrial, deleteTrial, pauseTrial, resumeTrial } from '../kinds/trialControls';
import { readTrialList } from '../trials/trialList';
import { emptyVolume, measureTrial, onTestDatabase, testReader } from '../testing/testDatabase';
import { renditionInput } from '@/core/kinds/renditions';
import { requireTrial } from '../platform/trialQueue';
import { startRenditions } from '../kinds/renditions';

onTestDatabase();

const batch = (id: string) => requireTrial(id, ['renditions']);

async function volumeWithClips() {
  const volume = await emptyVolume();
  await copyFile(await smallClip(smallTenBit), join(volume.folder, 'wall.mov'));
  await copyFile(await smallClip(smallLongGop), join(volume.folder, 'kite.mp4'));
  await scanVolume(volume.id, await testReader());
  return {
    ...volume,
    clips: (await listClipsOfVolume(volume.id)).sort((a, b) => a.path.localeCompare(b.path)),
  };
}

const wanted = (volumeId: string, clipIds: string[], change: object = {}) =>
  renditionInput.validate({
    clipIds,
    presetId: 'mjpeg',
    raster: 'half',
    volumeId,
    folder: 'proxies',
    ...change,
  });

test('a batch is made, checked, taken into its footage, and never made twice', async () => {
  const { id: volumeId, folder, clips } = await volumeWithClips();
  const ids = clips.map(({ id }) => id);
  const job = await startRenditions(await wanted(volumeId, ids));
  await measureTrial(job);
  expect(await batch(job)).toMatchObject({
    status: 'done',
    outcome: '2 of 2 made.',
    record: { lanes: { chosen: expect.any(Number) as number } },
    summary: { items: 2, made: 2, present: 0, failed: 0, frames: expect.any(Number) as number },
  });
  const items = await listRenditionItems(job);
  for (const [index, item] of items.entries()) {
    expect(item).toMatchObject({
      status: 'made',
      frameCheck: { method: 'frame code', wrong: 0, missing: 0 },
    });
    expect(existsSync(join(folder, item.outputPath))).toBe(true);
    const made = (await getClip(item.outputClipId!))!;
    expect(made).toMatchObject({
      status: 'ready',
      footageId: (await getClip(ids[index]!))!.footageId,
      format: { codec: 'Motion JPEG' },
    });
  }
  expect(items.map(({ outputPath }) => outputPath)).toEqual([
    'proxies/kite_mjpeg_half.mov',
    'proxies/wall_mjpeg_half.mov',
  ]);

  const again = await startRenditions(await wanted(volumeId, ids));
  await measureTrial(again);
  expect((await listRenditionItems(again)).map(({ status }) => status)).toEqual(['present', 'present']);
  await rm(join(folder, items[0]!.outputPath));
  const third = await startRenditions(await wanted(volumeId, ids));
  await measureTrial(third);
  expect((await listRenditionItems(third)).map(({ status }) => status)).toEqual(['made', 'present']); // one had gone
  expect((await requireTrial(third)).summary).toMatchObject({ items: 2, made: 1, present: 1, failed: 0 });
  const [newest] = (await readTrialList({ kind: 'renditions' })).trials;
  expect(newest).toMatchObject({ id: third, answer: '1 of 2 made, 1 there already.' });
});

test('a file that takes the name of a rendition while it is made stays, and the rendition says so', async () => {
  const { id: volumeId, folder, clips } = await volumeWithClips();
  const job = await startRenditions(await wanted(volumeId, [clips[1]!.id], { raster: 'quarter' }));
  const proxies = join(folder, 'proxies');
  const half = async () => (await readdir(proxies).catch(() => [])).some((name) => name.includes('partial'));
  let over = false;
  const other = (async () => {
    while (!over && !(await half())) await setTimeout(1);
    await writeFile(join(proxies, 'wall_mjpeg_quarter.mov'), 'somebody else’s', { flag: 'wx' });
  })();
  await measureTrial(job).finally(() => {
    over = true;
  });
  await other;
  expect(await readFile(join(proxies, 'wall_mjpeg_quarter.mov'), 'utf8')).toBe('somebody else’s');
  expect(await readdir(proxies)).toEqual(['wall_mjpeg_quarter.mov']);
  const [item] = await listRenditionItems(job);
  expect(item).toMatchObject({
    status: 'failed',
    outcome: expect.stringContaining('took the name wall_mjpeg_quarter.mov') as string,
  });
});

test('a batch that is paused or cancelled goes on where it stopped', async () => {
  const { id: volumeId, clips } = await volumeWithClips();
  const job = await startRenditions(
    await wanted(
      volumeId,
      clips.map(({ id }) => id),
      { presetId: 'dnxhr-lb', raster: 'full', lanes: 1 },
    ),
  );
  await measureTrial(job, (run) => run.pause());
  expect(await batch(job)).toMatchObject({ status: 'paused' });
  expect((await listRenditionItems(job)).map(({ status }) => status)).toEqual(['waiting', 'waiting']);
  await resumeTrial(job);
  await measureTrial(job);
  expect(await batch(job)).toMatchObject({ status: 'done', outcome: '2 of 2 made.' });
  await expect(resumeTrial(job)).rejects.toThrow('nothing left to do');
  await expect(pauseTrial(job)).rejects.toThrow('does not run');
  await deleteTrial(job);
  await expect(batch(job)).rejects.toMatchObject({ status: 404 });
});

test('one that cannot be made fails by itself, with words; the others are made', async () => {
  const { id: volumeId, folder, clips } = await volumeWithClips();
  const job = await startRenditions(
    await wanted(
      volumeId,
      clips.map(({ id }) => id),
      { presetId: 'cineform', lanes: 2 },
    ),
  );
  await rm(join(folder, 'kite.mp4'));
  await measureTrial(job);
  const [kite, wall] = await listRenditionItems(job);
  expect(kite).toMatchObject({
    status: 'failed',
    outcome: expect.stringContaining('kite.mp4 is not there') as string,
  });
  expect(wall).toMatchObject({ status: 'made', outcome: expect.stringContaining('Held back') as string });
  await expect(startRenditions(await wanted(volumeId, ['gone']))).rejects.toMatchObject({ status: 404 });
  await expect(
    startRenditions(await wanted(volumeId, [clips[1]!.id], { folder: '../out' })),
  ).rejects.toMatchObject({ field: 'folder' });
  await expect(wanted(volumeId, [clips[1]!.id], { presetId: 'none' })).rejects.toThrow('Choose a preset.');
  const waiting = await startRenditions(await wanted(volumeId, [clips[1]!.id]));
  await cancelTrial(waiting);
  expect(await batch(waiting)).toMatchObject({ status: 'cancelled' });
});
