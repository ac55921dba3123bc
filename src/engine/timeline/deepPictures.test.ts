import { AV_PIX_FMT_GBRP, AV_PIX_FMT_GBRP10LE, type AVPixelFormat } from 'node-av/constants';
import type { Frame } from 'node-av/lib';
import { mkdtemp } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { WorkingDepth } from '@/core/playback/settings';
import { wholePicture, type Effect, type EffectSettings, type Item } from '@/core/timeline/model';
import { emptyPicture } from '../codec/framePool';
import { greenAt, Processor } from '../codec/processor';
import { outputFilter } from '../task/colour';
import type { GraphOutput } from '../codec/depth';
import type { GraphFiles } from './pictureGraph';
import { SlotProcessor } from './slotProcessor';
import { writeLooks } from './openTimeline';
import { layersAt as layersOf } from '../testing/testLayers';

/** One column for each level that 10 bits have. */
const raster = { width: 1024, height: 64 };
const most = 65_535;
type Pixel = readonly [red: number, green: number, blue: number];
let files: GraphFiles;

beforeAll(async () => {
  const folder = await mkdtemp(join(tmpdir(), 'navvy-deep-'));
  // Half of red, all of green, blue turned round: linear between its corners, so that every value of it is known.
  const corners = [0, 1].flatMap((b) => [0, 1].flatMap((g) => [0, 1].map((r) => `${r / 2} ${g} ${1 - b}`)));
  files = await writeLooks(
    {
      half: `LUT_3D_SIZE 2\n${corners.join('\n')}\n`,
      // The same behind curves that take 0 to 1 to -1 to 3, which is the range of the grid.
      shaped: `LUT_1D_SIZE 2\nLUT_3D_SIZE 2\nLUT_3D_INPUT_RANGE -1 3\n-1 -1 -1\n3 3 3\n${corners.join('\n')}\n`,
    },
    folder,
  );
});

/** A picture whose every column is one colour. @param colour each channel in levels of the format */
function columns(colour: (x: number) => Pixel, format: AVPixelFormat = AV_PIX_FMT_GBRP10LE): Frame {
  const frame = emptyPicture(raster.width, raster.height, format);
  const deep = format === AV_PIX_FMT_GBRP10LE;
  // Planes lie in the order green, blue, red.
  [1, 2, 0].forEach((channel, index) => {
    const plane = frame.data?.[index] as Buffer;
    for (let y = 0; y < raster.height; y++)
      for (let x = 0; x < raster.width; x++) {
        const at = y * (frame.linesize[index] as number);
        if (deep) plane.writeUInt16LE(colour(x)[channel] as number, at + 2 * x);
        else plane[at + x] = colour(x)[channel] as number;
      }
  });
  return frame;
}

const ramp = (x: number): Pixel => [x, 1023 - x, (x * 37) % 1024];
const white = (): Pixel => [1023, 1023, 1023];
/** What a level of 10 bits is of the whole. */
const shares = (x: number) => ramp(x).map((level) => level / 1023) as unknown as Pixel;

const effect = (settings: EffectSettings): Effect => ({ id: settings.kind, on: true, ...settings });
const placed = (place: typeof wholePicture, opacity = 1) =>
  effect({ kind: 'transform', crop: wholePicture, place, opacity });

const layersAt = (slot: number, ...items: readonly Partial<Item>[]) => layersOf(raster, slot, ...items);

/** Processes slots of some layers with one processor, and reads the last. */
async function processed(
  slots: readonly ReturnType<typeof layersAt>[],
  frames: readonly (Frame | null)[],
  { depth = 'kept', output }: { depth?: WorkingDepth; output?: GraphOutput } = {},
) {
  const processor = new SlotProcessor(raster, { files, depth, fields: 'woven' }, output ? { output } : {});
  let last: { at: (x: number, y: number) => Pixel; levels: number; deep: boolean } | null = null;
  for (const layers of slots) {
    const picture = await processor.process(layers, frames);
    const pixels = Buffer.from(picture.pixels);
    const { stride, deep } = picture;
    const at = (x: number, y: number): Pixel =>
      [0, 1, 2].map((channel) =>
        deep
          ? pixels.readUInt16LE(y * stride + 8 * x + 2 * channel)
          : (pixels[y * stride + 4 * x + channel] as number) * 257,
      ) as unknown as Pixel;
    const reds = new Set(Array.from({ length: raster.width }, (_, x) => at(x, 10)[0]));
    expect([picture.width, picture.height]).toEqual([raster.width, raster.height]);
    expect(greenAt(picture, 7, 5)).toBe(at(7, 5)[1] >> 8);
    last = { at, levels: reds.size, deep };
    processor.release(picture);
  }
  await processor.close();
  for (const frame of frames) frame?.free();
  return last!;
}

/** Holds each column of a line to what it is to be. @param within levels of 16 bits */
function expectColumns(
  at: (x: number, y: number) => Pixel,
  wanted: (x: number) => Pixel,
  { y = 10, from = 0, to = raster.width, within = 160 } = {},
) {
  for (let x = from; x < to; x++) {
    const got = at(x, y);
    wanted(x).forEach((value, channel) => {
      const off = Math.abs((got[channel] as number) - Math.min(1, Math.max(0, value)) * most);
      if (off > within)
        throw new Error(`Column ${x}, channel ${channel}: ${got[channel]} for ${value * most} (off ${off})`);
    });
  }
}

test('a picture of 10 bits keeps all its levels; in 8 bits it does not', async () => {
  const kept = await processed([layersAt(0, {})], [columns(ramp)]);
  expect(kept.deep).toBe(true);
  expect(kept.levels).toBe(1024);
  expectColumns(kept.at, shares);
  const plain = await processed([layersAt(0, {})], [columns(ramp)], { depth: '8-bit' });
  expect(plain.deep).toBe(false);
  expect(plain.levels).toBe(256);
  expectColumns(plain.at, shares, { within: 400 });
});

test('a picture of 8 bits is worked on in 8', async () => {
  const { deep, levels } = await processed(
    [layersAt(0, {})],
    [columns((x) => [x >> 2, 0, 0], AV_PIX_FMT_GBRP)],
  );
  expect({ deep, levels }).toEqual({ deep: false, levels: 256 });
});

const luma = ([r, g, b]: Pixel) => 0.2126 * r + 0.7152 * g + 0.0722 * b;
test.each<[string, EffectSettings, (colour: Pixel) => Pixel]>([
  ['white balance', { kind: 'white-balance', gains: [0.9, 1, 0.5] }, ([r, g, b]) => [0.9 * r, g, 0.5 * b]],
  [
    'lift, gamma, gain',
    { kind: 'lift-gamma-gain', lift: [0.1, 0, -0.05], gamma: [1.25, 1, 0.8], gain: [0.8, 1, 1.1] },
    ([r, g, b]) => [
      (0.8 * (r + 0.1 * (1 - r))) ** (1 / 1.25),
      g,
      Math.min(1, Math.max(0, 1.1 * (b - 0.05 * (1 - b)))) ** (1 / 0.8),
    ],
  ],
  [
    'saturation',
    { kind: 'saturation', amount: 0.5 },
    (colour) => colour.map((value) => luma(colour) + 0.5 * (value - luma(colour))) as unknown as Pixel,
  ],
  ['a look', { kind: 'lut', lookId: 'half', name: 'half' }, ([r, g, b]) => [r / 2, g, 1 - b]],
  ['a look of two tables', { kind: 'lut', lookId: 'shaped', name: '' }, ([r, g, b]) => [r / 2, g, 1 - b]],
])('%s is computed in 16 bits', async (_, settings, wanted) => {
  const got = await processed([layersAt(0, { effects: [effect(settings)] })], [columns(ramp)]);
  expect(got.levels).toBeGreaterThan(900);
  expectColumns(got.at, (x) => wanted(shares(x)));
});

test('several effects after each other lose no level', async () => {
  const down = effect({ kind: 'white-balance', gains: [0.25, 0.25, 0.25] });
  const up = { ...effect({ kind: 'white-balance', gains: [2, 2, 2] }), id: 'up' };
  const effects = [down, up, { ...up, id: 'again' }];
  const kept = await processed([layersAt(0, { effects })], [columns(ramp)]);
  expect(kept.levels).toBe(1024);
  expectColumns(kept.at, shares);
  const plain = await processed([layersAt(0, { effects })], [columns(ramp)], { depth: '8-bit' });
  expect(plain.levels).toBeLessThan(70);
});

test('a picture lies in its place over black, over another, half seen, and partly outside', async () => {
  const quarter = { x: 0.5, y: 0, width: 0.5, height: 0.5 };
  // Half as wide and high: a column is the mean of two.
  const inPlace = (x: number) => {
    const [one, two] = [shares((x - 512) * 2), shares((x - 512) * 2 + 1)];
    return [(one[0] + two[0]) / 2, (one[1] + two[1]) / 2, 0] as unknown as Pixel;
  };
  const noBlue = (x: number): Pixel => [x, 1023 - x, 0];
  const on = (opacity: number) => layersAt(0, { effects: [placed(quarter, opacity)] });
  const alone = await processed([on(1)], [columns(noBlue)]);
  expectColumns(alone.at, inPlace, { from: 520, to: 1016, within: 200 });
  expectColumns(alone.at, () => [0, 0, 0], { to: 512 });
  expectColumns(alone.at, () => [0, 0, 0], { y: 40 });
  const faint = await processed([on(0.25)], [columns(noBlue)]);
  expectColumns(faint.at, (x) => inPlace(x).map((value) => value / 4) as unknown as Pixel, {
    from: 520,
    to: 1016,
    within: 200,
  });
  const over = await processed(
    [layersAt(0, {}, { effects: [placed(quarter, 0.5)] })],
    [columns(white), columns(noBlue)],
  );
  expectColumns(over.at, () => [1, 1, 1], { to: 512 });
  expectColumns(over.at, () => [1, 1, 1], { y: 40 });
  expectColumns(over.at, (x) => inPlace(x).map((value) => 0.5 + value / 2) as unknown as Pixel, {
    from: 520,
    to: 1016,
    within: 200,
  });
  const outside = await processed(
    [layersAt(0, {}, { effects: [placed({ x: 0.75, y: -0.25, width: 0.5, height: 0.5 })] })],
    [columns(white), columns(noBlue)],
  );
  expectColumns(outside.at, () => [1, 1, 1], { to: 768 });
  expectColumns(outside.at, (x) => inPlace(x - 256), { from: 776, to: 1016, within: 200 });
  expectColumns(outside.at, () => [1, 1, 1], { y: 20 });
});

test('a fade goes on from slot to slot by one graph', async () => {
  const fading: Partial<Item> = { start: 0, length: 100 };
  const tracks = layersAt(0, fading, fading);
  const faded = (fade: number) => tracks.map((layer, at) => (at === 1 ? { ...layer, fade } : layer));
  const got = await processed([faded(0.9), faded(0.125)], [columns(white), columns(ramp)]);
  expectColumns(got.at, (x) => shares(x).map((value) => 0.875 + 0.125 * value) as unknown as Pixel);
  expect(got.levels).toBeGreaterThan(1000);
});

test('layers of 8 and of more bits lie over each other in 16', async () => {
  const half = { x: 0, y: 0.25, width: 0.5, height: 0.5 };
  const got = await processed(
    [layersAt(0, {}, { effects: [placed(half)] })],
    [columns(ramp), columns(() => [255, 0, 51], AV_PIX_FMT_GBRP)],
  );
  expect(got.deep).toBe(true);
  expectColumns(got.at, shares);
  expectColumns(got.at, () => [1, 0, 0.2], { y: 32, to: 512, within: 400 });
});

test('titles and blurs leave the levels that they do not touch', async () => {
  const title = effect({ kind: 'title', text: 'I', size: 0.5, x: 0.5, y: 0.75 });
  const titled = await processed([layersAt(0, { effects: [title] })], [columns(() => [0, 0, 0])]);
  const lit = Array.from({ length: raster.width }, (_, x) => titled.at(x, 48)[1]);
  expect(Math.max(...lit)).toBeGreaterThan(0.95 * most);
  const over = await processed([layersAt(0, { effects: [title] })], [columns(ramp)]);
  expectColumns(over.at, shares);
  const own = layersAt(0, {}, { source: { kind: 'title' }, effects: [title] });
  const drawn = await processed([own], [columns(ramp), null]);
  expectColumns(drawn.at, shares);
  expect(drawn.at(512, 48)[1]).toBeGreaterThan(0.95 * most);
  const blurred = await processed(
    [layersAt(0, { effects: [effect({ kind: 'blur', radius: 0.05 })] })],
    [columns((x) => [x, x, x])],
  );
  expect(blurred.levels).toBeGreaterThan(900);
});

test('what a task writes in 10 bits has them from the source through its effects', async () => {
  const processor = new SlotProcessor(
    raster,
    { files, depth: 'kept', fields: 'woven' },
    { output: () => outputFilter('yuv422p10le', { width: raster.width, height: 1080 }) },
  );
  const source = columns((x) => [x, x, x]);
  const effects = [effect({ kind: 'white-balance', gains: [0.5, 0.5, 0.5] })];
  const { frame } = await processor.process(layersAt(0, { effects }), [source]);
  // Narrow range: 876 levels from black to white. Source: Rec. ITU-R BT.709.
  const plane = frame.data?.[0] as Buffer;
  for (let x = 0; x < raster.width; x++) {
    const wanted = 64 + (876 * x) / 1023 / 2;
    const got = plane.readUInt16LE(10 * (frame.linesize[0] as number) + 2 * x);
    expect(Math.abs(got - wanted)).toBeLessThan(2);
  }
  frame.free();
  source.free();
  await processor.close();
});

test('a clip alone keeps its levels at every scale, and its pictures come back to be used again', async () => {
  for (const [scale, width] of [
    ['full', 1024],
    ['half', 512],
  ] as const) {
    const processor = new Processor(raster.width, raster.height, scale, { depth: 'kept' });
    const deep = columns(ramp);
    const plain = columns((x) => [x >> 2, 0, 0], AV_PIX_FMT_GBRP);
    const picture = await processor.process(deep);
    const reds = new Set(
      Array.from({ length: width }, (_, x) => picture.pixels.readUInt16LE(4 * picture.stride + 8 * x)),
    );
    expect(picture.deep).toBe(true);
    expect(reds.size).toBe(width);
    processor.release(picture);
    const other = await processor.process(plain);
    expect(other.deep).toBe(false);
    expect(other.pixels[0]).toBeLessThan(2);
    processor.release(other);
    expect(await processor.process(deep)).toBe(picture);
    processor.close();
    [deep, plain].forEach((frame) => frame.free());
  }
});
