import { seededRandom } from './random';
import { median, quantiles } from './quantiles';

/** A figure with the range it likely lies in. */
export interface Interval {
  readonly value: number;
  readonly low: number;
  readonly high: number;
}

/** Draws a sample again from itself, with replacement, and gives its median; NaN for an empty one. Linear in the sample: how often each value is drawn is counted, and the counts lead to the middle. */
function medianDrawer(values: readonly number[], random: () => number): () => number {
  const sorted = Float64Array.from(values).sort();
  const n = sorted.length;
  const counts = new Uint32Array(n);
  const [lower, upper] = [(n - 1) >> 1, n >> 1];
  return () => {
    if (n === 0) return Number.NaN;
    counts.fill(0);
    for (let draw = 0; draw < n; draw++) {
      const at = Math.floor(random() * n);
      counts[at] = (counts[at] as number) + 1;
    }
    let at = 0;
    let passed = counts[0] as number;
    while (passed <= lower) passed += counts[++at] as number;
    const low = sorted[at] as number;
    while (passed <= upper) passed += counts[++at] as number;
    return (low + (sorted[at] as number)) / 2;
  };
}

/**
 * The median of a sample with its percentile bootstrap interval (Efron 1979):
 * the sample is drawn again from itself, with replacement, and the median of each
 * draw is noted. With three values the interval is the range they span and holds
 * the true median three times in four; from five on it covers about what it
 * states (tested against simulated samples).
 * @param share of draws that the interval holds
 * @param seed same seed, same interval
 */
export function bootstrapMedian(values: readonly number[], share = 0.95, draws = 2_000, seed = 1): Interval {
  const drawn = drawnMedians(values, draws, seed);
  const [low = Number.NaN, high = Number.NaN] = quantiles(drawn, [(1 - share) / 2, (1 + share) / 2]);
  return { value: median(values), low, high };
}

/** Medians of a sample drawn again from itself so many times. */
function drawnMedians(values: readonly number[], draws: number, seed: number): Float64Array {
  const again = medianDrawer(values, seededRandom(seed));
  const drawn = new Float64Array(draws);
  for (let draw = 0; draw < draws; draw++) drawn[draw] = again();
  return drawn;
}

/** A sample's median, and its medians when it is drawn again from itself; made once and held against many others. */
export interface Resampled {
  readonly median: number;
  readonly drawn: Float64Array;
}

export function resampled(values: readonly number[], draws: number, seed: number): Resampled {
  return { median: median(values), drawn: drawnMedians(values, draws, seed) };
}

/** Repeats on each side from which the interval of a ratio covers what it states; tested against simulated samples. */
export const fewestForRatio = 5;

/**
 * The ratio of the medians of two independent samples of as many draws, `a` over
 * `b`, with its percentile bootstrap interval (Efron 1979). From `fewestForRatio`
 * values on each side the 95 % interval covers 95 to 98 %; with three about 90 %.
 * @returns NaN throughout when a sample is empty
 */
export function ratioOf(a: Resampled, b: Resampled, share = 0.95): Interval {
  return intervalOf(a, b, (above, below) => above / below, share);
}

/** The difference of the medians, `a` less `b`, with its interval; covers as `ratioOf` does. */
export function differenceOf(a: Resampled, b: Resampled, share = 0.95): Interval {
  return intervalOf(a, b, (above, below) => above - below, share);
}

function intervalOf(
  a: Resampled,
  b: Resampled,
  of: (a: number, b: number) => number,
  share: number,
): Interval {
  const [low = Number.NaN, high = Number.NaN] = quantiles(
    a.drawn.map((value, draw) => of(value, b.drawn[draw] as number)),
    [(1 - share) / 2, (1 + share) / 2],
  );
  return { value: of(a.median, b.median), low, high };
}
