import fc from 'fast-check';
import { bootstrapMedian } from '../stats/bootstrap';
import { normal } from '../stats/testing/noise';
import { meanInterval } from '../stats/meanInterval';
import { seededRandom } from '../stats/random';
import { decodeSentence } from '../sentences/decode';
import { decodeStreams, pairsOf, passRate, summariseRate, summariseSupport, type DecodePass } from './result';
import { frameTimeUs, standInDevices, supportFor } from './standIns';
import { crossCheck, pairRatio, verdictOf, wantsAnotherPair } from './verdict';

const format = {
  container: 'MOV',
  codec: 'H.264',
  profile: 'High',
  bitDepth: 8,
  chroma: '4:2:0',
  width: 1920,
  height: 1080,
  rate: { num: 25, den: 1 },
};
const pass = (change: Partial<DecodePass>): DecodePass => ({
  cores: 'one',
  side: 'software',
  frames: 101,
  firstFrameUs: 30_000,
  spanUs: 2e6,
  cpuUs: 2e6,
  onDevice: 0,
  decoder: 'h264',
  threads: 1,
  threadKind: 'none',
  ...change,
});

test('what falls on one pass alone does not weigh on the processor time of a frame', () => {
  const software = [0, 1, 2].map(() => pass({ cpuUs: 101 * 200 }));
  const device = [75, 90, 385].map((us) => pass({ side: 'device', frames: 48, cpuUs: 48 * us }));
  const passes = software.flatMap((one, index) => [one, device[index]!]);
  expect(summariseSupport(passes)?.parts[0]?.cpuUsPerFrame).toEqual({ software: 200, device: 90 });
});

test('a rate leaves the start of a pass out', () => {
  expect(passRate({ frames: 101, spanUs: 2e6 })).toBe(50);
  expect(passRate({ frames: 1, spanUs: 0 })).toBeNaN();
});

test.each([
  [{ value: 1.4, low: 1.16, high: 1.7 }, 'accelerated'],
  [{ value: 1.2, low: 1.1, high: 1.3 }, 'undecided'],
  [{ value: 1, low: 0.9, high: 1.1 }, 'not accelerated'],
  [{ value: 0.6, low: 0.5, high: 0.8 }, 'slower on the device'],
  [{ value: 0.9, low: 0.8, high: 1 }, 'undecided'],
] as const)('the interval %o gives the verdict %s', (interval, verdict) => {
  expect(verdictOf(interval)).toBe(verdict);
});

test('pairs go on until the verdict stands, at least three and at most as many as asked', () => {
  const pairs = (...ratios: number[]) => ratios.map((ratio) => ({ software: 100, device: 100 * ratio }));
  expect(wantsAnotherPair(pairs(2, 2))).toBe(true);
  expect(wantsAnotherPair(pairs(2, 2, 2))).toBe(false);
  expect(wantsAnotherPair(pairs(1.05, 1.3, 1.2))).toBe(true);
  expect(wantsAnotherPair(pairs(1.05, 1.3, 1.2), 3)).toBe(false);
});

/** A trial of a device that is truly so many times as fast, each pass with its own noise. */
function verdictAt(random: () => number, truly: number, noise: number, most?: number) {
  const rate = () => 100 * Math.max(0.05, 1 + noise * normal(random));
  const pairs: { software: number; device: number }[] = [];
  while (wantsAnotherPair(pairs, most)) pairs.push({ software: rate(), device: truly * rate() });
  return { verdict: verdictOf(pairRatio(pairs)), pairs: pairs.length };
}

test.each([
  [1, 15],
  [1.1, 15],
  [1, 30],
  [1.1, 30],
])(
  'where a device is truly %f times as fast, at most 2\u202f%% of verdicts of up to %i pairs are wrong, at any noise up to 15\u202f%%',
  (truly, most) => {
    for (const noise of [0.02, 0.08, 0.15]) {
      const random = seededRandom(9);
      const verdicts = Array.from({ length: 2_000 }, () => verdictAt(random, truly, noise, most).verdict);
      expect(
        verdicts.filter((verdict) => verdict !== 'not accelerated' && verdict !== 'undecided').length / 2_000,
      ).toBeLessThanOrEqual(0.02);
    }
  },
);

test.each([
  [2, 0.15, 'accelerated', 7],
  [1.5, 0.05, 'accelerated', 5],
  [0.5, 0.1, 'slower on the device', 7],
  [1, 0.03, 'not accelerated', 7],
] as const)(
  'a device %f times as fast is found to be so at a noise of %f',
  (truly, noise, wanted, fewPairs) => {
    const random = seededRandom(10);
    const trials = Array.from({ length: 500 }, () => verdictAt(random, truly, noise));
    expect(trials.filter(({ verdict }) => verdict === wanted).length / 500).toBeGreaterThan(0.98);
    expect(trials.reduce((sum, { pairs }) => sum + pairs, 0) / 500).toBeLessThan(fewPairs);
  },
);

test('the 99\u202f% interval of a mean by hand', () => {
  // 1, 2, 3: mean 2, deviation 1, over the root of three, times 9.925
  expect(meanInterval([1, 2, 3])).toEqual({
    value: 2,
    low: expect.closeTo(2 - 5.7302, 3) as number,
    high: expect.closeTo(2 + 5.7302, 3) as number,
  });
  expect(meanInterval([4])).toEqual({ value: 4, low: -Infinity, high: Infinity });
  const many = meanInterval(Array.from({ length: 41 }, (_, at) => at));
  expect(many.high - many.value).toBeCloseTo(2.7045 * (11.9791 / Math.sqrt(41)), 1); // t of 40
});

test('the interval holds the median and lies within what was measured, and the same seed gives the same', () => {
  fc.assert(
    fc.property(
      fc.array(fc.double({ min: 0.1, max: 10, noNaN: true }), { minLength: 3, maxLength: 9 }),
      (values) => {
        const { value, low, high } = bootstrapMedian(values);
        return (
          low <= value &&
          value <= high &&
          low >= Math.min(...values) &&
          high <= Math.max(...values) &&
          bootstrapMedian(values).low === low
        );
      },
    ),
    { numRuns: 30 },
  );
  expect(
    pairRatio([
      { software: 50, device: 100 },
      { software: 50, device: 100 },
      { software: 50, device: 100 },
    ]),
  ).toEqual({
    value: expect.closeTo(2) as number,
    low: expect.closeTo(2) as number,
    high: expect.closeTo(2) as number,
  });
});

test('what the decoder reports is held against what was measured', () => {
  expect(crossCheck('accelerated', 1)).toBe('agrees');
  expect(crossCheck('not accelerated', 0)).toBe('silent fallback');
  expect(crossCheck('not accelerated', 1)).toBe('device frames, no gain');
  expect(crossCheck('accelerated', 0)).toBe('gain without device frames');
});

test('stand-ins take what their table says and nothing else', () => {
  const [neap, spring] = standInDevices;
  expect(supportFor(neap!, format)).not.toBeNull();
  expect(supportFor(neap!, { ...format, bitDepth: 10 })).toBeNull();
  expect(supportFor(neap!, { ...format, width: 7680, height: 4320 })).toBeNull();
  expect(supportFor(spring!, { ...format, bitDepth: 10, chroma: '4:2:2' })).not.toBeNull();
  expect(supportFor(spring!, { ...format, codec: 'Motion JPEG' })).toBeNull();
  const time = (index: number) =>
    frameTimeUs(standInDevices[index]!, supportFor(standInDevices[index]!, format)!, format);
  expect(time(1)).toBeLessThan(time(0));
});

test.each(['one', 'all'] as const)(
  'cancelled after its passes on %s, a decode trial has no figure that is no number',
  (cores) => {
    const result = summariseRate({
      passes: [pass({ cores })],
      costs: null,
      seeks: [],
      memoryBytes: null,
      format,
      meanBitsPerSecond: 25e6,
    });
    expect(JSON.parse(JSON.stringify(result))).toEqual(result);
    expect(result.firstFrameMs).toBe(cores === 'all' ? 30 : null);
  },
);

test('a decode trial is summed up by cores, by type and by distance', () => {
  const result = summariseRate({
    passes: [
      pass({}),
      pass({ spanUs: 2.5e6 }),
      pass({ spanUs: 1e6 }),
      pass({ cores: 'all', spanUs: 1e6, threads: 2, threadKind: 'frame by frame' }),
    ],
    costs: {
      type: Uint8Array.from([1, 2, 3, 3]),
      costUs: Float64Array.from([40_000, 20_000, 10_000, 12_000]),
    },
    seeks: [0, 5, 10].map((distance) => ({ distance, us: 20_000 + distance * 4_000 })),
    memoryBytes: 5e6,
    format,
    meanBitsPerSecond: 25e6,
  });
  expect(result).toMatchObject({
    one: { framesPerSecond: { median: 50, low: 40, high: 100 }, passes: 3 },
    all: { framesPerSecond: { median: 100 }, threads: 2 },
    firstFrameMs: 30,
    msPerMegabit: 20,
  });
  expect(result.byType).toEqual([
    { type: 'I', frames: 1, p50Ms: 40, p95Ms: 40 },
    { type: 'P', frames: 1, p50Ms: 20, p95Ms: 20 },
    { type: 'B', frames: 2, p50Ms: 11, p95Ms: expect.closeTo(11.9) as number },
  ]);
  expect(result.seekLine!.baseMs).toBeCloseTo(20);
  expect(result.seekLine!.perFrameMs).toBeCloseTo(4);
  expect(result.msPerMegapixel).toBeCloseTo(20 / 2.0736);
  expect(decodeSentence(result, format.rate, null)).toBe(
    'Decodes 100\u202fframes/s on all cores, 50.0 on one: 4.0x its own rate of 25.',
  );
});

test('a support trial pairs what followed each other and judges by one core', () => {
  const passes = (['one', 'all'] as const).flatMap((cores) =>
    [1, 2, 3].flatMap(() => [
      pass({ cores }),
      pass({ cores, side: 'device', spanUs: cores === 'one' ? 0.5e6 : 2e6, onDevice: 101, cpuUs: 1e4 }),
    ]),
  );
  expect(pairsOf(passes, 'one')).toEqual([
    { software: 50, device: 200 },
    { software: 50, device: 200 },
    { software: 50, device: 200 },
  ]);
  const result = summariseSupport(passes)!;
  expect(result).toMatchObject({
    verdict: 'accelerated',
    onDevice: 1,
    check: 'agrees',
    parts: [
      { cores: 'one', ratio: { value: 4 } },
      { cores: 'all', verdict: 'not accelerated' },
    ],
  });
  expect(decodeSentence(result, format.rate, 'Neap')).toBe(
    'Neap accelerates this format: 4.00x the rate of software on one core (4.00 to 4.00, 3 pairs).',
  );
  expect(summariseSupport([pass({})])).toBeNull();
});

test('streams: the largest clean number below the first that dropped, beside the arithmetic', () => {
  const step = (streams: number, clean: boolean) => ({
    streams,
    frames: 100,
    missed: clean ? 0 : 1,
    clean,
    leastSpareUs: clean ? 1000 : -500,
  });
  const result = decodeStreams([step(1, true), step(2, true), step(4, false), step(3, false)], 71, {
    num: 25,
    den: 1,
  });
  expect(result).toMatchObject({ clean: 2, missed: 3, arithmetic: { streams: 2 } });
  expect(decodeSentence(result, format.rate, null)).toBe('Decodes 2 streams without a drop; 3 dropped.');
  expect(decodeSentence(decodeStreams([step(1, false)], null, format.rate), format.rate, null)).toBe(
    'Not even one stream decodes without a drop.',
  );
});
