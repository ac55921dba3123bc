import fc from 'fast-check';
import { bootstrapMedian, fewestForRatio, ratioOf, resampled } from './bootstrap';
import { normal } from './testing/noise';
import { seededRandom } from './random';

/** The ratio of two samples, each drawn by itself. */
const bootstrapRatio = (a: readonly number[], b: readonly number[], share = 0.95, draws = 2_000, seed = 1) =>
  ratioOf(resampled(a, draws, seed), resampled(b, draws, seed + 1), share);

const shapes: Readonly<
  Record<string, { readonly draw: (random: () => number) => number; readonly median: number }>
> = {
  'lognormal, 10 %': { draw: (random) => Math.exp(0.1 * normal(random)), median: 1 },
  'skewed, a floor with a tail': {
    draw: (random) => 1 + 0.1 * -Math.log(1 - random()),
    median: 1 + 0.1 * Math.log(2),
  },
};
const samples = 250;
/** Three standard errors of a share of 0.95 over so many samples. */
const simulationError = 3 * Math.sqrt((0.95 * 0.05) / samples);

/** How often an interval of a ratio holds the truth, in simulated experiments. */
function coverage(draw: (random: () => number) => number, repeats: number, truth: number): number {
  const random = seededRandom(7 + repeats);
  let held = 0;
  for (let sample = 0; sample < samples; sample++) {
    const a = Array.from({ length: repeats }, () => truth * draw(random));
    const b = Array.from({ length: repeats }, () => draw(random));
    const { low, high } = bootstrapRatio(a, b, 0.95, 250, sample + 1);
    if (low <= truth && truth <= high) held++;
  }
  return held / samples;
}

describe('the interval of a ratio', () => {
  test.each(
    Object.entries(shapes).flatMap(([name, { draw }]) =>
      [fewestForRatio, 8, 15].map((repeats) => [name, repeats, draw] as const),
    ),
  )('covers what it states: %s, %i repeats', (_, repeats, draw) => {
    const covered = coverage(draw, repeats, 1.4);
    expect(covered).toBeGreaterThanOrEqual(0.95 - simulationError);
    expect(covered).toBeLessThanOrEqual(0.99 + simulationError);
  });

  test('covers less with three repeats, which is why those make no verdict', () => {
    expect(coverage(shapes['lognormal, 10 %']!.draw, 3, 1)).toBeLessThan(0.95);
  });

  test('by hand: equal constant samples have ratio 1, and 305 s against 173 s is 1.76', () => {
    expect(bootstrapRatio([4, 4, 4], [4, 4, 4])).toEqual({ value: 1, low: 1, high: 1 });
    const { value, low, high } = bootstrapRatio([305, 304, 306, 305, 305], [173, 173, 173, 172, 174]);
    expect(value).toBeCloseTo(305 / 173, 9);
    expect(low).toBeGreaterThan(1.7);
    expect(high).toBeLessThan(1.8);
  });

  test('turns round when the samples change places, and keeps its value within', () => {
    fc.assert(
      fc.property(
        fc.array(fc.double({ min: 0.5, max: 2, noNaN: true }), { minLength: 3, maxLength: 9 }),
        fc.array(fc.double({ min: 0.5, max: 2, noNaN: true }), { minLength: 3, maxLength: 9 }),
        (a, b) => {
          const there = bootstrapRatio(a, b, 0.95, 200);
          const back = bootstrapRatio(b, a, 0.95, 200);
          expect(there.value).toBeCloseTo(1 / back.value, 9);
          expect(there.low).toBeLessThanOrEqual(there.value + 1e-9);
          expect(there.high).toBeGreaterThanOrEqual(there.value - 1e-9);
        },
      ),
      { numRuns: 40 },
    );
  });

  test('says nothing of an empty sample', () => {
    expect(bootstrapRatio([], [1])).toEqual({ value: Number.NaN, low: Number.NaN, high: Number.NaN });
  });
});

test('the interval of a median covers what it states from five values on, and three in four with three', () => {
  const covered = (repeats: number) => {
    const random = seededRandom(3 + repeats);
    let held = 0;
    for (let sample = 0; sample < samples; sample++) {
      const { low, high } = bootstrapMedian(
        Array.from({ length: repeats }, () => normal(random)),
        0.95,
        250,
        sample + 1,
      );
      if (low <= 0 && 0 <= high) held++;
    }
    return held / samples;
  };
  // With five values it is their range, which holds the median with 1 - 2 / 2^5.
  expect(Math.abs(covered(5) - 0.9375)).toBeLessThan(simulationError + 0.01);
  expect(covered(12)).toBeGreaterThanOrEqual(0.95 - simulationError - 0.01);
  expect(Math.abs(covered(3) - 0.75)).toBeLessThan(3 * Math.sqrt((0.75 * 0.25) / samples));
});
