import { partitionPoint } from '../stats/partitionPoint';
import { median } from '../stats/quantiles';
import { simulate, type Departures } from './simulate';
import { skippedAt, slotState, type BufferDepths, type Policy } from './slots';
import type { Trace } from './trace';
import type { FrameGraph, Work } from './work';

/** A run's work, with what its player chose. */
export interface ChosenWork {
  readonly work: Work;
  /** Where the player gave frames up. */
  readonly decisions: Uint8Array;
}

/** A run's work as its trace shows it. */
export interface MeasuredWork extends ChosenWork {
  /** Weight of each slot's unit that was decoded. */
  readonly decodedWeights: Float64Array;
}

/**
 * Recovers the services of a run's units from its trace by inverting Lindley's recursion, and fills in
 * what those would have cost that were given up, from units of their kind.
 * @param graph of what was played, cut to the trace's length
 */
export function measuredWork(
  trace: Trace,
  graph: FrameGraph,
  slotUs: number,
  policy: Policy,
  buffers: BufferDepths,
): MeasuredWork {
  const { frame, units, decodedWeights, decisions } = recoverServices(trace, graph, slotUs, policy, buffers);
  const kinds = graph.kinds.map((kind, slot) => kind * 2 + (graph.key[slot] as number));
  // What the record breaks off at was not measured.
  const measured = (times: Float64Array, ends: Float64Array) =>
    times.map((time, slot) =>
      Number.isNaN(ends[slot]) && decisions[slot] === skippedAt.none ? Number.NaN : time,
    );
  return {
    decisions,
    decodedWeights,
    work: {
      ...frame,
      read: fillByAmount(measured(units.read, trace.readEnd), graph.bytes, new Uint32Array(trace.length)),
      decode: fillByAmount(measured(units.decode, trace.decodeEnd), graph.weights, kinds),
      process: fillByAmount(
        measured(units.process, trace.processEnd),
        new Float64Array(trace.length).fill(1),
        graph.kinds,
      ),
    },
  };
}

/** What a trace shows of its stages' work: per slot, and per whole unit. */
export function recoverServices(
  trace: Trace,
  graph: FrameGraph,
  slotUs: number,
  policy: Policy,
  buffers: BufferDepths,
) {
  const decisions = Uint8Array.from(trace.skipped, (value) =>
    value === skippedAt.present || value === skippedAt.media ? skippedAt.none : value,
  );
  const refused = trace.skipped.includes(skippedAt.media)
    ? trace.skipped.map((value) => (value === skippedAt.media ? 1 : 0))
    : null;
  const zeros = new Float64Array(trace.length);
  const startUs = trace.readStart.reduce((least, value) => (value < least ? value : least), 0);
  const frame: Work = {
    graph,
    slotUs,
    policy,
    buffers,
    startUs,
    read: zeros,
    decode: zeros,
    process: zeros,
    present: presentDelays(trace, slotUs),
    refused,
  };
  const departures: Departures = {
    read: trace.readEnd,
    decode: trace.decodeEnd,
    process: trace.processEnd,
    decodeDone: trace.decodeDone,
    decodeHeldUs: trace.decodeHeldUs,
  };
  const { services, units, decodedWeights, lagUs } = simulate(frame, { decisions, departures });
  const usual = median(lagUs) || 0;
  return {
    frame: { ...frame, lagUs: lagUs.map((lag) => (Number.isNaN(lag) ? usual : lag)) },
    services,
    units,
    decodedWeights,
    decisions,
  };
}

/** How long after it could the presenter acted: timer error for frames in time, wake-up for late ones. */
function presentDelays(trace: Trace, slotUs: number): Float64Array {
  return Float64Array.from(trace.state, (state, slot) => {
    const due = slot * slotUs;
    const finished = trace.processEnd[slot] as number;
    const ready = finished === finished ? Math.max(due, finished) : due;
    const presented = trace.presentedAt[slot] as number;
    if (presented === presented) return Math.max(0, presented - ready);
    // Finished before its slot ended and yet not shown: the presenter took at least the rest of the slot.
    if (state === slotState.dropped && finished < due + slotUs) return due + slotUs - ready + 1;
    const woke = (trace.wokeAt[slot] as number) - due;
    return woke === woke ? Math.min(slotUs, Math.max(0, woke)) : 0;
  });
}

/** Measured units of a kind that stand for one of it that was not made. */
const nearest = 9;

/** What is not known, by the median time per amount of the nearest units of its kind, or of all where there is none. */
function fillByAmount(services: Float64Array, amounts: Float64Array, kinds: Uint32Array): Float64Array {
  const usual = usualOf(services, amounts, kinds);
  return services.map((value, slot) => (Number.isNaN(value) ? usual(slot) : value));
}

/** What each slot's bytes take to be read at the median time per byte of the nearest measured slots, µs. */
export function usualTimes(read: Float64Array, bytes: Float64Array): Float64Array {
  const usual = usualOf(read, bytes, new Uint32Array(read.length));
  return read.map((_, slot) => usual(slot));
}

/** What a slot takes at the median time per amount of the nearest measured units of its kind. */
function usualOf(
  services: Float64Array,
  amounts: Float64Array,
  kinds: Uint32Array,
): (slot: number) => number {
  const rates = services.map((value, slot) =>
    (amounts[slot] as number) > 0 ? value / (amounts[slot] as number) : Number.NaN,
  );
  const byKind = new Map<number, number[]>();
  const all: number[] = [];
  rates.forEach((rate, slot) => {
    if (Number.isNaN(rate)) return;
    all.push(slot);
    const group = byKind.get(kinds[slot] as number);
    if (group) group.push(slot);
    else byKind.set(kinds[slot] as number, [slot]);
  });
  return (slot) => {
    const measured = byKind.get(kinds[slot] as number) ?? all;
    const at = partitionPoint(measured.length, (index) => (measured[index] as number) < slot);
    const near = measured
      .slice(Math.max(0, at - nearest), at + nearest)
      .sort((a, b) => Math.abs(a - slot) - Math.abs(b - slot))
      .slice(0, nearest);
    return (amounts[slot] as number) * (median(near.map((one) => rates[one] as number)) || 0);
  };
}
