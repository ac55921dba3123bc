import { copyFile, mkdir } from 'node:fs/promises';
import { basename, dirname, join } from 'node:path';
import { playedKinds } from '@/core/kinds/kinds';
import { causeBit } from '@/core/playback/attribute';
import { changeFaults, getClip, listClipsOfVolume } from '@/db/queries/clips';
import { getTrial } from '@/db/queries/trials';
import { smallTenBit } from '@/demo/smallClips';
import { writeOver } from '@/demo/writeOver';
import { plainSettings, smallClip } from '@/engine/testing/testTrial';
import { noteClipFaults } from './clipFaults';
import { readClipPage } from './media';
import { scanVolume } from '../runner/shared/scan';
import { traceCsv } from '../trials/traceCsv';
import {
  emptyVolume,
  measureTrial,
  onTestDatabase,
  storedTrial,
  testReader,
  libraryClips,
} from '../testing/testDatabase';

onTestDatabase();

/** A volume with one damaged clip, scanned. */
async function damagedClip(frames: readonly number[]) {
  const whole = await smallClip(smallTenBit);
  const { id: volumeId, folder } = await emptyVolume();
  const path = join(folder, 'card', basename(whole));
  await mkdir(dirname(path));
  await copyFile(whole, path);
  await writeOver(path, frames);
  await scanVolume(volumeId, await testReader());
  const [row] = await listClipsOfVolume(volumeId);
  return { clip: (await getClip(row!.id))!, volumeId, path, whole };
}

const warningsOf = async (id: string) =>
  (await readClipPage(id)).warnings.map(({ kind, short, text }) => ({ kind, short, text }));

test('a trial’s drops for the media are told with it, kept with the clip, and warned of in Media until the file is another', async () => {
  const { clip, volumeId, path, whole } = await damagedClip([7, 20, 21]);
  expect(await warningsOf(clip.id)).toEqual([]);
  // Every frame is tried, however late on a slow machine.
  const id = await storedTrial(clip, {
    settings: { ...plainSettings, scale: 'quarter', policy: 'every-frame' },
  });
  await measureTrial(id);

  const trial = (await getTrial(id, playedKinds))!;
  expect(trial).toMatchObject({
    status: 'done',
    conditions: {
      run: {
        faults: {
          clips: [
            {
              media: '',
              faults: {
                damage: [
                  [7, 7],
                  [20, 21],
                ],
              },
            },
          ],
          doubtful: [],
        },
      },
    },
  });
  expect(trial.summary).toMatchObject({ shown: 45, dropped: 3 });
  expect((await getClip(clip.id))!.faults).toEqual({
    damage: [
      [7, 7],
      [20, 21],
    ],
  });
  const [warning] = await warningsOf(clip.id);
  expect(warning).toEqual({
    kind: 'faulty-damage',
    short: '3 damaged',
    text: 'At 03:00:00:07, 03:00:00:20 to 03:00:00:21: 3 frames are damaged and cannot be decoded. Copy the file again from its source and compare the two.',
  });
  expect((await libraryClips()).find((row) => row.id === clip.id)!.warnings).toContain('3 damaged');

  await scanVolume(volumeId, await testReader());
  expect((await getClip(clip.id))!.faults).not.toBeNull();
  await copyFile(whole, path);
  await scanVolume(volumeId, await testReader());
  expect((await getClip(clip.id))!.faults).toBeNull();
  expect(await warningsOf(clip.id)).toEqual([]);
});

test('a slot whose frame cannot be decoded is charged to its media, slot by slot', async () => {
  // Every second frame: a slow machine gives some slots up before it comes to their frames, and not all.
  const damaged = Array.from({ length: 24 }, (_, at) => 2 * at + 1);
  const { clip } = await damagedClip(damaged);
  const id = await storedTrial(clip);
  await measureTrial(id);
  const { attribution } = (await getTrial(id, playedKinds))!.summary!;
  const [names, ...lines] = (await traceCsv(id)).split('\n').map((line) => line.split(','));
  const [cause, givenUp] = ['cause', 'given_up_at'].map((name) => names!.indexOf(name));
  const slotsWith = (column: number) =>
    lines.flatMap((cells, slot) => (cells[column] === 'media' ? [slot] : []));
  const charged = slotsWith(cause!);
  expect(slotsWith(givenUp!)).toEqual(charged);
  expect(attribution!.countByCharge[causeBit.media]).toBe(charged.length);
  expect(charged.length).toBeGreaterThan(0);
  expect(charged.filter((slot) => !damaged.includes(slot))).toEqual([]);
});

test('what several runs met is kept together; want of memory is no fault of the clip, and a clip that is gone takes nothing', async () => {
  const { clip } = await damagedClip([3]);
  await noteClipFaults(clip.id, { memory: [[1, 2]] });
  expect((await getClip(clip.id))!.faults).toBeNull();
  await noteClipFaults(clip.id, { concealed: [[5, 6]], memory: [[1, 2]] });
  await noteClipFaults(clip.id, { damage: [[6, 8]] });
  expect((await getClip(clip.id))!.faults).toEqual({ damage: [[6, 8]], concealed: [[5, 5]] });
  await expect(noteClipFaults('nowhere', { damage: [[1, 1]] })).resolves.toBeUndefined();
  await expect(noteClipFaults(null, { damage: [[1, 1]] })).resolves.toBeUndefined();
  await expect(changeFaults('nowhere', () => ({}))).resolves.toBeUndefined();
});
