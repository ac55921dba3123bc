import type { PlaybackSummary } from './summary';

/** What the slowest stage of a run carries. */
export interface Carried {
  readonly stage: 'read' | 'decode' | 'process';
  /** Slots per second, as its mean effective service has it. */
  readonly slotsPerSecond: number;
  /** Capacity over demand, less one; below 0 where the stage cannot keep up. */
  readonly headroom: number;
}

/**
 * The stage of a run that could carry least, beside the others as they were: one slot per its mean effective
 * service time, of all slots including what given-up ones would have cost. Null where nothing was timed, and for
 * runs from before the mean was kept.
 * @param rate slots per second that are wanted
 */
export function carriedBy(
  { meanServiceMs }: Pick<PlaybackSummary, 'meanServiceMs'>,
  rate: number,
): Carried | null {
  if (!meanServiceMs || !(rate > 0)) return null;
  const [stage, ms] = (Object.entries(meanServiceMs) as [Carried['stage'], number][]).reduce((slowest, one) =>
    one[1] > slowest[1] ? one : slowest,
  );
  if (!(ms > 0)) return null;
  const slotsPerSecond = 1_000 / ms;
  return { stage, slotsPerSecond, headroom: slotsPerSecond / rate - 1 };
}
