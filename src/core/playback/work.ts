import { isDisposable, isKey, type PacketTable } from '../media/packetTable';
import { toNumber, type Rational } from '../time/rational';
import { defaultBufferDepths, type BufferDepths, type Policy } from './slots';

/** How frames of a clip hang together, per slot in display order unless said otherwise. */
export interface FrameGraph {
  readonly slotCount: number;
  readonly intra: boolean;
  /** Slot of the packet at each decode-order position. */
  readonly order: Uint32Array;
  /** Decode-order position of each slot's packet. */
  readonly position: Uint32Array;
  /** Decode-order position that must have been read before the slot's frame can leave the decoder. */
  readonly arrival: Int32Array;
  /** Slots of key frames, ascending. */
  readonly keySlots: Uint32Array;
  readonly key: Uint8Array;
  readonly disposable: Uint8Array;
}

/** What a run had to do and with what: the input of the simulator. Durations are µs per slot. */
export interface Work {
  readonly graph: FrameGraph;
  readonly slotUs: number;
  readonly policy: Policy;
  readonly buffers: BufferDepths;
  /** When reading began, in µs from t0; negative by the length of the read-ahead. */
  readonly startUs: number;
  readonly read: Float64Array;
  readonly decode: Float64Array;
  readonly process: Float64Array;
  readonly present: Float64Array;
}

/**
 * Derives the frame graph from the first `slotCount` slots of a packet table.
 * @param decoderDelay packets a decoder takes beyond the needed one before it gives a frame (frame threads)
 */
export function frameGraph(table: PacketTable, slotCount = table.length, decoderDelay = 0): FrameGraph {
  const order: number[] = [];
  const key = new Uint8Array(slotCount);
  const disposable = new Uint8Array(slotCount);
  for (let i = 0; i < table.length; i++) {
    const slot = table.slot[i] as number;
    if (slot >= slotCount) continue;
    order.push(slot);
    key[slot] = isKey(table, i) ? 1 : 0;
    disposable[slot] = isDisposable(table, i) ? 1 : 0;
  }
  return graphFromOrder(Uint32Array.from(order), key, disposable, decoderDelay);
}

/** A frame graph of `slotCount` intra frames. */
export function intraGraph(slotCount: number): FrameGraph {
  return graphFromOrder(Uint32Array.from({ length: slotCount }, (_, i) => i), new Uint8Array(slotCount).fill(1), new Uint8Array(slotCount).fill(1), 0);
}

/** Builds a frame graph from its decode order and the flags per slot. */
export function graphFromOrder(order: Uint32Array, key: Uint8Array, disposable: Uint8Array, decoderDelay: number): FrameGraph {
  const slotCount = order.length;
  const position = new Uint32Array(slotCount);
  order.forEach((slot, at) => { position[slot] = at; });
  const arrival = new Int32Array(slotCount);
  let furthest = 0;
  let keyCount = 0;
  for (let slot = 0; slot < slotCount; slot++) {
    furthest = Math.max(furthest, position[slot] as number);
    arrival[slot] = Math.min(slotCount - 1, furthest + decoderDelay);
    keyCount += key[slot] as number;
  }
  const keySlots = Uint32Array.from(order).filter((slot) => key[slot] === 1).sort();
  return { slotCount, intra: keyCount === slotCount, order, position, arrival, keySlots, key, disposable };
}

/** Work of equal slots, for forecasts and tests. Durations in µs. */
export function uniformWork(graph: FrameGraph, rate: Rational, durations: { read: number; decode: number; process: number; present?: number }, buffers = defaultBufferDepths, policy: Policy = 'hold-time'): Work {
  const fill = (value: number) => new Float64Array(graph.slotCount).fill(value);
  const slotUs = 1e6 / toNumber(rate);
  const startUs = -buffers.readAhead * Math.max(durations.read, durations.decode, durations.process);
  return {
    graph, slotUs, policy, buffers, startUs,
    read: fill(durations.read), decode: fill(durations.decode), process: fill(durations.process), present: fill(durations.present ?? 0),
  };
}

/**
 * The largest number of slots not above `limit` whose frames need no packet
 * beyond them: a clip may be cut there without breaking a reference.
 */
export function closedSlotCount(table: PacketTable, limit: number): number {
  let closed = 0;
  let highest = -1;
  for (let i = 0; i < Math.min(limit, table.length); i++) {
    highest = Math.max(highest, table.slot[i] as number);
    if (highest === i) closed = i + 1;
  }
  return closed;
}

/** The graph of a run that ended after `slots` slots; their order must be that of display, as a timeline's is. */
export function firstSlots(graph: FrameGraph, slots: number): FrameGraph {
  return slots >= graph.slotCount ? graph : graphFromOrder(graph.order.filter((slot) => slot < slots), graph.key.subarray(0, slots), graph.disposable.subarray(0, slots), 0);
}
