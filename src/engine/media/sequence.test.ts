import { mkdir, readdir, readFile, rm, symlink, truncate, writeFile } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { readFrameCode } from '@/core/media/frameCode';
import { monotonicUs } from '../clock';
import { ColdFile } from './coldFile';
import { StandInGate, gatedReader } from '../storage/standIn';
import { AheadReader } from './aheadReader';
import { FrameAccess } from '../codec/frameAccess';
import { lumaReader } from './luma';
import { openMedia } from './mediaBytes';
import { makePreview } from '../library/preview';
import { probeClip } from './probe';
import type { ProbedClip } from './streamFacts';
import { findMedia } from '../volume';
import { pictureSamples } from '../testing/formatSamples';
import { writeTestMedia, type TestMedia } from '../testing/testMedia';
import { steadyModel } from '../testing/testStorage';
import { workFolder } from '../testing/testTrial';

let made = 0;

/** Writes a sequence numbered from 1001 on and gives the path by which it is listed. */
async function written(ending: string, media: TestMedia): Promise<{ folder: string; path: string }> {
  const folder = join(await workFolder(), 'sequences', `${made++}`);
  await mkdir(folder, { recursive: true });
  await writeTestMedia(join(folder, `plate.%04d.${ending}`), {
    ...media,
    frames: 8,
    muxOptions: { start_number: '1001' },
  });
  return { folder, path: join(folder, `plate.####.${ending}`) };
}

const source = (path: string, { setup, packets, format }: ProbedClip) => ({
  path,
  setup,
  packets,
  rate: format.rate,
});

test.each(pictureSamples)(
  'a folder of %s frames is one clip, each frame a file',
  async (ending, media, format) => {
    const { folder, path } = await written(ending, media);
    expect(await findMedia(folder)).toEqual([`plate.####.${ending}`]);
    const clip = await probeClip(path);
    // Of these the library writes the rate into the picture's own header.
    const statesRate = ending === 'exr';
    expect(clip).toMatchObject({
      problem: null,
      frames: 8,
      format: {
        container: 'Image sequence',
        rate: statesRate ? { num: 25, den: 1 } : { num: 24, den: 1 },
        width: 128,
        height: 96,
        ...format,
      },
      structure: { intra: true },
      identity: { audio: [], timing: { constant: true } },
      setup: { sequence: { prefix: 'plate.', suffix: `.${ending}`, digits: 4, runs: [[1001, 1008]] } },
    });
    expect(clip.identity.rateAssumed).toBe(statesRate ? undefined : true);
    expect(clip.identity.gaps).toBeUndefined();
    const reader = await FrameAccess.open(source(path, clip));
    for (const slot of [0, 1, 7, 3]) {
      const frame = await reader.frame(slot);
      expect([frame?.width, frame?.height]).toEqual([128, 96]);
      const luma = lumaReader(frame!);
      if (luma) expect(readFrameCode(128, 96, luma)).toBe(slot);
      frame!.free();
    }
    await reader.close();
    const { fingerprint, peaks } = await makePreview(source(path, clip), 1);
    expect(fingerprint).toHaveLength(96);
    expect(peaks).toBeNull();
  },
);

test('each way to read gives the very bytes of the files, one by one and several at once', async () => {
  const { folder, path } = await written('dpx', { encoder: 'dpx', pixelFormat: 'gbrp10le' });
  const clip = await probeClip(path);
  const files = await Promise.all((await readdir(folder)).sort().map((name) => readFile(join(folder, name))));
  const { packets } = clip;
  for (const way of ['past', 'through', 'warm'] as const) {
    const bytes = await openMedia({ path, ...clip }, way);
    expect(bytes.size).toBe(files.reduce((sum, { length }) => sum + length, 0));
    if (way !== 'warm') expect(['direct', 'evicted']).toContain(bytes.proof.method);
    else expect(bytes.proof.method).toBe('warm');
    for (const row of [5, 0, 7]) {
      const read = await bytes.read(packets.offset[row]!, packets.size[row]!);
      expect(read.equals(files[row]!)).toBe(true);
    }
    await bytes.assertStillThere();
    const ahead = new AheadReader(packets, await Promise.all([1, 2, 3, 4].map(() => bytes.another())));
    for (const [row, whole] of files.entries())
      expect((await ahead.read(packets.offset[row]!, packets.size[row]!)).equals(whole)).toBe(true);
    await ahead.close();
    await bytes.close();
  }
});

test('gaps are named, and the frame before stands in for each; what is added later is found', async () => {
  const { folder, path } = await written('png', { encoder: 'png', pixelFormat: 'rgb24' });
  await rm(join(folder, 'plate.1003.png'));
  await rm(join(folder, 'plate.1004.png'));
  const clip = await probeClip(path);
  expect(clip).toMatchObject({ frames: 8, identity: { gaps: { frames: 2, words: '1003 to 1004' } } });
  const bytes = await openMedia({ path, ...clip }, 'past');
  const second = await readFile(join(folder, 'plate.1002.png'));
  const fifth = await readFile(join(folder, 'plate.1005.png'));
  for (const [row, whole] of [
    [1, second],
    [2, second],
    [3, second],
    [4, fifth],
  ] as const)
    expect((await bytes.read(clip.packets.offset[row]!, clip.packets.size[row]!)).equals(whole)).toBe(true);
  await writeFile(join(folder, 'plate.1004.png'), fifth);
  expect((await probeClip(path)).identity.gaps).toEqual({ frames: 1, words: '1003' });
});

test('a file that is gone, another, empty or no picture is named', async () => {
  const { folder, path } = await written('png', { encoder: 'png', pixelFormat: 'rgb24' });
  const clip = await probeClip(path);
  const third = join(folder, 'plate.1003.png');
  const bytes = await openMedia({ path, ...clip }, 'past');
  await truncate(third, 100);
  await expect(bytes.assertStillThere()).rejects.toThrow('plate.1003.png');
  await expect(bytes.read(clip.packets.offset[2]!, clip.packets.size[2]!)).rejects.toThrow('plate.1003.png');
  await expect(openMedia({ path, ...clip }, 'past')).rejects.toThrow('plate.1003.png');
  await rm(third);
  // A link that was put in a frame's place leads to another file: its bytes are not given.
  await symlink(join(folder, 'plate.1004.png'), third);
  await expect(bytes.read(clip.packets.offset[2]!, 100)).rejects.toThrow('plate.1003.png');
  await rm(third);
  await expect(bytes.read(clip.packets.offset[2]!, clip.packets.size[2]!)).rejects.toThrow('is not there');
  await writeFile(third, '');
  await expect(probeClip(path)).rejects.toThrow('plate.1003.png is empty');
  await writeFile(join(folder, 'plate.1001.png'), Buffer.alloc(500, 7));
  await writeFile(third, 'x');
  await expect(probeClip(path)).rejects.toThrow('plate.1001.png');
  await expect(probeClip(join(folder, 'other.####.png'))).rejects.toThrow();
});

test('a picture alone is a clip of one frame', async () => {
  const { folder } = await written('jpg', { encoder: 'mjpeg', pixelFormat: 'yuvj420p' });
  const path = join(folder, 'alone', 'slate.jpg');
  await mkdir(dirname(path));
  await writeFile(path, await readFile(join(folder, 'plate.1005.jpg')));
  expect(await findMedia(dirname(path))).toEqual(['slate.jpg']);
  const clip = await probeClip(path);
  expect(clip).toMatchObject({ frames: 1, problem: null, format: { container: 'Still', codec: 'JPEG' } });
  expect(clip.setup.sequence).toBeUndefined();
  const reader = await FrameAccess.open(source(path, clip));
  const frame = await reader.frame(0);
  expect(readFrameCode(128, 96, lumaReader(frame!)!)).toBe(4);
  frame!.free();
  await reader.close();
});

test('on a made-up volume each frame pays the way there twice: to open its file, and to read it', async () => {
  const { folder, path } = await written('png', { encoder: 'png', pixelFormat: 'rgb24' });
  const clip = await probeClip(path);
  const { packets } = clip;
  const roundTripUs = 15_000;
  const model = steadyModel(4_000);
  const far = { ...model, link: { ...model.link, roundTripUs } };
  const joined = join(folder, 'joined.bin');
  const frames = await Promise.all(
    (await findMedia(folder)).length === 1
      ? (await readdir(folder)).sort().map((name) => readFile(join(folder, name)))
      : [],
  );
  await writeFile(joined, Buffer.concat(frames));
  const timeOf = async (bytes: Awaited<ReturnType<typeof openMedia>>) => {
    const reader = gatedReader(new StandInGate(far, 1, bytes.size), 0, 0, bytes);
    const begun = monotonicUs();
    for (let row = 0; row < packets.length; row++)
      await reader.read(packets.offset[row]!, packets.size[row]!);
    return monotonicUs() - begun;
  };
  const apart = await timeOf(await openMedia({ path, ...clip }, 'past'));
  const together = await timeOf(await ColdFile.open(joined, 1_000_000));
  expect(apart).toBeGreaterThanOrEqual(packets.length * 2 * roundTripUs);
  // One file is read ahead: its way is paid once.
  expect(together).toBeLessThan(packets.length * 2 * roundTripUs);
});
