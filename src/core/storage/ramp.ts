import { median } from '../stats/quantiles';
import { isMissed, type Blocks } from './blocks';

/** One tried number of streams: clean when it missed no slot and did not fall behind. */
export interface RampStep {
  readonly streams: number;
  readonly clean: boolean;
}

/** A run that loses more than this share of the time that passes falls behind: it would miss slots if it went on. */
const leastLoss = 0.03;
const leastLossSlots = 1.5;

/**
 * What became of frame-paced streams: how many slots they missed, and whether
 * their time to spare shrinks. A read-ahead hides a lack of rate for as long as
 * it lasts; so the time to spare in the last quarter is compared with that in the second.
 */
export function rampVerdict(blocks: Blocks, slotUs: number): { missed: number; behind: boolean } {
  const { length, dueUs, endUs, skipped } = blocks;
  let missed = 0;
  let first = Infinity;
  let last = -Infinity;
  for (let row = 0; row < length; row++) {
    if (isMissed(blocks, row)) missed++;
    first = Math.min(first, dueUs[row] as number);
    last = Math.max(last, dueUs[row] as number);
  }
  const quarter = (last - first) / 4;
  const spare = (from: number) =>
    median(
      [...dueUs.keys()]
        .filter(
          (row) =>
            skipped[row] === 0 &&
            (dueUs[row] as number) >= first + from * quarter &&
            (dueUs[row] as number) < first + (from + 1) * quarter,
        )
        .map((row) => (dueUs[row] as number) - (endUs[row] as number)),
    );
  const lost = spare(1) - spare(3);
  return { missed, behind: lost > Math.max(leastLossSlots * slotUs, leastLoss * 2 * quarter) };
}

/**
 * The next number of streams to try: doubling until one is not clean, then
 * halving the gap between the largest clean and the smallest that is not.
 * Null when it is found, or after `mostSteps`.
 */
export function nextStreams(
  steps: readonly RampStep[],
  mostStreams: number,
  mostSteps: number,
): number | null {
  if (steps.length >= mostSteps) return null;
  const { clean, missed } = rampBounds(steps);
  if (missed === null) return clean >= mostStreams ? null : Math.min(mostStreams, Math.max(1, clean * 2));
  return missed - clean <= 1 ? null : Math.floor((clean + missed) / 2);
}

/** The largest clean number below the smallest that was not; 0 when even one stream was not clean. */
export function rampBounds(steps: readonly RampStep[]): { clean: number; missed: number | null } {
  const missed = steps
    .filter((step) => !step.clean)
    .reduce<number | null>((least, { streams }) => Math.min(least ?? Infinity, streams), null);
  const clean = steps
    .filter((step) => step.clean && (missed === null || step.streams < missed))
    .reduce((most, { streams }) => Math.max(most, streams), 0);
  return { clean, missed };
}
