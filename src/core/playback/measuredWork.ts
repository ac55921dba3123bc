import { median } from '../stats/quantiles';
import { simulate, type Departures } from './simulate';
import { skippedAt, slotState, type BufferDepths, type Policy } from './slots';
import type { Trace } from './trace';
import { graphFromOrder, type FrameGraph, type Work } from './work';

export interface MeasuredWork {
  readonly work: Work;
  /** Where the player gave frames up, as recorded. */
  readonly decisions: Uint8Array;
}

/**
 * Recovers per-slot services from a trace by inverting Lindley's recursion, and
 * fills in what a skipped frame would have cost from frames of its kind.
 * @param graph of the clip, without decoder delay; cut to the trace's length
 * @param kinds numbers slots alike in what they decode and process; null: key frames differ from others in decoding, nothing else does
 */
export function measuredWork(trace: Trace, graph: FrameGraph, slotUs: number, policy: Policy, buffers: BufferDepths, kinds: Uint32Array | null = null): MeasuredWork {
  const { frame, services, decisions } = recoverServices(trace, graph, slotUs, policy, buffers);
  return {
    decisions,
    work: {
      ...frame,
      read: fillByBytes(services.read, trace.readEnd, trace.bytes),
      decode: fillByKind(services.decode, trace.decodeEnd, kinds ?? graph.key),
      process: fillByKind(services.process, trace.processEnd, kinds ?? new Uint8Array(trace.length)),
    },
  };
}

/** The services that a trace shows, µs per slot; 0 where a stage never ended. */
export function recoverServices(trace: Trace, graph: FrameGraph, slotUs: number, policy: Policy, buffers: BufferDepths) {
  const delayed = graphFromOrder(graph.order, graph.key, graph.disposable, decoderDelay(trace, graph));
  const decisions = Uint8Array.from(trace.skipped, (value) => (value === skippedAt.present ? skippedAt.none : value));
  const unknown = new Float64Array(trace.length).fill(Number.NaN);
  const present = presentDelays(trace, slotUs);
  const started = trace.readStart.reduce((least, value) => (value < least ? value : least), 0);
  const frame: Work = { graph: delayed, slotUs, policy, buffers, startUs: started, read: unknown, decode: unknown, process: unknown, present };
  const departures: Departures = { read: trace.readEnd, decode: trace.decodeEnd, process: trace.processEnd };
  const { services } = simulate({ ...frame, read: zeros(trace), decode: zeros(trace), process: zeros(trace) }, { decisions, departures });
  return { frame, services, decisions };
}

function zeros(trace: Trace): Float64Array {
  return new Float64Array(trace.length);
}

/** Packets the decoder took beyond the needed one before it gave a frame: the least seen. */
function decoderDelay(trace: Trace, graph: FrameGraph): number {
  let least = Infinity;
  for (let slot = 0; slot < trace.length; slot++) {
    const taken = trace.arrival[slot] as number;
    if (taken >= 0 && taken < trace.length - 1) least = Math.min(least, taken - (graph.arrival[slot] as number));
  }
  return Number.isFinite(least) ? Math.max(0, least) : 0;
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

/** Services of skipped reads: bytes times the median time per byte. */
function fillByBytes(services: Float64Array, ends: Float64Array, bytes: Float64Array): Float64Array {
  const perByte = median(services.map((value, slot) => (known(ends, slot) && (bytes[slot] as number) > 0 ? value / (bytes[slot] as number) : Number.NaN)));
  return services.map((value, slot) => (known(ends, slot) ? value : (bytes[slot] as number) * (perByte || 0)));
}

/** Services of skipped frames: the median of the frames of their kind, or of all when there is none. */
function fillByKind(services: Float64Array, ends: Float64Array, kind: ArrayLike<number>): Float64Array {
  const byKind = new Map<number, number[]>();
  services.forEach((value, slot) => {
    if (!known(ends, slot)) return;
    const group = byKind.get(kind[slot] as number) ?? [];
    byKind.set(kind[slot] as number, group);
    group.push(value);
  });
  const typical = new Map([...byKind].map(([number, group]) => [number, median(group)]));
  const overall = median([...byKind.values()].flat()) || 0;
  return services.map((value, slot) => (known(ends, slot) ? value : (typical.get(kind[slot] as number) ?? overall)));
}

function known(ends: Float64Array, slot: number): boolean {
  return !Number.isNaN(ends[slot]);
}
