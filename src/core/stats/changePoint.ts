/**
 * Finds where a row of values falls to a lower level for good: the split that
 * explains most of the squared deviation (least-squares change point; Bai 1994),
 * accepted when it gains more than the Bayesian information criterion asks
 * for and the level falls by more than `leastFall`.
 * @param values in order of time
 * @param leastFall share of the earlier level, 0 to 1
 * @param leastRun values that each side must have
 * @returns index of the first value of the lower level, or null
 */
export function fallPoint(values: ArrayLike<number>, leastFall = 0.15, leastRun = 4): number | null {
  const n = values.length;
  if (n < 2 * leastRun) return null;
  let total = 0;
  let squares = 0;
  for (let i = 0; i < n; i++) {
    const value = values[i] as number;
    total += value;
    squares += value * value;
  }
  const whole = squares - (total * total) / n;
  let best = { at: 0, rest: Infinity, before: 0, after: 0 };
  let sum = 0;
  for (let at = 1; at <= n - leastRun; at++) {
    sum += values[at - 1] as number;
    if (at < leastRun) continue;
    const after = total - sum;
    const rest = squares - (sum * sum) / at - (after * after) / (n - at);
    if (rest < best.rest) best = { at, rest, before: sum / at, after: after / (n - at) };
  }
  const variance = Math.max(0, best.rest) / (n - 2);
  const gains = whole - best.rest > 3 * variance * Math.log(n);
  return gains && best.after < best.before * (1 - leastFall) ? best.at : null;
}
