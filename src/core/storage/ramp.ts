/** One tried number of streams: how many slots it missed. */
export interface RampStep { readonly streams: number; readonly missed: number }

/**
 * The next number of streams to try: doubling until slots are missed, then
 * halving the gap between the largest clean and the smallest missed number.
 * Null when it is found, or after `mostSteps`.
 */
export function nextStreams(steps: readonly RampStep[], mostStreams: number, mostSteps: number): number | null {
  if (steps.length >= mostSteps) return null;
  const { clean, missed } = rampBounds(steps);
  if (missed === null) return clean >= mostStreams ? null : Math.min(mostStreams, Math.max(1, clean * 2));
  return missed - clean <= 1 ? null : Math.floor((clean + missed) / 2);
}

/** The largest clean number below the smallest that missed; 0 when even one stream missed. */
export function rampBounds(steps: readonly RampStep[]): { clean: number; missed: number | null } {
  const missed = steps.filter((step) => step.missed > 0).reduce<number | null>((least, { streams }) => Math.min(least ?? Infinity, streams), null);
  const clean = steps.filter((step) => step.missed === 0 && (missed === null || step.streams < missed)).reduce((most, { streams }) => Math.max(most, streams), 0);
  return { clean, missed };
}
