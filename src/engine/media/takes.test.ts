import { mkdir, readFile, truncate, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { readFrameCode } from '@/core/media/frameCode';
import { joinedPackets } from '@/core/media/takes';
import { FrameAccess } from '../codec/frameAccess';
import { joinedFiles } from './joinedFiles';
import { lumaReader } from './luma';
import { openMedia } from './mediaBytes';
import { probeClip } from './probe';
import type { CodecSetup } from './streamFacts';
import { joinedSound } from '@/core/media/soundTable';
import { wholeClip } from '@/core/tasks/soundPlan';
import { SlotSound } from '../sound/slotSound';
import { toneAt } from '../testing/testMedia';
import { PacedFile } from '../storage/pacedFile';
import { splitTake } from '../testing/splitTake';
import { workFolder } from '../testing/testTrial';

const names = ['00001.m2ts', '00002.m2ts', '00003.m2ts'];

/** A take over three files, as it is listed after a scan. */
async function split() {
  const folder = join(await workFolder(), 'takes');
  await mkdir(folder, { recursive: true });
  await splitTake(folder, names, [24, 48]);
  const probed = await Promise.all(names.map((name) => probeClip(join(folder, name))));
  const files = await Promise.all(names.map((name) => readFile(join(folder, name))));
  const [first] = probed;
  const packets = joinedPackets(
    probed.map((clip) => clip.packets),
    files.map(({ length }) => length),
    3_600,
  );
  const setup: CodecSetup = {
    ...first!.setup,
    parts: names.map((name, at) => ({ name, bytes: files[at]!.length })),
  };
  const path = join(folder, '00001.m2ts to 00003.m2ts');
  return { folder, probed, files, clip: { path, setup, packets, rate: first!.format.rate } };
}

test('a take over three files plays as one, in order and by jumps', async () => {
  const { probed, clip } = await split();
  expect(probed.map(({ frames }) => frames)).toEqual([24, 24, 24]);
  // Each part's clock goes on where the one before ended.
  const [one, two] = probed;
  expect(Math.min(...two!.packets.pts) - Math.max(...one!.packets.pts)).toBe(3_600);
  expect(clip.packets.length).toBe(72);
  const reader = await FrameAccess.open(clip);
  for (const slot of [...Array(72).keys(), 40, 3, 71, 24, 23]) {
    const frame = await reader.frame(slot);
    expect(readFrameCode(frame!.width, frame!.height, lumaReader(frame!)!)).toBe(slot);
    frame!.free();
  }
  await reader.close();
});

test('a take sounds on from file to file', async () => {
  const folder = join(await workFolder(), 'sounding-take');
  await mkdir(folder, { recursive: true });
  await splitTake(folder, names, [24, 48], 'mp2');
  const probed = await Promise.all(names.map((name) => probeClip(join(folder, name))));
  const files = await Promise.all(names.map((name) => readFile(join(folder, name))));
  const sounds = probed.map(({ sound }) => sound!);
  const packets = joinedSound(
    sounds.map((sound) => sound.packets),
    files.map(({ length }) => length),
    [24 / 25, 24 / 25, 24 / 25],
  );
  const [first] = probed;
  const setup = { ...first!.setup, parts: names.map((name, at) => ({ name, bytes: files[at]!.length })) };
  const path = join(folder, '00001.m2ts to 00003.m2ts');
  const file = new PacedFile(
    { path, setup, packets: first!.packets },
    null,
    new Int32Array(new SharedArrayBuffer(4)),
    false,
  );
  const track = {
    name: path,
    setup: sounds[0]!.setup,
    packets,
    read: (at: number, bytes: number) => file.readNow(at, bytes),
  };
  const { rate } = first!.format;
  const sound = new SlotSound([wholeClip('m', 72, rate)], rate, () => track);
  // The tone of each second's first half, over the cuts at 0.96 and 1.92 s as well.
  const left = Array.from({ length: 70 }, (_, slot) =>
    [...sound.slot(slot).mix].filter((__, at) => at % 2 === 0),
  ).flat();
  sound.close();
  await file.close();
  const apart = left.map((value, at) => Math.abs(value - toneAt(at)));
  for (const [from, to] of [
    [4_000, 23_000],
    [52_000, 71_000],
    [100_000, 119_000],
  ] as const)
    expect(Math.max(...apart.slice(from, to))).toBeLessThan(0.02);
});

test('each way to read a take gives the very bytes of its files', async () => {
  const { clip, files } = await split();
  const whole = Buffer.concat(files);
  const { offset, size } = clip.packets;
  const stop = new Int32Array(new SharedArrayBuffer(4));
  for (const way of ['past', 'through', 'warm'] as const) {
    const bytes = await openMedia(clip, way);
    expect(bytes.size).toBe(whole.length);
    const other = await bytes.another();
    for (const row of [0, 30, 71, 47]) {
      const wanted = whole.subarray(offset[row], offset[row]! + size[row]!);
      expect((await bytes.read(offset[row]!, size[row]!)).equals(wanted)).toBe(true);
      expect((await other.read(offset[row]!, size[row]!)).equals(wanted)).toBe(true);
    }
    await bytes.assertStillThere();
    await Promise.all([bytes.close(), other.close()]);
  }
  for (const direct of [true, false]) {
    const paced = new PacedFile(clip, null, stop, direct);
    for (const row of [30, 2, 71])
      expect(
        (await paced.read(offset[row]!, size[row]!)).equals(
          whole.subarray(offset[row], offset[row]! + size[row]!),
        ),
      ).toBe(true);
    await paced.close();
  }
  const joined = joinedFiles(clip)!;
  expect([joined.opensEachRead, joined.indexAt(offset[30]!), joined.fileAt(files[0]!.length).from]).toEqual([
    false,
    1,
    0,
  ]);
});

test('a part that became another is named', async () => {
  const { clip, folder, files } = await split();
  await truncate(join(folder, names[1]!), files[1]!.length - 192);
  await expect(openMedia(clip, 'past')).rejects.toThrow('00002.m2ts');
  await writeFile(join(folder, names[1]!), files[1]!);
  await (await openMedia(clip, 'past')).close();
});
