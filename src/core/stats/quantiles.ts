/**
 * Quantiles of a sample by linear interpolation between order statistics
 * (Hyndman and Fan 1996, definition 7). NaN values are left out.
 * @param values the sample, in any order; not changed
 * @param probabilities each within 0 to 1
 * @returns one value per probability, in the unit of the sample; NaN when the sample is empty
 */
export function quantiles(values: ArrayLike<number>, probabilities: readonly number[]): number[] {
  const sorted = Float64Array.from(values)
    .filter((value) => !Number.isNaN(value))
    .sort();
  return probabilities.map((probability) => {
    if (probability < 0 || probability > 1)
      throw new RangeError(`A quantile lies between 0 and 1, got ${probability}`);
    if (sorted.length === 0) return Number.NaN;
    const position = (sorted.length - 1) * probability;
    const below = Math.floor(position);
    const low = sorted[below] ?? Number.NaN;
    const high = sorted[Math.min(below + 1, sorted.length - 1)] ?? low;
    return low + (high - low) * (position - below);
  });
}

/** The middle of a sample; NaN when it is empty. */
export function median(values: ArrayLike<number>): number {
  return quantiles(values, [0.5])[0] ?? Number.NaN;
}

/** Arithmetic mean without NaN values; NaN when nothing is left. */
export function mean(values: ArrayLike<number>): number {
  let sum = 0;
  let count = 0;
  for (let i = 0; i < values.length; i++) {
    const value = values[i] ?? Number.NaN;
    if (Number.isNaN(value)) continue;
    sum += value;
    count++;
  }
  return count === 0 ? Number.NaN : sum / count;
}
