import fc from 'fast-check';
import { fallPoint } from '../stats/changePoint';
import { normal } from '../stats/testing/noise';
import { seededRandom } from '../stats/random';
import { decodeBlocks, emptyBlocks, encodeBlocks, filterBlocks, joinBlocks, type Blocks } from './blocks';
import { throughputSentence } from '../sentences/storage';
import { rateFigures, summariseThroughput, windowRates } from './throughput';

/** Blocks one after the other, each of `bytes` in `us`. */
function row(
  blocks: readonly {
    bytes: number;
    us: number;
    write?: boolean;
    repeat?: number;
    due?: number;
    skipped?: boolean;
  }[],
): Blocks {
  const made = emptyBlocks(blocks.length);
  let now = 0;
  blocks.forEach(({ bytes, us, write = false, repeat = 0, due = Number.NaN, skipped = false }, at) => {
    made.startUs[at] = now;
    now += us;
    made.endUs[at] = now;
    made.bytes[at] = bytes;
    made.dueUs[at] = due;
    made.write[at] = write ? 1 : 0;
    made.repeat[at] = repeat;
    made.skipped[at] = skipped ? 1 : 0;
  });
  return made;
}

const steady = (count: number, bytes: number, us: number, more: { write?: boolean; repeat?: number } = {}) =>
  Array.from({ length: count }, () => ({ bytes, us, ...more }));

test('windows hold the bytes that flowed in them, also of blocks that reach over several', () => {
  // 1 MB over 1 s is 1 MB/s in each of its four windows
  expect([...windowRates(row([{ bytes: 1e6, us: 1e6 }]))].map(Math.round)).toEqual([1e6, 1e6, 1e6, 1e6]);
  // 100 kB in 125 ms, then 300 kB in 125 ms: one window of 1.6 MB/s
  expect(
    Math.round(
      windowRates(
        row([
          { bytes: 1e5, us: 125_000 },
          { bytes: 3e5, us: 125_000 },
        ]),
      )[0]!,
    ),
  ).toBe(1_600_000);
  expect(windowRates(row([{ bytes: 1e6, us: 100_000 }]))[0]).toBeCloseTo(10e6, 0); // shorter than a window
  expect(windowRates(emptyBlocks(0))).toHaveLength(0);
});

test('bytes are kept: windows times their length is what was transferred in them', () => {
  fc.assert(
    fc.property(
      fc.array(
        fc.record({ bytes: fc.integer({ min: 1, max: 1e7 }), us: fc.integer({ min: 150, max: 900_000 }) }),
        { minLength: 1, maxLength: 40 },
      ),
      (blocks) => {
        const made = row(blocks);
        const rates = windowRates(made, 100);
        const whole = blocks.reduce((sum, block) => sum + block.bytes, 0);
        const inWindows = rates.reduce((sum, rate) => sum + rate * 1e-4, 0);
        return (
          inWindows <= whole * 1.000001 &&
          inWindows >= whole - Math.max(...blocks.map((block) => (block.bytes * 100) / block.us)) * 1.01
        );
      },
    ),
    { numRuns: 50 },
  );
});

test('figures by hand: rate, latency and misses', () => {
  const figures = rateFigures(
    row([...steady(98, 1e6, 10_000), { bytes: 1e6, us: 40_000 }, { bytes: 1e6, us: 100_000 }]),
  )!;
  expect(figures.bytes).toBe(100e6);
  expect(figures.median / 1e6).toBeCloseTo(100, 6);
  expect(figures.latencyMs).toEqual({ p50: 10, p95: 10, p99: expect.closeTo(40.6, 5) as number, max: 100 });
  expect(figures.burst).toBeNull();
  const late = rateFigures(
    row([
      { bytes: 1, us: 10, due: 20 },
      { bytes: 1, us: 30, due: 35 },
      { bytes: 1, us: 1, due: 30, skipped: true },
    ]),
  )!;
  expect(late.missed).toBe(2);
  expect(late.blocks).toBe(2);
});

test('a cache that runs out is found: burst before, sustained after', () => {
  const figures = rateFigures(row([...steady(600, 4e6, 5_000), ...steady(300, 4e6, 20_000)]))!;
  expect(figures.burst).toMatchObject({ seconds: 3, bytes: 2.4e9 });
  expect(figures.sustained / 1e6).toBeCloseTo(200, 3);
  const three = rateFigures(
    row([...steady(600, 4e6, 5_000), ...steady(300, 4e6, 10_000), ...steady(300, 4e6, 40_000)]),
  )!;
  expect(three.sustained / 1e6).toBeCloseTo(100, 3);
});

test('noise and a single drop-out are no change of level', () => {
  const random = seededRandom(8);
  const noisy = Array.from({ length: 200 }, () => 100 + random() * 20);
  expect(fallPoint(noisy)).toBeNull();
  expect(fallPoint([...noisy.slice(0, 100), 0, 0, 0, 0, 0, 0, ...noisy.slice(100)])).toBeNull();
  expect(fallPoint(noisy.map((value, at) => (at < 120 ? value : value * 0.6)))).toBe(120);
  expect(fallPoint(noisy.map((value, at) => (at < 120 ? value : value * 1.8)))).toBeNull(); // faster is no fall
  expect(fallPoint([9, 9, 1, 1])).toBeNull(); // too short to tell
});

test('a dip at the end is no lower level, and a fall that lasts is one', () => {
  // 10 s at 100 MB/s, half a second at 20.
  const dip = rateFigures(row([...steady(1000, 1e6, 10_000), ...steady(10, 1e6, 50_000)]))!;
  expect(dip.burst).toBeNull();
  expect(dip.sustained / 1e6).toBeCloseTo(100, 1);
  const fall = rateFigures(row([...steady(1000, 1e6, 10_000), ...steady(60, 1e6, 50_000)]))!;
  expect(fall.burst).toMatchObject({ seconds: 10 });
  expect(fall.sustained / 1e6).toBeCloseTo(20, 1);
});

/** Values round 100 whose neighbours are alike: a first-order autoregression of a standard deviation. */
function alike(random: () => number, count: number, correlation: number, deviation: number): number[] {
  let last = deviation * normal(random);
  return Array.from({ length: count }, () => {
    const value = 100 * (1 + last);
    last = correlation * last + deviation * Math.sqrt(1 - correlation ** 2) * normal(random);
    return value;
  });
}

test.each([
  [120, 0.9],
  [120, 0.5],
  [60, 0.9],
  [240, 0.95],
])('noise of %i windows whose neighbours are alike (%f) makes no steps', (count, correlation) => {
  const random = seededRandom(21);
  const made = Array.from({ length: 600 }, () => fallPoint(alike(random, count, correlation, 0.2))).filter(
    (at) => at !== null,
  );
  expect(made.length / 600).toBeLessThanOrEqual(0.05);
});

test.each([
  [120, 60, 0.6, 0.5, 0.1],
  [120, 20, 0.6, 0.5, 0.1],
  [120, 60, 0.6, 0, 0.2],
  [40, 12, 0.6, 0, 0.05],
  [24, 12, 0.5, 0.3, 0.02],
])(
  'of %i windows a fall at %i to %f is found in noise (%f, %f)',
  (count, at, share, correlation, deviation) => {
    const random = seededRandom(22);
    const found = Array.from({ length: 200 }, () =>
      fallPoint(
        alike(random, count, correlation, deviation).map((value, index) =>
          index < at ? value : value * share,
        ),
      ),
    ).filter((place) => place !== null && Math.abs(place - at) <= 2);
    expect(found.length / 200).toBeGreaterThan(0.9);
  },
);

test('repeats are judged one by one and together, directions apart', () => {
  const blocks = row(
    [100, 90, 110].flatMap((rate, repeat) => [
      ...steady(60, rate * 1e4, 10_000, { repeat }),
      ...steady(60, 5e5, 10_000, { repeat, write: true }),
    ]),
  );
  const { read, write, repeats } = summariseThroughput(blocks);
  expect(repeats.map((repeat) => Math.round(repeat.read!.sustained / 1e6))).toEqual([100, 90, 110]);
  expect(read!.sustained / 1e6).toBeCloseTo(100, 6);
  expect(read!.spread).toBeCloseTo(0.2, 6);
  expect(write!.spread).toBeCloseTo(0, 6);
  expect(throughputSentence({ repeats, read, write }, null)).toBe(
    'Reads 100\u202fMB/s sustained, repeats within 20\u202f%; writes 50.0\u202fMB/s sustained, repeats within 0\u202f%.',
  );
  expect(throughputSentence({ repeats, read, write: null }, { streams: 3 })).toBe(
    'Every frame of 3 streams came in time, at 100\u202fMB/s.',
  );
  expect(throughputSentence(summariseThroughput(emptyBlocks(0)), null)).toBe('Nothing was transferred.');
});

test('a record survives being packed, cut and joined', () => {
  const blocks = row([
    { bytes: 1, us: 2, repeat: 3, write: true, due: 9 },
    { bytes: 5, us: 7, skipped: true },
    { bytes: 8, us: 1 },
  ]);
  const back = joinBlocks([decodeBlocks(encodeBlocks(blocks, 0, 2)), decodeBlocks(encodeBlocks(blocks, 2))]);
  expect(back).toEqual(blocks);
  expect([...filterBlocks(blocks, (at) => blocks.write[at] === 0).bytes]).toEqual([5, 8]);
  expect(() => decodeBlocks(new Uint8Array(7))).toThrow('bytes per row');
});
