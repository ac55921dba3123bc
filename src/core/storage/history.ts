import { median } from '../stats/quantiles';

/** One undisturbed measurement of a volume, in order of time. */
export interface HistoryPoint {
  readonly sustained: number;
}

const slowerBy = 0.15;

/**
 * Compares the newest measurement with the median of those before it.
 * @param points sustained rates in order of time, of the same test
 * @returns newest over earlier (0.8 is a fifth slower) and whether that is a fall worth attention; null with fewer than two earlier ones
 */
export function slowing(points: readonly HistoryPoint[]): { ratio: number; slower: boolean } | null {
  const newest = points.at(-1);
  if (!newest || points.length < 3) return null;
  const ratio = newest.sustained / median(points.slice(0, -1).map(({ sustained }) => sustained));
  return { ratio, slower: ratio < 1 - slowerBy };
}
