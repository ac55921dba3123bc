import { smoothed } from '../rig/pulse';
import { partitionPoint } from '../stats/partitionPoint';
import type { ChosenWork } from './measuredWork';
import type { Trace } from './trace';
import type { Work } from './work';

/** How the rig was over a stretch of a run: from the one before to `toUs`, µs from t0. */
export interface RigSpan {
  readonly toUs: number;
  /** Of the time in which the trial's threads were ready to run, that in which others had their core, 0 to 1. */
  readonly lostShare: number;
  /** Pulse against before the run; 1 where none was told. */
  readonly slowness: number;
  /** What the trial took of the processor; null where it was not kept. */
  readonly use?: CoreUse | null;
}

/**
 * Cores that there are, that a trial used and that others left to it, means over a stretch; and of the time in which its
 * threads were ready to run, that in which they waited for each other, 0 to 1.
 */
export interface CoreUse {
  readonly cores: number;
  readonly trialCores: number;
  readonly freeCores: number;
  readonly siblingShare: number;
}

/** What of a rig's load a span is made of (see `LoadSample`); null where it was not told. */
interface SpanSample {
  readonly trialLoad: number;
  readonly othersLoad: number;
  readonly lostShare: number | null;
  readonly siblingShare: number | null;
  readonly pulseUs: number | null;
}

/** The span of a run that ends at a sample of the rig's load, µs from t0. @param referenceUs the pulse before the run, null where there was none */
export function rigSpan(
  toUs: number,
  { trialLoad, othersLoad, lostShare, siblingShare, pulseUs }: SpanSample,
  { cores, referenceUs }: { readonly cores: number; readonly referenceUs: number | null },
): RigSpan {
  return {
    toUs,
    lostShare: lostShare ?? 0,
    slowness: pulseUs === null || referenceUs === null ? 1 : pulseUs / referenceUs,
    use:
      siblingShare === null
        ? null
        : {
            cores,
            trialCores: trialLoad * cores,
            freeCores: Math.max(trialLoad, 1 - othersLoad) * cores,
            siblingShare,
          },
  };
}

/** What of a rig's doings is taken out of a run. */
export type RigReason = 'others' | 'slowness';

/** Less than this is the meter's noise: a share, and times as slow. */
const leastLost = 0.02;
const leastSlowness = 1.15;

/** Spans with the noise taken out, one after the other. */
export function clearSpans(spans: readonly RigSpan[]): RigSpan[] {
  const pulses = smoothed(spans.map(({ slowness }) => slowness));
  return spans.map((span, at) => {
    const slowness = pulses[at] as number;
    return {
      ...span,
      lostShare: span.lostShare < leastLost ? 0 : span.lostShare,
      slowness: slowness < leastSlowness ? 1 : slowness,
    };
  });
}

/**
 * A run's work as it would have been on a rig that others left alone, or that had stayed as fast as before the run, or both. Decoding and
 * processing take what is left of their measured times; reading stays, for it waits for its volume.
 * @param spans as `clearSpans` gives them
 */
export function workWithout(
  reasons: readonly RigReason[],
  { work }: ChosenWork,
  trace: Trace,
  spans: readonly RigSpan[],
): Work {
  const left = (slot: number, from: Float64Array, to: Float64Array) => {
    const { lostShare, slowness } = spanOf(slot, from, to, work.slotUs, spans);
    return (reasons.includes('others') ? 1 - lostShare : 1) / (reasons.includes('slowness') ? slowness : 1);
  };
  return {
    ...work,
    decode: work.decode.map((us, slot) => us * left(slot, trace.decodeStart, trace.decodeEnd)),
    process: work.process.map((us, slot) => us * left(slot, trace.processStart, trace.processEnd)),
  };
}

/** Time of stages in which others had the cores that they were ready for, over all slots, ms. */
export function lostMs(
  { work }: ChosenWork,
  trace: Trace,
  spans: readonly RigSpan[],
): { readonly decode: number; readonly process: number } {
  const sum = (times: Float64Array, from: Float64Array, to: Float64Array) =>
    times.reduce(
      (all, us, slot) =>
        Number.isNaN(to[slot]) ? all : all + us * spanOf(slot, from, to, work.slotUs, spans).lostShare,
      0,
    ) / 1000;
  return {
    decode: sum(work.decode, trace.decodeStart, trace.decodeEnd),
    process: sum(work.process, trace.processStart, trace.processEnd),
  };
}

const quiet: RigSpan = { toUs: Infinity, lostShare: 0, slowness: 1 };

function spanOf(...at: Parameters<typeof spanIndex>): RigSpan {
  return at[4][spanIndex(...at)] ?? quiet;
}

/** The number of the span in the middle of a slot's stage; where that never happened, at the slot's due time. */
export function spanIndex(
  slot: number,
  from: Float64Array,
  to: Float64Array,
  slotUs: number,
  spans: readonly RigSpan[],
): number {
  const middle = ((from[slot] as number) + (to[slot] as number)) / 2;
  return spanAt(Number.isNaN(middle) ? slot * slotUs : middle, spans);
}

/** The number of the span at a time, µs from t0; what comes after the last belongs to it. */
export function spanAt(us: number, spans: readonly RigSpan[]): number {
  return Math.min(
    spans.length - 1,
    partitionPoint(spans.length, (index) => (spans[index] as RigSpan).toUs < us),
  );
}
