import { smoothed } from '../rig/pulse';
import { partitionPoint } from '../stats/partitionPoint';
import type { MeasuredWork } from './measuredWork';
import type { Trace } from './trace';
import type { Work } from './work';

/** How the rig was over a stretch of a run: from the one before to `toUs`, µs from t0. */
export interface RigSpan {
  readonly toUs: number;
  /** Of the time in which the trial's threads were ready to run, that in which others had their core, 0 to 1. */
  readonly lostShare: number;
  /** Pulse against before the run; 1 where none was told. */
  readonly slowness: number;
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
    return { toUs: span.toUs, lostShare: span.lostShare < leastLost ? 0 : span.lostShare, slowness: slowness < leastSlowness ? 1 : slowness };
  });
}

/**
 * A run's work as it would have been on a rig that others left alone, or that had stayed as fast as before the run, or both. Decoding and
 * processing take what is left of their measured times; reading stays, for it waits for its volume.
 * @param spans as `clearSpans` gives them
 */
export function workWithout(reasons: readonly RigReason[], { work }: MeasuredWork, trace: Trace, spans: readonly RigSpan[]): Work {
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
export function lostMs({ work }: MeasuredWork, trace: Trace, spans: readonly RigSpan[]): { readonly decode: number; readonly process: number } {
  const sum = (times: Float64Array, from: Float64Array, to: Float64Array) => times.reduce((all, us, slot) => (Number.isNaN(to[slot]) ? all : all + us * spanOf(slot, from, to, work.slotUs, spans).lostShare), 0) / 1000;
  return { decode: sum(work.decode, trace.decodeStart, trace.decodeEnd), process: sum(work.process, trace.processStart, trace.processEnd) };
}

const quiet: RigSpan = { toUs: Infinity, lostShare: 0, slowness: 1 };

/** The span in the middle of a slot's stage; where that never happened, at the slot's due time. */
function spanOf(slot: number, from: Float64Array, to: Float64Array, slotUs: number, spans: readonly RigSpan[]): RigSpan {
  const middle = ((from[slot] as number) + (to[slot] as number)) / 2;
  const at = Number.isNaN(middle) ? slot * slotUs : middle;
  return spans[partitionPoint(spans.length, (index) => (spans[index] as RigSpan).toUs < at)] ?? spans.at(-1) ?? quiet;
}
