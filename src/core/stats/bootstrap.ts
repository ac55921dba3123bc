import { seededRandom } from './random';
import { median, quantiles } from './quantiles';

/** A figure with the range it likely lies in. */
export interface Interval {
  readonly value: number;
  readonly low: number;
  readonly high: number;
}

/**
 * The median of a sample with its percentile bootstrap interval (Efron 1979):
 * the sample is drawn again from itself, with replacement, and the median of each
 * draw is noted. With three values the interval is the range they span.
 * @param share of draws that the interval holds
 * @param seed same seed, same interval
 */
export function bootstrapMedian(values: readonly number[], share = 0.95, draws = 2_000, seed = 1): Interval {
  const random = seededRandom(seed);
  const drawn = new Float64Array(draws);
  const sample = new Float64Array(values.length);
  for (let draw = 0; draw < draws; draw++) {
    for (let i = 0; i < sample.length; i++) sample[i] = values[Math.floor(random() * values.length)] ?? Number.NaN;
    drawn[draw] = median(sample);
  }
  const [low = Number.NaN, high = Number.NaN] = quantiles(drawn, [(1 - share) / 2, (1 + share) / 2]);
  return { value: median(values), low, high };
}
