import type { Interval } from './bootstrap';
import { mean } from './quantiles';

/** Student's t, 99.5 % quantile, for 1 to 30 degrees of freedom; beyond, the normal distribution's with Cornish and Fisher's first term. */
const quantile = [
  63.657, 9.925, 5.841, 4.604, 4.032, 3.707, 3.499, 3.355, 3.25, 3.169, 3.106, 3.055, 3.012, 2.977, 2.947,
  2.921, 2.898, 2.878, 2.861, 2.845, 2.831, 2.819, 2.807, 2.797, 2.787, 2.779, 2.771, 2.763, 2.756, 2.75,
];
const normal = 2.5758;

/**
 * The mean of a sample with its 99 % interval by Student's t.
 * @returns an interval without ends for fewer than two values
 */
export function meanInterval(values: readonly number[]): Interval {
  const value = mean(values);
  const free = values.length - 1;
  if (free < 1) return { value, low: -Infinity, high: Infinity };
  const spread = Math.sqrt(values.reduce((sum, one) => sum + (one - value) ** 2, 0) / free / values.length);
  const reach = (quantile[free - 1] ?? normal + (normal ** 3 + normal) / (4 * free)) * spread;
  return { value, low: value - reach, high: value + reach };
}
