import { partitionPoint } from '../stats/partitionPoint';
import { RecentMedian } from '../stats/recentMedian';
import { cannotMakeSlot, deadlineUs, dueUs, firstSlotInReach, keyFrameJump } from './policy';
import { skippedAt, type Stage } from './slots';
import type { Work } from './work';

/** Stages whose work takes no time in a replay. */
export type FreeStages = Partial<Record<Stage, boolean>>;

export interface SimulateOptions {
  readonly free?: FreeStages;
  /** Values of `skippedAt` per slot to follow. Without it the player chooses by its policy. */
  readonly decisions?: Uint8Array;
  /** Departure times to take over where finite, to recover services (Lindley's recursion, inverted). */
  readonly departures?: Departures;
}

/** Measured ends of each stage per slot, µs from t0, NaN where a stage never ended. */
export interface Departures {
  readonly read: Float64Array;
  readonly decode: Float64Array;
  readonly process: Float64Array;
}

/** What a simulated run did, per slot in display order; times in µs from t0. */
export interface Simulated {
  readonly presentedAt: Float64Array;
  /** 1 where the slot's frame was not presented. */
  readonly dropped: Uint8Array;
  readonly droppedCount: number;
  /** Where frames were given up before they were finished: what the player chose. */
  readonly decisions: Uint8Array;
  /** Service per slot: as given, or recovered from `departures`. */
  readonly services: { readonly read: Float64Array; readonly decode: Float64Array; readonly process: Float64Array };
  /** When each stage ended, µs from t0; NaN where it never did. */
  readonly ends: Departures;
}

/** Times at which items left a bounded buffer; tells when there is room for the next. */
class LeaveTimes {
  private readonly ring: Float64Array;
  private count = 0;
  constructor(depth: number) { this.ring = new Float64Array(depth); }
  /** When the next item finds room: the leave time of the item `depth` before it. */
  roomAt(): number { return this.count < this.ring.length ? -Infinity : (this.ring[this.count % this.ring.length] as number); }
  push(time: number): void { this.ring[this.count++ % this.ring.length] = time; }
}

/**
 * Runs a clip through read, decode, process and present as first-in-first-out
 * servers with bounded buffers: departure = max(previous departure, arrival,
 * room) + service (Lindley 1952, with blocking). One pass in display order;
 * linear in the number of slots.
 */
export function simulate(work: Work, options: SimulateOptions = {}): Simulated {
  return new Simulation(work, options).run();
}

class Simulation {
  private readonly presentedAt: Float64Array;
  private readonly dropped: Uint8Array;
  private readonly decisions: Uint8Array;
  private readonly services: { read: Float64Array; decode: Float64Array; process: Float64Array };
  private readonly ends: Departures;
  private readonly readEnd: Float64Array;
  private readonly takenAt: Float64Array;
  private readonly readPositions: Int32Array;
  private readonly decodedLeave: LeaveTimes;
  private readonly readyLeave: LeaveTimes;
  private readonly estimates = { read: new RecentMedian(), decode: new RecentMedian(), process: new RecentMedian() };
  private readonly choosing: boolean;
  private readFree: number;
  private decodeFree: number;
  private processFree: number;
  private nextPosition = 0;
  private readCount = 0;
  private takenCount = 0;
  private droppedCount = 0;

  constructor(private readonly work: Work, private readonly options: SimulateOptions) {
    const { slotCount } = work.graph;
    this.presentedAt = new Float64Array(slotCount).fill(Number.NaN);
    this.dropped = new Uint8Array(slotCount);
    this.decisions = options.decisions ? options.decisions.slice() : new Uint8Array(slotCount);
    this.choosing = !options.decisions && work.policy === 'hold-time';
    this.services = { read: new Float64Array(slotCount), decode: new Float64Array(slotCount), process: new Float64Array(slotCount) };
    const never = () => new Float64Array(slotCount).fill(Number.NaN);
    this.ends = { read: never(), decode: never(), process: never() };
    this.readEnd = new Float64Array(slotCount).fill(-Infinity);
    this.takenAt = new Float64Array(slotCount).fill(-Infinity);
    this.readPositions = new Int32Array(slotCount);
    this.decodedLeave = new LeaveTimes(work.buffers.decoded);
    this.readyLeave = new LeaveTimes(work.buffers.ready);
    this.readFree = this.decodeFree = this.processFree = work.startUs;
  }

  run(): Simulated {
    const { slotCount } = this.work.graph;
    for (let slot = 0; slot < slotCount; slot++) {
      const lastRead = this.readUpTo(slot);
      if (this.decisions[slot] === skippedAt.read) { this.drop(slot); continue; }
      const decodedAt = this.decodeSlot(slot, lastRead);
      if (decodedAt === null) { this.drop(slot); continue; }
      const finishedAt = this.processSlot(slot, decodedAt);
      if (finishedAt === null) { this.drop(slot); continue; }
      this.presentSlot(slot, finishedAt);
    }
    const { presentedAt, dropped, droppedCount, decisions, services, ends } = this;
    return { presentedAt, dropped, droppedCount, decisions, services, ends };
  }

  private drop(slot: number): void {
    this.dropped[slot] = 1;
    this.droppedCount++;
  }

  /** Departure of a stage: the measured one where given (recording its service), else start plus service. */
  private serve(stage: 'read' | 'decode' | 'process', slot: number, start: number): number {
    const measured = this.options.departures?.[stage][slot];
    let service = this.options.free?.[stage] ? 0 : (this.work[stage][slot] as number);
    if (measured !== undefined && measured === measured) service = Math.max(0, measured - start);
    this.services[stage][slot] = service;
    this.ends[stage][slot] = start + service;
    if (this.choosing) this.estimates[stage].add(service);
    return start + service;
  }

  /** Reads packets in decode order until the slot's frame can leave the decoder. Returns when the last one arrived. */
  private readUpTo(slot: number): number {
    const { graph, buffers } = this.work;
    const until = graph.arrival[slot] as number;
    while (this.nextPosition <= until) {
      const packetSlot = graph.order[this.nextPosition] as number;
      if (this.decisions[packetSlot] === skippedAt.read) { this.nextPosition++; continue; }
      const blocker = this.readCount - buffers.readAhead;
      const room = blocker < 0 ? -Infinity : (this.takenAt[blocker] as number);
      const start = Math.max(this.readFree, room);
      if (this.choosing && this.skipBeforeRead(slot, packetSlot, start)) continue;
      this.readFree = this.serve('read', packetSlot, start);
      this.readEnd[packetSlot] = this.readFree;
      this.readPositions[this.readCount++] = this.nextPosition++;
    }
    return this.readFree;
  }

  /** Gives up frames before they are read, where that is the cheapest way to catch up. */
  private skipBeforeRead(nextSlot: number, packetSlot: number, now: number): boolean {
    const { graph, slotUs } = this.work;
    const needed = this.estimates.read.value + this.estimates.decode.value + this.estimates.process.value;
    if (graph.intra) {
      if (!cannotMakeSlot(packetSlot, now, needed, slotUs)) return false;
      this.decisions[packetSlot] = skippedAt.read;
      this.nextPosition++;
      return true;
    }
    let open = nextSlot;
    // Frames that are read already are the decoder's business.
    while (open < graph.slotCount && (this.decisions[open] !== skippedAt.none || (graph.position[open] as number) < this.nextPosition)) open++;
    if (!cannotMakeSlot(open, now, needed, slotUs)) return false;
    return this.jump(open, this.nextPosition, now, needed, skippedAt.read);
  }

  /**
   * Jumps to a later key frame where that loses least: gives up all frames
   * before it whose packet lies at `fromPosition` or later. True when it did.
   */
  private jump(nextSlot: number, fromPosition: number, now: number, needed: number, where: number): boolean {
    const { graph, slotUs } = this.work;
    const { keySlots, position } = graph;
    const firstKey = firstAtOrAfter(keySlots, position, fromPosition);
    const pace = Math.max(this.estimates.read.value, this.estimates.decode.value) / slotUs;
    const target = keyFrameJump(nextSlot, firstSlotInReach(now, needed, slotUs), keySlots, pace, firstKey);
    if (target === null) return false;
    let gaveUp = false;
    for (let skipped = nextSlot; skipped < target; skipped++) {
      const at = position[skipped] as number;
      if (at < fromPosition || this.decisions[skipped] !== skippedAt.none) continue;
      this.decisions[skipped] = at >= this.nextPosition ? skippedAt.read : where;
      gaveUp = true;
    }
    return gaveUp;
  }

  /** Marks packets as taken by the decoder at the time it begins on a slot that needs them. */
  private take(until: number, time: number): void {
    while (this.takenCount < this.readCount && (this.readPositions[this.takenCount] as number) <= until) {
      this.takenAt[this.takenCount++] = time;
    }
  }

  private decodeSlot(slot: number, lastRead: number): number | null {
    const { graph, slotUs } = this.work;
    const until = graph.arrival[slot] as number;
    // With all-intra media the packet itself is what arrives; later reads do not hold it up.
    const arrival = graph.intra && until === graph.position[slot] ? (this.readEnd[slot] as number) : lastRead;
    const start = Math.max(this.decodeFree, arrival, this.decodedLeave.roomAt());
    this.take(until, start);
    if (this.choosing && this.decisions[slot] === skippedAt.none) {
      const needed = this.estimates.decode.value + this.estimates.process.value;
      if (cannotMakeSlot(slot, start, needed, slotUs)) {
        if (graph.disposable[slot] === 1) this.decisions[slot] = skippedAt.decode;
        else if (!graph.intra) this.jump(slot, graph.position[slot] as number, start, needed, skippedAt.decode);
      }
    }
    if (this.decisions[slot] === skippedAt.decode) return null;
    this.decodeFree = this.serve('decode', slot, start);
    return this.decodeFree;
  }

  private processSlot(slot: number, decodedAt: number): number | null {
    const start = Math.max(this.processFree, decodedAt, this.readyLeave.roomAt());
    this.decodedLeave.push(start);
    if (this.choosing && cannotMakeSlot(slot, start, this.estimates.process.value, this.work.slotUs)) {
      this.decisions[slot] = skippedAt.process;
    }
    if (this.decisions[slot] === skippedAt.process) return null;
    this.processFree = this.serve('process', slot, start);
    return this.processFree;
  }

  private presentSlot(slot: number, finishedAt: number): void {
    const { slotUs, policy, present } = this.work;
    if (policy === 'every-frame') {
      this.presentedAt[slot] = finishedAt;
      this.readyLeave.push(finishedAt);
      return;
    }
    const delay = this.options.free?.present ? 0 : (present[slot] as number);
    const deadline = deadlineUs(slot, slotUs);
    const at = Math.max(dueUs(slot, slotUs), finishedAt) + delay;
    if (at < deadline) this.presentedAt[slot] = at;
    else this.drop(slot);
    this.readyLeave.push(finishedAt < deadline ? Math.min(at, deadline) : finishedAt);
  }
}

/** Index of the first key frame whose packet lies at a decode-order position or later. Key frames keep their order. */
function firstAtOrAfter(keySlots: Uint32Array, position: Uint32Array, wanted: number): number {
  return partitionPoint(keySlots.length, (index) => (position[keySlots[index] as number] as number) < wanted);
}
