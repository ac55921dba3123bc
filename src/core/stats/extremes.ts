/*
 * Of lists of any length: a call with an argument for each value takes some hundred thousand at most, and results from
 * elsewhere may have more. Lint refuses such calls of Math.
 */

/** The greatest of some numbers; `atLeast` where none is greater. */
export function greatest(values: Iterable<number>, atLeast = -Infinity): number {
  let most = atLeast;
  for (const value of values) if (value > most) most = value;
  return most;
}

/** The least of some numbers; `atMost` where none is less. */
export function least(values: Iterable<number>, atMost = Infinity): number {
  let fewest = atMost;
  for (const value of values) if (value < fewest) fewest = value;
  return fewest;
}
