import { defaultBufferDepths } from '@/core/playback/slots';
import { planCourse } from './course';
import { calibrationCube, processForecastUs, type EffectCosts } from './effectCosts';
import { parseCube } from '@/core/formats/cube';
import { forecastTimeline, type KnownRates } from './forecast';
import type { Effect } from './model';
import { clipItem, intra, timelineOf } from './testing/testTimeline';

const costs: EffectCosts = {
  width: 1920,
  height: 1080,
  scales: [
    { scale: 'full', baseUs: 10_000, layerUs: 12_000, effects: { blur: 40_000 } },
    { scale: 'half', baseUs: 3_000, layerUs: 3_000, effects: { blur: 9_000 } },
  ],
};
const known = (change: Partial<KnownRates> = {}): KnownRates => ({
  bytesPerSecond: () => 1e9,
  framesPerSecond: () => 200,
  costs,
  isDeep: () => false,
  ...change,
});
const blur: Effect = { id: 'b', on: true, kind: 'blur', radius: 0.01 };
const plain = timelineOf([clipItem('a', 0, 96)]);
const blurred = timelineOf([{ ...clipItem('a', 0, 96), effects: [blur] }]);
const planOf = (timeline: typeof plain) =>
  planCourse(timeline, { from: 0, slots: 96, speed: 1 }, new Map([['m', intra(200)]]));

test('a run within its means plays solid', () => {
  expect(forecastTimeline(plain, planOf(plain), known(), 'full', defaultBufferDepths)).toMatchObject({
    slots: 96,
    dropped: 0,
    grade: 'solid',
    meanMs: { decode: 5, process: 10 },
  });
});

test('an effect beyond the slot drops by processing, and half scale cures it', () => {
  const full = forecastTimeline(blurred, planOf(blurred), known(), 'full', defaultBufferDepths);
  expect(full.dropped).toBeGreaterThan(10);
  expect(Number(Object.entries(full.countByCharge).sort((a, b) => b[1] - a[1])[0]?.[0])).toBe(4);
  expect(forecastTimeline(blurred, planOf(blurred), known(), 'half', defaultBufferDepths).dropped).toBe(0);
});

test('a slow volume and a slow decoder are charged as themselves', () => {
  const slowVolume = forecastTimeline(
    plain,
    planOf(plain),
    known({ bytesPerSecond: () => 80 * 12 }),
    'full',
    defaultBufferDepths,
  );
  expect(Number(Object.keys(slowVolume.countByCharge)[0])).toBe(1);
  const slowDecoder = forecastTimeline(
    plain,
    planOf(plain),
    known({ framesPerSecond: () => 15 }),
    'full',
    defaultBufferDepths,
  );
  expect(Number(Object.entries(slowDecoder.countByCharge).sort((a, b) => b[1] - a[1])[0]?.[0])).toBe(2);
});

test('decoding and processing share the processor: what fits alone does not fit together', () => {
  const timeline = timelineOf([{ ...clipItem('a', 0, 96), effects: [{ ...blur }] }]);
  const cheap: EffectCosts = {
    ...costs,
    scales: [{ scale: 'full', baseUs: 30_000, layerUs: 0, effects: { blur: 0 } }],
  };
  expect(
    forecastTimeline(timeline, planOf(timeline), known({ costs: cheap }), 'full', defaultBufferDepths)
      .dropped,
  ).toBe(0);
  expect(
    forecastTimeline(
      timeline,
      planOf(timeline),
      known({ costs: cheap, framesPerSecond: () => 33 }),
      'full',
      defaultBufferDepths,
    ).dropped,
  ).toBeGreaterThan(10);
});

test('a medium with more than 8 bits costs what 16 bits cost, and with it all that is shown together', () => {
  const deep = costs.scales.map((one) => ({ ...one, baseUs: 4 * one.baseUs }));
  const both = { ...costs, deep };
  const meanProcess = (isDeep: KnownRates['isDeep']) =>
    forecastTimeline(plain, planOf(plain), known({ costs: both, isDeep }), 'half', defaultBufferDepths).meanMs
      .process;
  expect(meanProcess(() => false)).toBe(3);
  expect(meanProcess((media) => media === 'm')).toBe(12);
  expect(meanProcess((media) => media === 'other')).toBe(3);
});

test('costs grow with the pixels, and the calibration table is a sound one', () => {
  const layer = { effects: [{ kind: 'blur' as const }] };
  expect(processForecastUs(costs, 'full', 1920 * 1080, [layer, layer])).toBe(10_000 + 12_000 + 80_000);
  expect(processForecastUs(costs, 'full', 2 * 1920 * 1080, [layer])).toBe(100_000);
  expect(processForecastUs(costs, 'quarter', 1920 * 1080, [layer])).toBe(0);
  expect(processForecastUs(costs, 'full', 1920 * 1080, [])).toBe(0);
  expect(processForecastUs(costs, 'full', 1920 * 1080, [layer], true)).toBe(0);
  expect(parseCube(calibrationCube())).toMatchObject({ dimensions: 3, size: 17 });
});
