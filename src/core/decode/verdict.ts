import type { Interval } from '../stats/bootstrap';
import { meanInterval } from '../stats/meanInterval';

/** What a device does for a format. */
export type SupportVerdict = 'accelerated' | 'not accelerated' | 'slower on the device' | 'undecided';

/** Ratios within these are no difference; above the upper one the device helps. */
export const verdictLimits = { low: 0.87, high: 1.15 } as const;
/** Pairs that are always run, and the most that are run to come to a verdict. */
export const fewestPairs = 3;
export const mostPairs = 15;

/** One pass of software and the pass of the device that followed it, in frames per second. */
export interface DecodePair {
  readonly software: number;
  readonly device: number;
}

/**
 * Ratio of device to software over interleaved pairs: their geometric mean with a 99 % interval. It is looked at after
 * each pair, and wide enough that a verdict of any look is wrong in at most 2 % of trials (tested by simulation at 15 % noise).
 */
export function pairRatio(pairs: readonly DecodePair[]): Interval {
  const { value, low, high } = meanInterval(pairs.map(({ software, device }) => Math.log(device / software)));
  return { value: Math.exp(value), low: Math.exp(low), high: Math.exp(high) };
}

/**
 * The verdict of a ratio's interval: accelerated when its low end lies above 1.15,
 * not accelerated when all of it lies within 0.87 to 1.15, slower when all of it
 * lies below 0.87, else undecided.
 */
export function verdictOf({ low, high }: Interval): SupportVerdict {
  if (low > verdictLimits.high) return 'accelerated';
  if (high < verdictLimits.low) return 'slower on the device';
  return low >= verdictLimits.low && high <= verdictLimits.high ? 'not accelerated' : 'undecided';
}

/** Whether another pair is wanted: too few yet, or no verdict from those there are. */
export function wantsAnotherPair(pairs: readonly DecodePair[], most = mostPairs): boolean {
  return pairs.length < fewestPairs || (pairs.length < most && verdictOf(pairRatio(pairs)) === 'undecided');
}

/** What the decoder reports of its frames, held against what was measured. */
export type CrossCheck =
  | 'agrees'
  | 'silent fallback'
  | 'device frames, no gain'
  | 'gain without device frames';

/** @param onDevice share of frames that lay on the device's surfaces, 0 to 1 */
export function crossCheck(verdict: SupportVerdict, onDevice: number): CrossCheck {
  if (onDevice < 0.5) return verdict === 'accelerated' ? 'gain without device frames' : 'silent fallback';
  return verdict === 'accelerated' || verdict === 'undecided' ? 'agrees' : 'device frames, no gain';
}
