import { median } from './quantiles';

/** A split of a row of values into two levels. */
interface Split {
  /** first index of the second */ readonly at: number;
  /** squared deviations that it explains */ readonly gain: number;
  /** and those that stay */ readonly rest: number;
}

/** The split that explains most of the squared deviation (least-squares change point; Bai 1994); null where both sides cannot have their least lengths. */
function bestSplit(values: Float64Array, leastBefore: number, leastAfter: number): Split | null {
  const n = values.length;
  if (n < leastBefore + leastAfter) return null;
  let [total, squares] = [0, 0];
  for (const value of values) {
    total += value;
    squares += value * value;
  }
  const whole = squares - (total * total) / n;
  let best = { at: 0, rest: Infinity };
  let sum = 0;
  for (let at = 1; at <= n - leastAfter; at++) {
    sum += values[at - 1] as number;
    if (at < leastBefore) continue;
    const after = total - sum;
    const rest = Math.max(0, squares - (sum * sum) / at - (after * after) / (n - at));
    if (rest < best.rest) best = { at, rest };
  }
  return { at: best.at, rest: best.rest, gain: whole - best.rest };
}

/** Levels that the noise is taken round: another change must not look like noise. */
const levels = 3;
/** What fitting levels takes away from the correlation of neighbours, per level after the first; found by simulation for 40 to 480 values. */
const bias = { over: 5, under: 9 };
const greatestCorrelation = 0.97;

/**
 * Variance that a mean of values has times their number: that of the noise, larger where neighbours are alike
 * (long-run variance of a first-order autoregression; Andrews 1991).
 */
function longRunVariance(values: Float64Array, first: Split, leastRun: number): number {
  const parts = [values.subarray(0, first.at), values.subarray(first.at)];
  while (parts.length < levels) {
    const splits = parts.map((part) => bestSplit(part, leastRun, leastRun));
    const most = splits.reduce(
      (best, split, at) => ((split?.gain ?? 0) > (splits[best]?.gain ?? 0) ? at : best),
      0,
    );
    const split = splits[most];
    if (!split) break;
    const part = parts[most] as Float64Array;
    parts.splice(most, 1, part.subarray(0, split.at), part.subarray(split.at));
  }
  let [squares, products] = [0, 0];
  for (const part of parts) {
    const mean = part.reduce((sum, value) => sum + value, 0) / part.length;
    part.forEach((value, at) => {
      squares += (value - mean) ** 2;
      if (at > 0) products += (value - mean) * ((part[at - 1] as number) - mean);
    });
  }
  const changes = parts.length - 1;
  const n = values.length;
  const found = squares > 0 ? products / squares : 0;
  const room = n - bias.under * changes;
  const correlation =
    room > 0
      ? Math.min(greatestCorrelation, Math.max(0, (n * found + bias.over * changes) / room))
      : greatestCorrelation;
  return ((squares / Math.max(1, n - parts.length)) * (1 + correlation)) / (1 - correlation);
}

/** Where a row of values goes over to another level, and both levels as medians. */
interface ChangePoint {
  /** Index of the first value of the later level. */
  readonly at: number;
  readonly before: number;
  readonly after: number;
}

/**
 * Finds where a row of values goes over to another level for good: the least-squares split, accepted when it gains more
 * than chance would in noise whose neighbours are as alike as here, and the median changes by more than `leastChange`.
 * Each side must last `leastRun` values, the later level also a tenth of all: what is shorter is a dip.
 * @param values in order of time
 * @param leastChange share of the earlier level, 0 to 1
 */
function changePoint(values: ArrayLike<number>, leastChange: number, leastRun: number): ChangePoint | null {
  const row = Float64Array.from(values);
  const split = bestSplit(row, leastRun, Math.max(leastRun, Math.ceil(row.length / 10)));
  if (!split) return null;
  const gains = split.gain > 3 * longRunVariance(row, split, leastRun) * Math.log(row.length);
  const [before, after] = [median(row.subarray(0, split.at)), median(row.subarray(split.at))];
  return gains && Math.abs(after - before) > before * leastChange ? { at: split.at, before, after } : null;
}

/** Index of the first value of a lower level that lasts, or null. See `changePoint`. @param leastFall share of the earlier level, 0 to 1 */
export function fallPoint(values: ArrayLike<number>, leastFall = 0.15, leastRun = 8): number | null {
  const found = changePoint(values, leastFall, leastRun);
  return found && found.after < found.before ? found.at : null;
}

/** A stretch of values about one level: from an index to before another. */
export interface Level {
  readonly from: number;
  readonly to: number;
  /** Median. */
  readonly value: number;
}

/**
 * The levels that a row of values goes through: it is split at its change points, and each part again, for as long as there are any
 * (binary segmentation; Scott and Knott 1974).
 * @param values in order of time
 * @param leastChange share of the earlier level from which a change counts, 0 to 1
 * @param leastRun fewest values of a level
 */
export function levelsOf(values: ArrayLike<number>, leastChange: number, leastRun: number): Level[] {
  const row = Float64Array.from(values);
  const split = (from: number, to: number): Level[] => {
    const found = changePoint(row.subarray(from, to), leastChange, leastRun);
    if (!found) return [{ from, to, value: median(row.subarray(from, to)) }];
    return [...split(from, from + found.at), ...split(from + found.at, to)];
  };
  return row.length > 0 ? split(0, row.length) : [];
}
