import { readdir } from 'node:fs/promises';
import { join } from 'node:path';
import { analysisFrames, type AnalysisChoice } from '@/core/tasks/analysis';
import { intermediateChoice } from '@/core/tasks/prerender';
import { decodeOutput } from './proof';
import { greyAt } from '../library/preview';
import { writeTestMedia, type TestMedia } from '../testing/testMedia';
import { runExport } from '../testing/testTask';
import { streamsOf, testMedia } from '../testing/testTimelineRun';
import { workFolder } from '../testing/testTrial';

const [width, height] = [320, 180];
const none: Omit<AnalysisChoice, 'work'> = { factor: null, points: null, colour: null, tolerance: null };
const choices: Record<AnalysisChoice['work'], AnalysisChoice> = {
  'slow-motion': { ...none, work: 'slow-motion', factor: 2 },
  blend: { ...none, work: 'blend', factor: 4 },
  stabilise: { ...none, work: 'stabilise' },
  track: { ...none, work: 'track', points: 80 },
  matte: { ...none, work: 'matte', colour: '#00b140', tolerance: 0.15 },
};

/** A ground with corners and soft edges at every place, and no two places alike, seen `dx` and `dy` pixels farther on. */
function ground(x: number, y: number, dx: number, dy: number): number {
  const [u, v] = [x - dx, y - dy];
  const wave = (a: number, b: number, c: number) => Math.sin(a * u + b * v + c);
  return (
    128 +
    28 * wave(0.11, 0.07, 1) +
    24 * wave(-0.05, 0.17, 2) +
    22 * wave(0.23, -0.19, 0) +
    18 * wave(0.031, 0.29, 3)
  );
}
const grey = (luma: number) => [luma, luma, luma] as const;

let clips = 0;

/** A timeline of one clip with pictures of its own, and its file. */
async function clipOf(rgb: NonNullable<TestMedia['rgb']>, frames: number) {
  const path = join(await workFolder(), 'analysis', `source-${clips++}.mkv`);
  await writeTestMedia(path, {
    encoder: 'ffv1',
    pixelFormat: 'yuv444p',
    width,
    height,
    rate: [24, 1],
    frames,
    gop: 1,
    rgb,
  });
  return streamsOf(await testMedia(path));
}

const analyse = (source: Awaited<ReturnType<typeof clipOf>>, analysis: AnalysisChoice) =>
  runExport(
    source,
    { keep: true },
    { analysis, output: intermediateChoice('prores-hq'), keepIn: 'analyses' },
  );

const moving = (dx: number, dy: number) => (x: number, y: number, index: number) =>
  grey(ground(x, y, dx * index, dy * index));

/** Luma of every picture of a file, 8 bit. */
async function lumaOf(path: string): Promise<Uint8Array[]> {
  const pictures: Uint8Array[] = [];
  await decodeOutput(path, {
    rate: { num: 24, den: 1 },
    threads: 1,
    isStopped: () => false,
    onFrames: () => undefined,
    onFrame: async (frame) => {
      pictures.push(await greyAt(frame, width, height));
    },
  });
  return pictures;
}

/** Mean difference of a picture from what the ground looks like at a place, off the edges, luma steps. */
function distance(picture: Uint8Array, dx: number, dy: number): number {
  let [sum, count] = [0, 0];
  for (let y = 40; y < height - 40; y++)
    for (let x = 60; x < width - 60; x++) {
      sum += Math.abs(picture[y * width + x]! - ground(x, y, dx, dy));
      count++;
    }
  return sum / count;
}

test.each(Object.values(choices))(
  '$work: as many pictures as it says, each proved, and how far it is, told',
  async (choice) => {
    for (const frames of [9, 2, 1]) {
      const { end, record, progress, volume } = await analyse(await clipOf(moving(2, 1), frames), choice);
      if (end.kind !== 'done') throw new Error(JSON.stringify(end));
      const total = analysisFrames(frames, choice);
      expect(record.made).toMatchObject({ frames: total, pixelFormat: 'yuv422p10le' });
      expect(record.proof).toMatchObject({ frames: total, problems: [], damaged: 0 });
      expect(record.found!.work).toBe(choice.work);
      expect(progress.at(-1)).toMatchObject({ phase: 'proving', total });
      // Every stage counts what it stands for, so that its replay hangs together.
      const { stages } = record.windows;
      for (const { frames: passed } of Object.values(stages)) expect(passed.at(-1)).toBe(total);
      expect(await readdir(volume)).toEqual(['analyses']);
    }
  },
);

test('interpolated pictures are where the movement would have them; blended ones are of two places', async () => {
  const source = await clipOf(moving(5, 2), 10);
  const picturesOf = async (choice: AnalysisChoice) => {
    const { record, volume } = await analyse(source, choice);
    return lumaOf(join(volume, record.made!.keptAs!));
  };
  const interpolated = await picturesOf(choices['slow-motion']);
  const blended = await picturesOf({ ...choices.blend, factor: 2 });
  expect([interpolated.length, blended.length]).toEqual([19, 19]);
  for (let at = 4; at < 15; at++) {
    const place = [at * 2.5, at] as const;
    if (at % 2 === 0) expect(distance(interpolated[at]!, ...place)).toBeLessThan(2);
    else {
      expect(distance(interpolated[at]!, ...place)).toBeLessThan(distance(blended[at]!, ...place) / 2);
      // And a blend is nearer to the true picture than either of those that it is mixed of.
      const [before, after] = [blended[at - 1]!, blended[at + 1]!];
      const own = distance(blended[at]!, ...place);
      expect(own).toBeLessThan(Math.min(distance(before, ...place), distance(after, ...place)));
    }
  }
});

test('points are followed as far as the picture moves, and drawn where they are', async () => {
  const { record, volume } = await analyse(await clipOf(moving(1.5, -0.75), 12), choices.track);
  const { points, pixelsPerFrame } = record.found!;
  expect(points!.found).toBeGreaterThan(40);
  expect(points!.kept).toBeGreaterThan(points!.found * 0.7);
  expect(Math.abs(pixelsPerFrame! - Math.hypot(1.5, 0.75))).toBeLessThan(0.05);
  const drawn = await lumaOf(join(volume, record.made!.keptAs!));
  // Most of the picture is as it was; crosses are brighter than anything in it.
  expect(distance(drawn[6]!, 9, -4.5)).toBeLessThan(12);
  expect(drawn[6]!.filter((luma) => luma > 225).length).toBeGreaterThan(points!.kept * 5);
});

test('a shaky picture stands stiller after stabilising, by what another method finds', async () => {
  const shake = (index: number) => [4 * Math.sin(index * 2.1), 3 * Math.cos(index * 1.7)] as const;
  const source = await clipOf((x, y, index) => grey(ground(x, y, ...shake(index))), 16);
  const { record, volume } = await analyse(source, choices.stabilise);
  const before = await analyse(source, choices.track);
  const after = await analyse(streamsOf(await testMedia(join(volume, record.made!.keptAs!))), choices.track);
  expect(before.record.found!.pixelsPerFrame!).toBeGreaterThan(3);
  expect(after.record.found!.pixelsPerFrame!).toBeLessThan(before.record.found!.pixelsPerFrame! / 3);
});

test('a matte leaves out as much as there is of the colour', async () => {
  const source = await clipOf(
    (x, y, index) => (x < width * 0.3 ? [0, 177, 64] : grey(ground(x, y, index, 0))),
    8,
  );
  const { record, volume } = await analyse(source, choices.matte);
  expect(Math.abs(record.found!.leftOut! - 0.3)).toBeLessThan(0.02);
  const [picture] = await lumaOf(join(volume, record.made!.keptAs!));
  expect(picture![100 * width + 20]).toBeLessThan(20);
  expect(picture![100 * width + 200]).toBeGreaterThan(230);
});

test('one that is cancelled leaves nothing, and says how far it was', async () => {
  const source = await clipOf(moving(2, 1), 60);
  const { end, record, progress, volume } = await runExport(
    source,
    {},
    { analysis: choices['slow-motion'], output: intermediateChoice('mjpeg') },
    (host, { frames }) => {
      if (frames > 0) host.cancel();
    },
  );
  expect(end.kind).toBe('cancelled');
  expect(await readdir(volume)).toEqual([]);
  expect(record.made).toBeNull();
  expect(progress.at(-1)!.frames).toBeLessThan(119);
});
