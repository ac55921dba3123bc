import { fixed, quantity } from '../format';
import { median, quantiles } from '../stats/quantiles';
import { greatest, least } from '../stats/extremes';

/** How fast the machine itself was over a run: processor time of the same fixed work, µs. */
export interface PulseSummary {
  /** Before the run and shortly before that. */
  readonly referenceUs: number;
  /** Over half-second medians of the run. */
  readonly medianUs: number;
  /** Over the same, smoothed. */
  readonly p90Us: number;
  /** The rig's best so far, as its self-checks found it; null before the first. */
  readonly bestUs: number | null;
}

/** The pulse of a stretch of time, µs; null where none was told. */
export interface PulseSample {
  readonly at: Date | string;
  readonly pulseUs: number | null;
}

/** A stretch of a run in which the machine was slower than before it. Wall-clock ms. */
export interface SlowStretch {
  readonly fromMs: number;
  readonly toMs: number;
  /** as slow as before the run */ readonly times: number;
}

/** As slow as before, at the median and at the ninetieth percentile of half seconds, beyond which a run counts as unsteady. */
export const unsteadyTimes = { median: 1.1, p90: 1.25 } as const;

/** Fewest half seconds that a verdict rests on. */
const leastSamples = 4;

/** Values of which the median tells each: a single half second has few beats. */
const smoothedOver = 3;

/** Each value as the median of it and its nearest neighbours. */
export function smoothed(values: readonly number[]): number[] {
  return values.map((_, at) => {
    const from = Math.max(0, Math.min(at - (smoothedOver - 1) / 2, values.length - smoothedOver));
    return median(values.slice(from, from + smoothedOver));
  });
}

/** @param pulses half-second medians, µs @returns null where too little was told */
export function summarisePulse(
  pulses: readonly number[],
  referenceUs: number | null,
  bestUs: number | null,
): PulseSummary | null {
  if (referenceUs === null || pulses.length < leastSamples) return null;
  const [p90Us = Number.NaN] = quantiles(smoothed(pulses), [0.9]);
  return { referenceUs, medianUs: median(pulses), p90Us, bestUs };
}

const timesWords = (times: number) => `${fixed(times, 2)} times as long`;

/** Why a run counts as unsteady, in words; null when it does not. */
export function unsteadinessOf(pulse: PulseSummary | null | undefined): string | null {
  if (!pulse) return null;
  const { referenceUs, medianUs, p90Us } = pulse;
  if (medianUs / referenceUs > unsteadyTimes.median)
    return `the machine itself was slower than before the run: the same work took it ${timesWords(medianUs / referenceUs)} (median)`;
  return p90Us / referenceUs > unsteadyTimes.p90
    ? `the machine itself slowed down for a while: in a tenth of the time the same work took it at least ${timesWords(p90Us / referenceUs)}`
    : null;
}

/** By how much slower than at its best a rig is no longer at its best. */
const belowBestTimes = 1.1;

/** How many times as slow as at its best a rig was over a run, where that is beyond `belowBestTimes`; else null. */
export function belowBest(pulse: PulseSummary | null | undefined): number | null {
  const times = pulse?.bestUs ? pulse.medianUs / pulse.bestUs : 1;
  return times > belowBestTimes ? times : null;
}

/** What is told where a rig no longer reaches its best. */
export function belowBestWords(times: number): string {
  return `This rig was at its best faster: the same work now takes it ${timesWords(times)}. Look for heat, its power mode, and on a virtual machine for neighbours.`;
}

export const pulseWords = (us: number) => `${quantity(us / 1000, 'ms', 3)} for the pulse's work`;

/**
 * The pulse as a condition of each of several sides, in words, where they differ by more than a run may slow down before it
 * counts as unsteady; null for all where they do not, and for a side without a pulse.
 * @param sides medians of the runs of each, µs
 */
export function pulseConditions(sides: readonly (readonly number[])[]): (string | null)[] {
  const medians = sides.map((pulses) => (pulses.length === 0 ? null : median(pulses)));
  const told = medians.filter((us) => us !== null);
  const differ = greatest(told) / least(told) > unsteadyTimes.median;
  return medians.map((us) => (us === null || !differ ? null : pulseWords(us)));
}

/** Stretches in which the machine was slower than the greater of `unsteadyTimes` against before, one after the other. @param samples in order of time */
export function slowStretches(samples: readonly PulseSample[], referenceUs: number): SlowStretch[] {
  const stretches: { fromMs: number; toMs: number; all: number[] }[] = [];
  const told = samples.filter(({ pulseUs }) => pulseUs !== null);
  const pulses = smoothed(told.map(({ pulseUs }) => pulseUs ?? 0));
  told.forEach(({ at }, index) => {
    const before = told[index - 1];
    const times = (pulses[index] ?? 0) / referenceUs;
    if (!before || times <= unsteadyTimes.p90) return;
    const [fromMs, toMs] = [new Date(before.at).getTime(), new Date(at).getTime()];
    const last = stretches.at(-1);
    if (last?.toMs === fromMs) {
      last.toMs = toMs;
      last.all.push(times);
    } else stretches.push({ fromMs, toMs, all: [times] });
  });
  return stretches.map(({ fromMs, toMs, all }) => ({ fromMs, toMs, times: median(all) }));
}
