import { frameIndex } from '../media/frameIndex';
import { isDisposable, isKey, packetFlags, type PacketTable } from '../media/packetTable';
import { toNumber, type Rational } from '../time/rational';
import { planFeed, type FeedPlan } from './feedPlan';
import { defaultBufferDepths, type BufferDepths, type Policy } from './slots';

/** One decoder of a run. */
export interface Feed {
  readonly plan: FeedPlan;
  /** Work of decoding one of its packets, against those of the run's other feeds: the pixels of its pictures. */
  readonly weight: number;
}

/** A slot's use of a feed. */
export interface FeedUse {
  readonly feed: number;
  readonly step: number;
}

/**
 * How the slots of a run hang together. A slot's *unit* is what it adds to what the slots before it
 * read and decode, when every slot is made: the packets of the plans of its feeds.
 */
export interface FrameGraph {
  readonly slotCount: number;
  readonly feeds: readonly Feed[];
  readonly uses: readonly (readonly FeedUse[])[];
  /** True when every packet of every feed is a key frame. */
  readonly intra: boolean;
  /** Slots of one number are alike in what they decode and process, but for key frames. */
  readonly kinds: Uint32Array;
  /** 1 where a unit holds a key frame of a feed that has others besides. */
  readonly key: Uint8Array;
  /** Slots between two places at which a feed can begin: the most, of all feeds. */
  readonly keyInterval: number;
  /** Bytes of each unit. */
  readonly bytes: Float64Array;
  /** Weight of each unit in decoding. */
  readonly weights: Float64Array;
  /** The same of its packets that others refer to: what passing it takes. */
  readonly referred: Float64Array;
}

/** What a run had to do and with what: the input of the simulator. Durations are µs per slot, those of reading and decoding are its unit's. */
export interface Work {
  readonly graph: FrameGraph;
  readonly slotUs: number;
  readonly policy: Policy;
  readonly buffers: BufferDepths;
  /** When reading began, in µs from t0, negative by the length of the read-ahead; null: the buffers are filled first, as a player does. */
  readonly startUs: number | null;
  readonly read: Float64Array;
  readonly decode: Float64Array;
  readonly process: Float64Array;
  readonly present: Float64Array;
  /** Work that a decoder does beyond a slot's own before it gives the slot's frame (frame threads), µs; null: none. */
  readonly lagUs?: Float64Array | null;
  /** 1 where the decoder makes no picture of what it is handed, as measured; null: everywhere it does. */
  readonly refused?: Uint8Array | null;
}

/** Builds the graph of a run from its feeds and their uses. @param kinds null: all slots are alike */
export function graphOf(
  feeds: readonly Feed[],
  uses: readonly (readonly FeedUse[])[],
  kinds: Uint32Array | null = null,
): FrameGraph {
  const slotCount = uses.length;
  const key = new Uint8Array(slotCount);
  const bytes = new Float64Array(slotCount);
  const weights = new Float64Array(slotCount);
  const referred = new Float64Array(slotCount);
  const lastKey = feeds.map(() => -1);
  let keyInterval = 1;
  uses.forEach((used, slot) => {
    for (const { feed, step } of used) {
      const {
        plan: {
          rows,
          from,
          index: { table, intra },
        },
        weight,
      } = feeds[feed] as Feed;
      for (let at = from[step] as number; at < (from[step + 1] as number); at++) {
        const row = rows[at] as number;
        bytes[slot] = (bytes[slot] as number) + (table.size[row] as number);
        weights[slot] = (weights[slot] as number) + weight;
        if (!intra && !isDisposable(table, row)) referred[slot] = (referred[slot] as number) + weight;
        if (intra || !isKey(table, row)) continue;
        key[slot] = 1;
        const before = lastKey[feed] as number;
        if (before >= 0) keyInterval = Math.max(keyInterval, slot - before);
        lastKey[feed] = slot;
      }
    }
  });
  return {
    slotCount,
    feeds,
    uses,
    intra: feeds.every(({ plan }) => plan.index.intra),
    kinds: kinds ?? new Uint32Array(slotCount),
    key,
    keyInterval,
    bytes,
    weights,
    referred,
  };
}

/** The graph of a clip played from its first frame on, for `slotCount` slots. */
export function clipGraph(table: PacketTable, slotCount = table.length): FrameGraph {
  const slots = Math.min(slotCount, table.length);
  const plan = planFeed(
    frameIndex(table),
    Int32Array.from({ length: slots }, (_, slot) => slot),
  );
  return graphOf(
    [{ plan, weight: 1 }],
    Array.from({ length: slots }, (_, step) => [{ feed: 0, step }]),
  );
}

/** The graph of a made-up clip: its slots in decode order, and flags per slot. Every packet has one byte. */
function graphFromOrder(order: Uint32Array, key: Uint8Array, disposable: Uint8Array): FrameGraph {
  return clipGraph(madeUpTable(order, key, disposable));
}

/** A packet table of a made-up clip (see `graphFromOrder`). */
export function madeUpTable(order: Uint32Array, key: Uint8Array, disposable: Uint8Array): PacketTable {
  const { length } = order;
  const none = new Float64Array(length);
  const flags = Uint8Array.from(
    order,
    (slot) => (key[slot] ? packetFlags.key : 0) | (disposable[slot] ? packetFlags.disposable : 0),
  );
  return {
    length,
    offset: none,
    size: new Uint32Array(length).fill(1),
    pts: none,
    dts: none,
    flags,
    type: new Uint8Array(length),
    slot: order,
  };
}

/** A frame graph of `slotCount` intra frames. */
export function intraGraph(slotCount: number): FrameGraph {
  const ones = new Uint8Array(slotCount).fill(1);
  return graphFromOrder(
    Uint32Array.from({ length: slotCount }, (_, slot) => slot),
    ones,
    ones,
  );
}

/** Work of equal slots, for forecasts and tests: a unit takes its share of packets of the given times. Durations in µs. */
export function uniformWork(
  graph: FrameGraph,
  rate: Rational,
  durations: { read: number; decode: number; process: number; present?: number },
  buffers = defaultBufferDepths,
  policy: Policy = 'hold-time',
): Work {
  const fill = (value: number) => new Float64Array(graph.slotCount).fill(value);
  const perUnit = (amounts: Float64Array, value: number) => amounts.map((amount) => amount * value);
  return {
    graph,
    slotUs: 1e6 / toNumber(rate),
    policy,
    buffers,
    startUs: null,
    read: perUnit(graph.bytes, durations.read),
    decode: perUnit(graph.weights, durations.decode),
    process: fill(durations.process),
    present: fill(durations.present ?? 0),
  };
}

/** The graph of a run that ended after `slots` slots. */
export function firstSlots(graph: FrameGraph, slots: number): FrameGraph {
  if (slots >= graph.slotCount) return graph;
  const { uses, kinds, key, bytes, weights, referred } = graph;
  return {
    ...graph,
    slotCount: slots,
    uses: uses.slice(0, slots),
    kinds: kinds.subarray(0, slots),
    key: key.subarray(0, slots),
    bytes: bytes.subarray(0, slots),
    weights: weights.subarray(0, slots),
    referred: referred.subarray(0, slots),
  };
}
