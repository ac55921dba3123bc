import { isDisposable } from '../media/packetTable';
import type { Feed, FrameGraph } from './work';

/** What a feed is handed for a slot. */
export interface FeedRows {
  readonly feed: number;
  readonly step: number;
  /** Rows of its packet table, in decode order, and the units that they are of. */
  readonly rows: readonly number[];
  readonly units: readonly number[];
  /** Rows that are given up: nothing needs them any more. */
  readonly dropped: readonly number[];
  /** The decoder is emptied first. */
  readonly reset: boolean;
  /** What the decoder still holds is taken out afterwards. */
  readonly drain: boolean;
}

/** A part of a unit: its bytes, and its weight in decoding. */
export interface UnitPart {
  readonly unit: number;
  readonly bytes: number;
  readonly weight: number;
}

/** What a slot takes. */
export interface SlotRows {
  readonly slot: number;
  /** Units that have a part in it; null: its own, whole. */
  readonly parts: readonly UnitPart[] | null;
  /** What each of its feeds is handed; null: what its unit holds (see `wholeUnit`). */
  readonly feeds: readonly FeedRows[] | null;
}

/** Bytes or decoding weight of what a slot takes. */
export function amountOf(
  { bytes, weights }: FrameGraph,
  { slot, parts }: SlotRows,
  by: 'bytes' | 'weight',
): number {
  if (parts === null) return (by === 'bytes' ? bytes : weights)[slot] as number;
  return parts.reduce((sum, part) => sum + part[by], 0);
}

/** What the feeds of a slot are handed of its own unit. */
export function wholeUnit({ uses, feeds }: FrameGraph, slot: number): FeedRows[] {
  return (uses[slot] ?? []).map(({ feed, step }) => {
    const { plan } = feeds[feed] as Feed;
    const rows = [...plan.rows.subarray(plan.from[step], plan.from[step + 1])];
    return {
      feed,
      step,
      rows,
      units: rows.map(() => slot),
      dropped: [],
      reset: plan.reset[step] === 1,
      drain: plan.drain[step] === 1,
    };
  });
}

/**
 * What a slot's feeds are handed, unit by unit; its own is the last, even where it holds nothing. Decoders
 * that begin anew are emptied before all that: the frames they hold would else be late by the whole way.
 */
export function piecesOf(graph: FrameGraph, rows: SlotRows): FeedRows[][] {
  const feeds = rows.feeds ?? wholeUnit(graph, rows.slot);
  if (rows.parts === null) return [[...feeds]];
  const units = [
    ...rows.parts
      .map(({ unit }) => unit)
      .filter((unit) => unit !== rows.slot)
      .sort((a, b) => a - b),
    rows.slot,
  ];
  const emptied = feeds
    .filter(({ reset }) => reset)
    .map((one): FeedRows => ({ ...one, rows: [], units: [], dropped: [], drain: false }));
  const pieces = units.map((unit, at) =>
    feeds.flatMap((one): FeedRows[] => {
      const mine = one.rows.filter((_, index) => one.units[index] === unit);
      const isLast = at === units.length - 1;
      if (mine.length === 0 && !isLast) return [];
      return [
        {
          ...one,
          rows: mine,
          units: mine.map(() => unit),
          dropped: isLast ? one.dropped : [],
          reset: false,
          drain: one.drain && isLast,
        },
      ];
    }),
  );
  return emptied.length > 0 ? [emptied, ...pieces] : pieces;
}

interface Pending {
  readonly row: number;
  readonly unit: number;
  readonly resets: boolean;
  readonly drains: boolean;
}

/**
 * What was passed over and may still be needed, per feed. A stage adds the unit of every slot that it
 * comes to, and takes what a slot needs: each feed gets there in its own cheapest way, on in order
 * without frames that nothing refers to, or from the last key frame at or before its frame. A feed
 * that a slot does not use stays where it is.
 */
export class Backlog {
  private readonly pending: Pending[][];
  private count = 0;

  constructor(private readonly graph: FrameGraph) {
    this.pending = graph.feeds.map(() => []);
  }

  /** True when nothing was passed over that may still be needed. */
  get isEmpty(): boolean {
    return this.count === 0;
  }

  /** Adds a slot's unit. */
  add(slot: number): void {
    for (const { feed, step } of this.graph.uses[slot] ?? []) {
      const { plan } = this.graph.feeds[feed] as Feed;
      const end = plan.from[step + 1] as number;
      this.count += end - (plan.from[step] as number);
      for (let at = plan.from[step] as number, first = at; at < end; at++) {
        (this.pending[feed] as Pending[]).push({
          row: plan.rows[at] as number,
          unit: slot,
          resets: at === first && plan.reset[step] === 1,
          drains: at === end - 1 && plan.drain[step] === 1,
        });
      }
    }
  }

  /** Adds a slot's unit and takes what the slot needs of its feeds. */
  take(slot: number): SlotRows {
    if (this.isEmpty) return { slot, parts: null, feeds: null };
    this.add(slot);
    const feeds: FeedRows[] = [];
    const parts = new Map<number, { unit: number; bytes: number; weight: number }>();
    for (const { feed, step } of this.graph.uses[slot] ?? []) {
      const {
        plan: {
          index: { table },
        },
        weight,
      } = this.graph.feeds[feed] as Feed;
      const { taken, dropped, reset } = this.takeFeed(feed, step);
      this.count -= taken.length + dropped.length;
      for (const { row, unit } of taken) {
        const part = parts.get(unit) ?? { unit, bytes: 0, weight: 0 };
        part.bytes += table.size[row] as number;
        part.weight += weight;
        parts.set(unit, part);
      }
      feeds.push({
        feed,
        step,
        rows: taken.map(({ row }) => row),
        units: taken.map(({ unit }) => unit),
        dropped: dropped.map(({ row }) => row),
        reset,
        drain: taken.at(-1)?.drains ?? false,
      });
    }
    return { slot, feeds, parts: [...parts.values()] };
  }

  private takeFeed(feed: number, step: number): { taken: Pending[]; dropped: Pending[]; reset: boolean } {
    const {
      plan: { index, frames, uses },
    } = this.graph.feeds[feed] as Feed;
    const { table } = index;
    const pending = this.pending[feed] as Pending[];
    const frame = frames[step] as number;
    const own = pending.findLastIndex(({ row }) => row === index.row[frame]);
    // Decoded already: what is pending is for later slots.
    if (own < 0) return { taken: [], dropped: [], reset: false };
    if (index.intra)
      return this.takeIntra(feed, pending, own, (row) => uses.isWanted(table.slot[row] as number, step + 1));
    this.pending[feed] = [];
    const key = index.keyRow[frame] as number;
    const start = Math.max(
      0,
      pending.findLastIndex(({ row }, at) => at <= own && row === key),
    );
    const keyFrame = table.slot[key] as number;
    const jumps = pending.slice(0, start).some(({ row }) => !isDisposable(table, row));
    const taken: Pending[] = [];
    const dropped: Pending[] = pending.slice(0, start);
    for (const one of pending.slice(start)) {
      const shown = table.slot[one.row] as number;
      const refers =
        !isDisposable(table, one.row) &&
        one.row <= (index.lastRow[frame] as number) &&
        !(jumps && shown < keyFrame);
      (refers || uses.isWanted(shown, step) ? taken : dropped).push(one);
    }
    return { taken, dropped, reset: jumps || pending.slice(0, start + 1).some(({ resets }) => resets) };
  }

  /** Of frames that stand alone only the one is taken; those that a later slot shows wait for it. */
  private takeIntra(
    feed: number,
    pending: readonly Pending[],
    own: number,
    isWantedLater: (row: number) => boolean,
  ): { taken: Pending[]; dropped: Pending[]; reset: boolean } {
    const rest = pending.filter((_, at) => at !== own);
    this.pending[feed] = rest.filter(({ row }) => isWantedLater(row));
    return {
      taken: [pending[own] as Pending],
      dropped: rest.filter(({ row }) => !isWantedLater(row)),
      reset: false,
    };
  }

  /** Looks how much the slots ahead would take, one after the other, without taking anything. */
  ahead(): Ahead {
    return new Ahead(
      this.graph,
      this.pending.map((rows) => rows.map(({ row }) => row)),
    );
  }
}

interface Scan {
  /** Place of each row among those passed, and what packets that others refer to came before it. */
  readonly at: Map<number, { readonly index: number; readonly bytes: number; readonly weight: number }>;
  bytes: number;
  weight: number;
}

/** The amounts that slots ahead would take if all before them were given up. */
export class Ahead {
  private readonly scans: Scan[];

  constructor(
    private readonly graph: FrameGraph,
    pending: readonly (readonly number[])[],
  ) {
    this.scans = pending.map((rows, feed) => {
      const scan: Scan = { at: new Map(), bytes: 0, weight: 0 };
      for (const row of rows) this.pass(scan, graph.feeds[feed] as Feed, row);
      return scan;
    });
  }

  private pass(
    scan: Scan,
    {
      plan: {
        index: { table, intra },
      },
      weight,
    }: Feed,
    row: number,
  ): void {
    scan.at.set(row, { index: scan.at.size, bytes: scan.bytes, weight: scan.weight });
    if (intra || isDisposable(table, row)) return;
    scan.bytes += table.size[row] as number;
    scan.weight += weight;
  }

  /** Passes on to a slot; slots must be given in order. Returns bytes and decoding weight to get there. */
  to(slot: number): { bytes: number; weight: number } {
    let bytes = 0;
    let weight = 0;
    for (const { feed, step } of this.graph.uses[slot] ?? []) {
      const one = this.graph.feeds[feed] as Feed;
      const scan = this.scans[feed] as Scan;
      const {
        plan: { rows, from, frames, index },
      } = one;
      for (let at = from[step] as number; at < (from[step + 1] as number); at++)
        this.pass(scan, one, rows[at] as number);
      const row = index.row[frames[step] as number] as number;
      const own = scan.at.get(row);
      if (!own) continue;
      const size = index.table.size[row] as number;
      if (index.intra) {
        bytes += size;
        weight += one.weight;
        continue;
      }
      const key = scan.at.get(index.keyRow[frames[step] as number] as number);
      const start = key && key.index <= own.index ? key : { bytes: 0, weight: 0 };
      const alone = isDisposable(index.table, row);
      bytes += scan.bytes - start.bytes + (alone ? size : 0);
      weight += scan.weight - start.weight + (alone ? one.weight : 0);
    }
    return { bytes, weight };
  }
}
