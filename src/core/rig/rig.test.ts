import fc from 'fast-check';
import { doubtOf } from './doubt';
import { lostTime, type ProcessorUse } from './lostTime';
import {
  belowBest,
  pulseConditions,
  slowStretches,
  summarisePulse,
  unsteadinessOf,
  type PulseSummary,
} from './pulse';
import { pulseSentence } from '../sentences/rig';

function lostShare(use: ProcessorUse): number {
  const { lostUs, readyUs } = lostTime(use);
  return readyUs > 0 ? lostUs / readyUs : 0;
}

const pulse = (change: Partial<PulseSummary> = {}): PulseSummary => ({
  referenceUs: 100,
  medianUs: 100,
  p90Us: 110,
  bestUs: null,
  ...change,
});
const sample = (ms: number, pulseUs: number | null) => ({ at: new Date(ms), pulseUs });

describe('pulse', () => {
  test('a tenth slower at the median or a quarter at p90 is unsteady; less, and faster than before, is not', () => {
    expect(unsteadinessOf(pulse({ medianUs: 109, p90Us: 124 }))).toBeNull();
    expect(unsteadinessOf(pulse({ medianUs: 60, p90Us: 80 }))).toBeNull();
    expect(unsteadinessOf(pulse({ medianUs: 112 }))).toContain('1.12 times as long (median)');
    expect(unsteadinessOf(pulse({ p90Us: 130 }))).toContain('at least 1.30 times as long');
    expect(unsteadinessOf(null)).toBeNull();
  });

  test('is summed up against before, and not at all where too little was told', () => {
    expect(summarisePulse([100, 100, 150, 150, 150, 100, 100], 100, 90)).toMatchObject({
      referenceUs: 100,
      medianUs: 100,
      bestUs: 90,
    });
    expect(summarisePulse([100, 100, 150, 150, 150, 100, 100], 100, 90)?.p90Us).toBeCloseTo(150, 6);
    // A single half second of few beats is no slow machine.
    expect(summarisePulse([100, 100, 100, 190, 100], 100, 90)?.p90Us).toBe(100);
    expect(summarisePulse([100, 100, 100], 100, null)).toBeNull();
    expect(summarisePulse([100, 100, 100, 100], null, null)).toBeNull();
    expect(pulseSentence(pulse({ medianUs: 142, p90Us: 160, referenceUs: 140, bestUs: 120 }))).toBe(
      "0.142\u202fms for the pulse's work (p90 0.160), 0.140 before, 0.120 at its best",
    );
  });

  test('slow stretches are joined, and each says how slow it was', () => {
    const pulses = [100, 100, 150, 160, 140, 100, null, 100, 100, 130, 131];
    expect(
      slowStretches(
        pulses.map((us, at) => sample(at * 500, us)),
        100,
      ),
    ).toEqual([
      { fromMs: 500, toMs: 2_000, times: 1.5 },
      { fromMs: 4_000, toMs: 5_000, times: 1.3 },
    ]);
    expect(
      slowStretches(
        [100, 100, 190, 100, 100].map((us, at) => sample(at * 500, us)),
        100,
      ),
    ).toEqual([]);
  });

  test('whatever was slow for long lies in exactly one stretch, and what was not in none', () => {
    fc.assert(
      fc.property(
        fc.array(fc.tuple(fc.boolean(), fc.integer({ min: 3, max: 8 })), { minLength: 1, maxLength: 8 }),
        (parts) => {
          const all = [
            100,
            100,
            ...parts.flatMap(([isSlow, length]) => Array.from({ length }, () => (isSlow ? 150 : 104))),
          ];
          const stretches = slowStretches(
            all.map((us, at) => sample(at * 500, us)),
            100,
          );
          all
            .slice(1)
            .forEach((us, index) =>
              expect(
                stretches.filter(({ fromMs, toMs }) => fromMs <= index * 500 && (index + 1) * 500 <= toMs),
              ).toHaveLength(us > 125 ? 1 : 0),
            );
        },
      ),
    );
  });

  test('a rig that no longer reaches its best says by how much', () => {
    expect(belowBest(pulse({ bestUs: 80 }))).toBeCloseTo(1.25, 6);
    expect(belowBest(pulse({ bestUs: 95 }))).toBeNull();
    expect(belowBest(pulse())).toBeNull();
  });

  test('is a condition of sides only where they differ by more than a tenth', () => {
    expect(pulseConditions([[100, 104, 98], [108], []])).toEqual([null, null, null]);
    expect(pulseConditions([[100], [130, 128], []])).toEqual([
      "0.100\u202fms for the pulse's work",
      "0.129\u202fms for the pulse's work",
      null,
    ]);
  });
});

describe('processor time that others had', () => {
  const use = { trialUs: 800, waitedUs: 0, othersUs: 0, stolenUs: 0, heldUs: 0 };

  test("waiting for one another is nobody else's, waiting for others is, by their share of what runs", () => {
    expect(lostShare({ ...use, waitedUs: 5_000 })).toBe(0);
    expect(lostShare({ ...use, waitedUs: 200, othersUs: 800 })).toBeCloseTo(100 / 1_000, 6);
    // Many wait: what a quiet rig would have given them is what others ran.
    expect(lostShare({ ...use, waitedUs: 1e9, othersUs: 200 })).toBeCloseTo(0.2, 3);
  });

  test("what the host took counts by the trial's part of what ran, what the system held back in full", () => {
    expect(lostShare({ ...use, othersUs: 800, stolenUs: 400 })).toBeCloseTo(200 / 1_000, 6);
    expect(lostShare({ ...use, waitedUs: 200, heldUs: 200 })).toBeCloseTo(0.2, 6);
    expect(lostShare({ ...use, waitedUs: 200, heldUs: 9_000 })).toBeCloseTo(0.2, 6);
  });

  test('a share, whatever happened', () => {
    const us = fc.integer({ min: 0, max: 1e7 });
    fc.assert(
      fc.property(fc.record({ trialUs: us, waitedUs: us, othersUs: us, stolenUs: us, heldUs: us }), (all) => {
        const share = lostShare(all);
        expect(share).toBeGreaterThanOrEqual(0);
        expect(share).toBeLessThanOrEqual(1);
      }),
    );
  });
});

test('a run is in doubt where others disturbed it, where the machine was unsteady, or both', () => {
  expect(doubtOf(null)).toBeNull();
  expect(doubtOf({ othersMean: 0, lostShare: 0.05, pulse: pulse() })).toBeNull();
  expect(doubtOf({ othersMean: 0.4 })?.word).toBe('disturbed');
  expect(
    doubtOf({
      othersMean: 0.4,
      stolenMean: 0.35,
      others: [{ name: 'sync', share: 0.02, diskBytesPerSecond: 0 }],
    })?.reason,
  ).toBe('other processes took 40\u202f% of all cores, most by the host of this virtual machine');
  expect(doubtOf({ othersMean: 0.04, lostShare: 0.12 })).toBeNull();
  expect(doubtOf({ othersMean: 0, lostShare: 0.4, heldShare: 0.4 })?.reason).toContain(
    'held the trial back for 40\u202f%',
  );
  expect(doubtOf({ othersMean: 0.08, lostShare: 0.12 })).toEqual({
    word: 'disturbed',
    reason: 'for 12\u202f% of the time in which the trial was ready to run, others had its cores',
  });
  expect(doubtOf({ othersMean: 0, pulse: pulse({ medianUs: 140 }) })?.word).toBe('unsteady');
  expect(doubtOf({ othersMean: 0.4, pulse: pulse({ medianUs: 140 }) })?.word).toBe('disturbed and unsteady');
});
