import { decodePacketTable } from '@/core/media/packetTable';
import { skippedAt, slotState } from '@/core/playback/slots';
import { rational } from '@/core/time/rational';
import { crossFade } from '@/core/timeline/edits';
import {
  emptyTimeline,
  type Effect,
  type EffectSettings,
  type Item,
  type Timeline,
} from '@/core/timeline/model';
import { demoClips, type DemoClip } from '@/demo/clips';
import { Log } from 'node-av/lib';
import { AV_LOG_FATAL } from 'node-av/constants';
import { FrameAccess } from '../codec/frameAccess';
import { OpenTimeline } from './openTimeline';
import { playbackRaster } from '../codec/processor';
import { SlotAccess } from './slotAccess';
import { SlotProcessor } from './slotProcessor';
import type { TimelineSpec } from './spec';
import { smallClip } from '../testing/testTrial';
import { judge, runTimeline, specOf, testMedia, type TestMedia } from '../testing/testTimelineRun';

Log.setLevel(AV_LOG_FATAL);

const small = { width: 320, height: 180 };
const kite = demoClips.find(({ file }) => file.includes('KITE')) as DemoClip;
const proxy = demoClips.find(({ file }) => file.includes('proxy')) as DemoClip;
let media: { long: TestMedia; intra: TestMedia };

beforeAll(async () => {
  const long = await smallClip({
    ...kite,
    file: 'long.mp4',
    frames: 72,
    picture: { ...kite.picture, ...small },
    sound: undefined,
  });
  const intra = await smallClip({
    ...proxy,
    file: 'intra.mov',
    frames: 72,
    picture: { ...proxy.picture, ...small },
    sound: undefined,
  });
  media = { long: await testMedia(long), intra: await testMedia(intra) };
});

const effect = (settings: EffectSettings): Effect => ({ id: settings.kind, on: true, ...settings });
const item = (
  id: string,
  name: 'long' | 'intra',
  start: number,
  length: number,
  first = 0,
  effects: Effect[] = [],
): Item => ({
  id,
  name: id,
  start,
  length,
  source: { kind: 'clip', media: name, in: first, speed: rational(1) },
  effects,
});
const pip = effect({
  kind: 'transform',
  crop: { x: 0, y: 0, width: 1, height: 1 },
  place: { x: 0.5, y: 0.5, width: 0.5, height: 0.5 },
  opacity: 1,
});

function timelineOf(...tracks: Item[][]): Timeline {
  return {
    ...emptyTimeline('Tidewrack', rational(24), small.width, small.height),
    tracks: tracks.map((items, at) => ({ id: `v${at}`, name: `V${at + 1}`, on: true, items })),
  };
}

const shown = (trace: { shownFrame: ArrayLike<number> }) => Array.from(trace.shownFrame);

test('two tracks, a cut and a cross-fade play every slot with exactly the frame it is due, proved by the block code', async () => {
  const cutTimeline = timelineOf(
    [item('a', 'long', 0, 30, 5), item('b', 'intra', 30, 30, 10)],
    [item('c', 'intra', 10, 20, 40, [pip])],
  );
  const spec = specOf(
    crossFade({ ...cutTimeline, media: { long: media.long.ref, intra: media.intra.ref } }, 'b', 8),
    media,
  );
  const run = await runTimeline(spec, {}, { policy: 'every-frame' }, 1);
  expect(run.end.kind).toBe('done');
  expect(run.findings?.frameCode).toBe(true);
  expect(Array.from(run.trace.state).every((state) => state === slotState.shown)).toBe(true);
  // The topmost picture: the cross-fade begins at slot 26, the upper track covers 10 to 29.
  expect(shown(run.trace)).toEqual(
    Array.from({ length: 60 }, (_, slot) =>
      slot >= 10 && slot < 30 ? 30 + slot : slot >= 26 ? slot - 20 : slot + 5,
    ),
  );
  expect(run.pictures.length).toBeGreaterThan(0);
  expect(run.conditions?.cold.method).toMatch(/direct|evicted/);
  expect(run.conditions?.decoder).toContain('h264');
});

test.each([
  [2, 0],
  [4, 0],
  [8, 0],
  [-1, 59],
  [-2, 59],
  [-8, 59],
])('at %ix from slot %i the exact frames come out of a long-GOP clip', async (speed, from) => {
  const spec = specOf(timelineOf([item('a', 'long', 0, 60, 3)]), media);
  const { trace, end, course, plan } = await runTimeline(spec, { speed, from }, { policy: 'every-frame' });
  expect(end.kind).toBe('done');
  expect(course.slots).toBe(Math.ceil(60 / Math.abs(speed)));
  expect(shown(trace)).toEqual(Array.from({ length: course.slots }, (_, slot) => from + slot * speed + 3));
  expect(trace.state.every((state) => state === slotState.shown)).toBe(true);
  // Forward no packet is read twice.
  if (speed > 0) expect(new Set(plan.feeds[0]?.plan.rows).size).toBe(plan.feeds[0]?.plan.rows.length);
});

test('a looped stretch comes round exactly', async () => {
  const { trace } = await runTimeline(
    specOf(timelineOf([item('a', 'long', 0, 60)]), media),
    { from: 20, slots: 25, loop: { from: 20, to: 30 } },
    { policy: 'every-frame' },
  );
  expect(shown(trace)).toEqual(Array.from({ length: 25 }, (_, slot) => 20 + (slot % 10)));
});

test('what is late is given up, and what is shown stays exact; the parts that cost are measured', async () => {
  const blurred = item('a', 'intra', 0, 60, 0, [
    effect({ kind: 'blur', radius: 0.05 }),
    effect({ kind: 'saturation', amount: 1 }),
  ]);
  // A raster so large that what is compared stands far apart.
  const spec = specOf(
    { ...timelineOf([blurred], [item('b', 'long', 0, 60, 0, [pip])]), width: 1280, height: 720 },
    media,
  );
  const run = await runTimeline(spec, {}, { faults: [{ stage: 'process', slot: 30, slots: 4 }] });
  expect(run.end.kind).toBe('done');
  const dropped = run.trace.state.filter((state) => state === slotState.dropped).length;
  expect(dropped).toBeGreaterThan(0);
  expect(Array.from(run.trace.skipped).some((where) => where !== skippedAt.none)).toBe(true);
  run.trace.state.forEach((state, slot) => {
    if (state !== slotState.dropped) expect(run.trace.shownFrame[slot]).toBe(slot);
  });
  const [combination] = run.findings?.parts?.combinations ?? [];
  const without = (itemId: string, effectId: string | null) =>
    combination?.withoutUs.find((one) => one.itemId === itemId && one.effectId === effectId)?.us;
  expect(without('a', 'blur')).toBeLessThan(combination?.totalUs as number);
  expect(without('a', null)).toBeLessThan(combination?.totalUs as number);
  expect(run.findings?.coreCosts?.quarter).toBeLessThan(run.findings?.coreCosts?.full as number);
  expect(run.findings?.scaleCosts?.quarter).toBeLessThan(run.findings?.scaleCosts?.full as number);
  const { summary } = judge(spec, run);
  expect(summary.attribution?.agreement).toBeGreaterThan(0.9);
  expect(summary.dropped).toBe(dropped);
});

test('a missing clip leaves its layer out instead of ending the run', async () => {
  const spec = specOf(timelineOf([item('a', 'long', 0, 20)], [item('c', 'intra', 5, 10, 0, [pip])]), media);
  const { end, trace } = await runTimeline(
    { ...spec, media: { long: spec.media.long! } },
    {},
    { policy: 'every-frame' },
  );
  expect(end.kind).toBe('done');
  expect(trace.state.every((state) => state === slotState.shown)).toBe(true);
});

describe('any frame in any order', () => {
  let opened: OpenTimeline;
  beforeAll(async () => {
    opened = await OpenTimeline.open(specOf(timelineOf([]), media), { warm: true });
  });
  afterAll(() => opened.close());

  const numbers = async (name: 'long' | 'intra', wanted: number[]) => {
    const access = new FrameAccess(opened.media.get(name)!, 1);
    const found: (number | null)[] = [];
    for (const frame of wanted) {
      const got = await access.frame(frame, () => false);
      found.push(got ? Number(got.pts) : null);
      got?.free();
    }
    const { packets } = access.cost;
    await access.close();
    return { found, packets };
  };

  test.each(['long', 'intra'] as const)(
    'stepping forward through the %s clip decodes no frame twice',
    async (name) => {
      const wanted = Array.from({ length: 72 }, (_, frame) => frame);
      expect(await numbers(name, wanted)).toEqual({
        found: wanted,
        packets: decodePacketTable(media[name].spec.packets).length,
      });
    },
  );

  test('stepping backward decodes a group once as far as it is kept', async () => {
    const wanted = Array.from({ length: 40 }, (_, at) => 60 - at);
    const { found, packets } = await numbers('long', wanted);
    expect(found).toEqual(wanted);
    expect(packets).toBeLessThanOrEqual(3 * 24 + 12);
  });

  test('jumps in any order give the frames that were asked for', async () => {
    let seed = 7;
    const wanted = Array.from({ length: 60 }, () => {
      seed = (seed * 1_103_515_245 + 12_345) % 2_147_483_648;
      return seed % 72;
    });
    expect((await numbers('long', wanted)).found).toEqual(wanted);
    expect((await numbers('intra', wanted)).found).toEqual(wanted);
  });

  test('a request that went stale is given up, and the next one is still exact', async () => {
    const access = new FrameAccess(opened.media.get('long')!, 1);
    let asked = 0;
    expect(await access.frame(40, () => ++asked > 5)).toBeNull();
    const frame = await access.frame(41, () => false);
    expect(Number(frame?.pts)).toBe(41);
    frame?.free();
    // Given up right after a jump forward, before anything came out: a frame before it is fetched from its own key frame.
    for (const [given, next] of [
      [60, 5],
      [50, 24],
      [71, 30],
      [49, 48],
    ] as const) {
      asked = 0;
      expect(await access.frame(given, () => ++asked > 2)).toBeNull();
      const exact = await access.frame(next, () => false);
      expect(Number(exact?.pts)).toBe(next);
      exact?.free();
    }
    await access.close();
  });
});

describe('effects change the picture as they say', () => {
  const red = 'LUT_1D_SIZE 2\n1 0 0\n1 0 0\n';
  async function pixels(effects: Effect[], timeline?: Timeline, slot = 10) {
    const spec: TimelineSpec = specOf(
      timeline ?? timelineOf([item('a', 'intra', 0, 60, 0, effects)]),
      media,
      { red },
    );
    const opened = await OpenTimeline.open(spec, { warm: true });
    const access = new SlotAccess(
      spec.timeline,
      opened.media,
      new SlotProcessor(playbackRaster(spec.timeline, 'full'), opened),
      1,
    );
    const got = await access.fetch(slot);
    const { picture } = got!;
    const at = (x: number, y: number) =>
      [...picture.pixels.subarray(y * picture.stride + x * 4, y * picture.stride + x * 4 + 3)] as [
        number,
        number,
        number,
      ];
    const mean = [0, 1, 2].map((channel) => {
      let sum = 0;
      for (let y = 0; y < picture.height; y++)
        for (let x = 0; x < picture.width; x++) sum += picture.pixels[y * picture.stride + x * 4 + channel]!;
      return sum / (picture.width * picture.height);
    });
    const copy = Buffer.from(picture.pixels);
    access.release(picture);
    await access.close();
    await opened.close();
    return {
      at,
      mean: mean as [number, number, number],
      copy,
      picture,
      wanted: got!.wanted,
      proved: got!.proved,
    };
  }

  test('the plain slot shows the frame it is due', async () => {
    const { wanted, proved, picture } = await pixels([]);
    expect([wanted, proved, picture.width, picture.height]).toEqual([10, 10, 320, 180]);
  });

  test('white balance, lift/gamma/gain, saturation and LUT work on the colours', async () => {
    const plain = await pixels([]);
    const balanced = await pixels([effect({ kind: 'white-balance', gains: [0, 1, 0.5] })]);
    expect(balanced.mean[0]).toBe(0);
    expect(balanced.mean[1]).toBeCloseTo(plain.mean[1], 0);
    expect(balanced.mean[2] / plain.mean[2]).toBeCloseTo(0.5, 1);
    const lifted = await pixels([
      effect({ kind: 'lift-gamma-gain', lift: [1, 0, 0], gamma: [1, 1, 1], gain: [1, 1, 0] }),
    ]);
    expect(lifted.mean[0]).toBeCloseTo(255, 0);
    expect(lifted.mean[1]).toBeCloseTo(plain.mean[1], 0);
    expect(lifted.mean[2]).toBe(0);
    const grey = await pixels([effect({ kind: 'saturation', amount: 0 })]);
    expect(Math.max(...grey.mean) - Math.min(...grey.mean)).toBeLessThan(1.5);
    const tabled = await pixels([effect({ kind: 'lut', lookId: 'red', name: 'red' })]);
    expect(tabled.mean.map(Math.round)).toEqual([255, 0, 0]);
    const gone = await pixels([effect({ kind: 'lut', lookId: 'gone', name: 'gone' })]);
    expect(gone.copy.equals(plain.copy)).toBe(true);
  });

  test('transform places a picture on black; blur and title change what is seen; an effect that is off does nothing', async () => {
    const plain = await pixels([]);
    const placed = await pixels([pip]);
    expect(placed.at(20, 20)).toEqual([0, 0, 0]);
    expect(Math.max(...placed.at(240, 135))).toBeGreaterThan(0);
    const half = await pixels([
      effect({
        kind: 'transform',
        crop: { x: 0, y: 0, width: 1, height: 1 },
        place: { x: 0, y: 0, width: 1, height: 1 },
        opacity: 0.5,
      }),
    ]);
    half.mean.forEach((value, channel) => expect(value / plain.mean[channel as 0]).toBeCloseTo(0.5, 1));
    for (const changed of [
      effect({ kind: 'blur', radius: 0.1 }),
      effect({ kind: 'title', text: "Low tide: 6' [x], 50%", size: 0.3, x: 0.5, y: 0.5 }),
    ]) {
      expect((await pixels([changed])).copy.equals(plain.copy)).toBe(false);
      expect((await pixels([{ ...changed, on: false }])).copy.equals(plain.copy)).toBe(true);
    }
  });

  test('halfway through a cross-fade both pictures are mixed; a gap is black; a moving still moves', async () => {
    const base = timelineOf([
      item('a', 'intra', 0, 30, 0),
      {
        ...item('t', 'intra', 40, 20),
        source: { kind: 'title' },
        effects: [effect({ kind: 'title', text: 'I', size: 0.9, x: 0.5, y: 0.5 })],
      },
    ]);
    expect((await pixels([], base, 35)).mean).toEqual([0, 0, 0]);
    expect((await pixels([], base, 45)).mean[0]).toBeGreaterThan(1);
    const still = (view: { x: number; y: number }) => ({
      ...item('s', 'intra', 0, 11),
      source: {
        kind: 'still' as const,
        media: 'intra',
        from: { x: 0, y: 0, width: 0.5, height: 0.5 },
        to: { ...view, width: 0.5, height: 0.5 },
      },
    });
    const moved = await pixels([], timelineOf([still({ x: 0.5, y: 0.5 })]), 10);
    const stayed = await pixels([], timelineOf([still({ x: 0, y: 0 })]), 10);
    expect(moved.copy.equals(stayed.copy)).toBe(false);
    const white = effect({ kind: 'lift-gamma-gain', lift: [1, 1, 1], gamma: [1, 1, 1], gain: [1, 1, 1] });
    const black = effect({ kind: 'white-balance', gains: [0, 0, 0] });
    const faded = await pixels(
      [],
      timelineOf([item('a', 'intra', 0, 20, 0, [black]), item('b', 'intra', 10, 20, 0, [white])]),
      14,
    );
    // Slot 4 of a fade over 10: 45 %.
    expect(faded.mean[0]).toBeCloseTo(255 * 0.45, -1);
  });
});
