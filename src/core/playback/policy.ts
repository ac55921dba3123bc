import { RecentCost } from '../stats/recentCost';
import { RecentMean } from '../stats/recentMean';
import { RecentQuantile } from '../stats/recentQuantile';
import { amountOf, Backlog, type SlotRows } from './backlog';
import { KindCosts } from './kindCosts';
import { SharedTime } from './sharedTime';
import { targetFrom, type TargetSearch } from './target';
import { Told, type ToldEvent } from './told';
import { deadlineUs, skippedAt, type BufferDepths, type Policy } from './slots';
import type { FrameGraph } from './work';

/** From its buffers being full to t0, µs: time to tell all threads when t0 is. */
export const startLeadUs = 20_000;

/**
 * What a frame is to be ready before its deadline, in slots: estimates are not exact, and a frame that
 * misses has cost its full work. The more of the last frames missed, up to the second.
 */
const leastSafety = 0.1;
const mostSafety = 2;
/** Frames that are remembered for it; where so many of them missed, it is at its most. */
const remembered = 24;
const manyMissed = 1;
/** Of the last slots' delays behind what was expected: the one that is allowed for, and the most. */
const delayQuantile = 0.5;
const mostDelaySlots = 12;
/** Decoded slots that are given up one after the other before one is processed as long as its slot lasts. */
const mostPassed = 2;
/** Work that takes so many times what is usual, and so many slots, is a stall. */
const stallTimes = 2.5;
const stallSlots = 1;
/** Slots ahead among which a late player looks for one that it can make, at least and in seconds. */
const leastLookAhead = 64;
const lookAheadSeconds = 10;
/** Processing that takes longer than it should goes on for this share of what it took so far. */
const overrun = 0.5;

export interface PlayPolicyOptions {
  readonly graph: FrameGraph;
  readonly slotUs: number;
  readonly policy: Policy;
  readonly buffers: BufferDepths;
  /** Choices to follow instead of choosing: values of `skippedAt` per slot. */
  readonly decisions?: Uint8Array | null;
  /** Told of every slot that is given up, and where: a value of `skippedAt`. */
  readonly onGiveUp?: (slot: number, where: number) => void;
}

/**
 * What a player makes and what it gives up: the one policy, called by player and simulator as they
 * go. It is asked before a slot is read, decoded and processed, is told what that took, and keeps
 * for each stage what was passed over (`Backlog`).
 *
 * Under hold time a stage that comes to a slot it can no longer make goes on at the first slot that
 * it can: for each slot ahead it adds up what its feeds need to get there, each in its own cheapest
 * way, and compares with that slot's deadline. All-intra media lose single slots; frames that
 * nothing refers to go before those that others need; where decoding cannot keep up without them
 * either, the next key frames are what comes into reach. What lies between is given up in all
 * stages. Before t0 nothing is given up.
 */
export class PlayPolicy {
  /** Where each slot was given up: values of `skippedAt`. */
  readonly decisions: Uint8Array;
  private readonly chooses: boolean;
  private readonly reading: Backlog;
  private readonly decoding: Backlog;
  private readonly costs: KindCosts;
  private readonly lag = new RecentQuantile(0.5);
  private readonly decodeShare = new RecentCost();
  private readonly lookAhead: number;
  /** t0 on the caller's clock, µs. */
  private startUs = Infinity;
  private nextSlot = 0;
  private nextDecoded = 0;
  private processingSlot = -1;
  private readonly decodes = new SharedTime();
  private readonly processes = new SharedTime();
  private readonly seenKinds = new Set<number>();
  /** Decoded slots that were given up since the last one that was processed. */
  private passedInRow = 0;
  private processorIdleSince = -Infinity;
  private stallEndedAt = -Infinity;
  private readonly missed = new RecentMean(remembered);
  /** When slots in the decoder were expected to be decoded and the processor to be free for them, and when they were decoded. */
  private readonly sentAt: Float64Array;
  private readonly expected: Float64Array;
  private readonly decodedAt: Float64Array;
  /** By how much that was too early. */
  private readonly delays = new RecentQuantile(delayQuantile, 5);
  /** What was told and no decision has come to yet, in order of time. */
  private readonly told = new Told();
  /** Whether frames that were decoded missed: counted once it is known that no stall is to blame. */
  private readonly outcomes: { readonly slot: number; readonly missed: boolean }[] = [];
  /** Slots that were sent to the decoder and are not taken for processing yet. */
  private readonly underWay: number[] = [];

  constructor(private readonly options: PlayPolicyOptions) {
    const { graph, slotUs, policy, decisions } = options;
    this.decisions = decisions ? decisions.slice() : new Uint8Array(graph.slotCount);
    this.chooses = !decisions && policy === 'hold-time';
    this.costs = new KindCosts(graph.kinds);
    // Who does not choose learns nothing.
    const learns = this.chooses ? graph.slotCount : 0;
    this.sentAt = new Float64Array(learns);
    this.expected = new Float64Array(learns).fill(Number.NaN);
    this.decodedAt = new Float64Array(learns).fill(Number.NaN);
    this.reading = new Backlog(graph);
    this.decoding = new Backlog(graph);
    this.lookAhead = Math.max(leastLookAhead, Math.round((lookAheadSeconds * 1e6) / slotUs));
  }

  /** Tells when t0 is, on the caller's clock. */
  begin(startUs: number): void {
    this.startUs = startUs;
  }

  /** The next slot to read with what it takes, at a time on the caller's clock; null: there is none any more. */
  nextToRead(nowUs: number): SlotRows | null {
    const { graph } = this.options;
    this.passGivenUp();
    if (this.nextSlot >= graph.slotCount) return null;
    if (this.mayGiveUp(nowUs)) this.skipBeforeRead(nowUs);
    this.passGivenUp();
    if (this.nextSlot >= graph.slotCount) return null;
    return this.reading.take(this.nextSlot++);
  }

  private passGivenUp(): void {
    while (this.nextSlot < this.options.graph.slotCount && this.decisions[this.nextSlot] === skippedAt.read)
      this.reading.add(this.nextSlot++);
  }

  /** Tells when reading ended on the caller's clock, and how long it took, µs. */
  hasRead(rows: SlotRows, endUs: number, tookUs: number): void {
    if (this.chooses)
      this.told.add({
        kind: 'read',
        at: endUs,
        slot: rows.slot,
        tookUs,
        amount: amountOf(this.options.graph, rows, 'bytes'),
      });
  }

  /**
   * Comes to a slot that was read: what is to be decoded for it, or null when it is given up. Then the
   * slots up to the next one that can be made are given up with it, read or not.
   */
  nextToDecode(slot: number, nowUs: number): SlotRows | null {
    // Slots that were passed before reading hand on what later ones need.
    while (this.nextDecoded < slot) this.decoding.add(this.nextDecoded++);
    this.learnUntil(nowUs);
    if (this.decisions[slot] === skippedAt.none && this.mayGiveUp(nowUs)) this.skipBeforeDecode(slot, nowUs);
    this.nextDecoded++;
    if (this.decisions[slot] !== skippedAt.none && this.decisions[slot] !== skippedAt.process) {
      this.decoding.add(slot);
      return null;
    }
    if (this.chooses) {
      this.underWay.push(slot);
      this.sentAt[slot] = nowUs;
      this.decodes.begin(nowUs, this.processes);
    }
    return this.decoding.take(slot);
  }

  /**
   * Tells that the decoder is done with what a slot handed it.
   * @param endUs when, on the caller's clock
   * @param tookUs time it took, without waiting
   */
  hasWorked(rows: SlotRows, endUs: number, tookUs: number): void {
    if (this.chooses)
      this.told.add({
        kind: 'worked',
        at: endUs,
        slot: rows.slot,
        tookUs,
        amount: amountOf(this.options.graph, rows, 'weight'),
      });
  }

  /**
   * Tells that a slot's frames left the decoder.
   * @param lagUs work that the decoder did in between, since it was done with what the slot handed it
   */
  hasDecoded(slot: number, endUs: number, lagUs: number): void {
    if (this.chooses) this.told.add({ kind: 'decoded', at: endUs, slot, tookUs: lagUs, amount: 0 });
  }

  /** Comes to a decoded slot: true when it is to be processed, false when it is given up. */
  nextToProcess(slot: number, nowUs: number): boolean {
    // What processing takes is only learned by processing.
    const usualUs = this.passedInRow < mostPassed ? this.costs.of(slot).processWall.value : 0;
    if (this.mayGiveUp(nowUs) && nowUs + usualUs >= this.deadlineOf(slot))
      this.giveUp(slot, skippedAt.process);
    const isProcessed = this.decisions[slot] !== skippedAt.process;
    this.passedInRow = isProcessed ? 0 : this.passedInRow + 1;
    if (this.chooses)
      this.told.add({ kind: isProcessed ? 'taken' : 'passed', at: nowUs, slot, tookUs: 0, amount: 0 });
    return isProcessed;
  }

  /** Comes to a slot of which the decoder made no picture: nothing is to be processed, and nobody was late. */
  passRefused(slot: number, nowUs: number): void {
    if (this.chooses) this.told.add({ kind: 'refused', at: nowUs, slot, tookUs: 0, amount: 0 });
  }

  /** Tells when processing ended on the caller's clock, and how long it took, µs. */
  hasProcessed(slot: number, endUs: number, tookUs: number): void {
    if (!this.chooses) return;
    // The first of a kind sets things up.
    const kind = this.options.graph.kinds[slot] as number;
    const isFirst = !this.seenKinds.has(kind);
    const { processWall } = this.costs.of(slot);
    this.told.add({
      kind: isFirst ? 'first processed' : 'processed',
      at: endUs,
      slot,
      tookUs,
      amount: isFirst ? 0 : processWall.value,
    });
    if (!isFirst && endUs >= this.startUs) processWall.add(tookUs);
    this.seenKinds.add(kind);
  }

  private learnUntil(nowUs: number): void {
    this.told.takeUntil(nowUs, (event) => this.take(event));
    for (const { slot, missed } of this.outcomes) if (!this.isOfStall(slot)) this.missed.add(missed ? 1 : 0);
    this.outcomes.length = 0;
  }

  private take({ kind, at, slot, tookUs, amount }: ToldEvent): void {
    if (kind === 'read') {
      this.noteStall(at, tookUs, this.costs.perUnit('read', slot) * amount);
      this.costs.add('read', slot, tookUs, amount);
    } else if (kind === 'worked') this.takeWorked(slot, at, tookUs, amount);
    else if (kind === 'decoded') {
      this.decodedAt[slot] = at;
      this.lag.add(tookUs);
    } else if (kind === 'refused') this.underWay.shift();
    else if (kind === 'taken' || kind === 'passed') {
      this.underWay.shift();
      this.learnDelay(slot);
      if (kind === 'passed') {
        this.outcomes.push({ slot, missed: true });
        return;
      }
      this.processingSlot = slot;
      this.processes.begin(at, this.decodes);
    } else this.takeProcessed(slot, at, tookUs, amount, kind === 'first processed');
  }

  private takeWorked(slot: number, endUs: number, tookUs: number, weight: number): void {
    this.noteStall(endUs, tookUs, this.costs.perUnit('decode', slot) * weight);
    const ownUs = this.decodes.end(endUs, tookUs, this.processes);
    // While the buffers are filled all stages work at once, on memory that is new: it is not what they take afterwards.
    if (endUs < this.startUs) return;
    this.costs.add('decode', slot, ownUs, weight);
    this.decodeShare.add(ownUs, tookUs);
  }

  private takeProcessed(
    slot: number,
    endUs: number,
    tookUs: number,
    usualUs: number,
    isFirst: boolean,
  ): void {
    this.noteStall(endUs, tookUs, usualUs);
    const ownUs = this.processes.end(endUs, tookUs, this.decodes);
    if (!isFirst && endUs >= this.startUs) this.costs.add('process', slot, ownUs, 1);
    this.processingSlot = -1;
    this.processorIdleSince = endUs;
    this.outcomes.push({ slot, missed: endUs >= this.deadlineOf(slot) });
  }

  /** True for slots that were sent to the decoder before a stall ended. */
  private isOfStall(slot: number): boolean {
    return (this.sentAt[slot] as number) < this.stallEndedAt;
  }

  /** A piece of work that took far longer than it should says nothing of what comes: what waited behind it is not learned from. */
  private noteStall(endUs: number, tookUs: number, usualUs: number): void {
    if (tookUs > stallTimes * usualUs && tookUs > stallSlots * this.options.slotUs) this.stallEndedAt = endUs;
  }

  /** Compares when a slot could be processed with what was expected when it was sent to the decoder. What was early enough is no matter. */
  private learnDelay(slot: number): void {
    const expected = this.expected[slot] as number;
    if (Number.isNaN(expected) || this.isOfStall(slot)) return;
    const reached = Math.max(this.decodedAt[slot] as number, this.processorIdleSince);
    const isClose = reached + this.processUs(slot) > this.deadlineOf(slot) - 2 * this.options.slotUs;
    this.delays.add(isClose ? reached - expected : 0);
  }

  private mayGiveUp(nowUs: number): boolean {
    return this.chooses && nowUs >= this.startUs - startLeadUs;
  }

  private deadlineOf(slot: number): number {
    return this.startUs + deadlineUs(slot, this.options.slotUs);
  }

  /** What a kind of slot takes that was not met yet is not guessed from others: it is let come. */
  private processUs(slot: number): number {
    return this.costs.of(slot).process.perUnit;
  }

  /** Processing that is under way and to come for what was sent to the decoder, µs; of kinds that were not met yet it is guessed. */
  private processBacklogUs(nowUs: number): number {
    let sum = 0;
    if (this.processingSlot >= 0) {
      const since = this.processes.sinceBegin(nowUs) / 2;
      sum = Math.max(since * overrun, this.costs.perUnit('process', this.processingSlot) - since);
    }
    for (const waiting of this.underWay) sum += this.costs.perUnit('process', waiting);
    return sum;
  }

  /** Gives slots up where reading alone makes them late; what decoding and processing are behind is decided there. */
  private skipBeforeRead(nowUs: number): void {
    const { weights, bytes } = this.options.graph;
    const rest = (slot: number, weight: number) =>
      this.costs.perUnit('decode', slot) * weight + this.processUs(slot);
    const first = this.nextSlot;
    // The common case, without looking at any packet.
    if (
      this.reading.isEmpty &&
      this.makes(
        first,
        nowUs +
          this.costs.perUnit('read', first) * (bytes[first] as number) +
          rest(first, weights[first] as number),
      )
    )
      return;
    const ahead = this.reading.ahead();
    const unitUs = (slot: number) => this.costs.perUnit('read', slot) * (bytes[slot] as number);
    this.skipTo(first, 0, {
      finishUs: (slot) => {
        const amount = ahead.to(slot);
        return nowUs + this.costs.perUnit('read', slot) * amount.bytes + rest(slot, amount.weight);
      },
      unitUs,
      passUs: () => 0,
    });
  }

  private skipBeforeDecode(slot: number, nowUs: number): void {
    const behind = this.lag.value * this.decodeShare.perUnit;
    const backlog = this.processBacklogUs(nowUs);
    const { bytes, weights, referred } = this.options.graph;
    const delay = Math.max(0, Math.min(this.delays.value, mostDelaySlots * this.options.slotUs));
    const from = nowUs + behind + backlog;
    if (this.decoding.isEmpty) {
      const reached = from + this.costs.perUnit('decode', slot) * (weights[slot] as number);
      this.expected[slot] = reached;
      if (this.makes(slot, reached + delay + this.processUs(slot))) return;
    }
    const finish = (candidate: number, weight: number) => {
      // What is not read yet comes on top.
      const readUs =
        candidate >= this.nextSlot ? this.costs.perUnit('read', candidate) * (bytes[candidate] as number) : 0;
      const reached = from + readUs + this.costs.perUnit('decode', candidate) * weight;
      if (candidate === slot) this.expected[slot] = reached;
      return reached + this.processUs(candidate);
    };
    const ahead = this.decoding.ahead();
    this.skipTo(slot, delay, {
      finishUs: (candidate) => finish(candidate, ahead.to(candidate).weight),
      unitUs: (candidate) =>
        this.costs.perUnit('decode', candidate) * (weights[candidate] as number) + this.processUs(candidate),
      passUs: (candidate) => this.costs.perUnit('decode', candidate) * (referred[candidate] as number),
    });
  }

  private makes(slot: number, finishUs: number): boolean {
    const safety =
      leastSafety + (mostSafety - leastSafety) * Math.min(1, (this.missed.value * remembered) / manyMissed);
    return finishUs + safety * this.options.slotUs < this.deadlineOf(slot);
  }

  /**
   * Gives up slots from one on until the target.
   * @param finishUs when a slot would be finished if all before it were given up; asked for in order
   * @param delayUs by how much that was too early lately
   * @param unitUs what a slot takes when all are made @param passUs what it takes when it is passed
   */
  private skipTo(
    from: number,
    delayUs: number,
    { finishUs, unitUs, passUs }: Pick<TargetSearch, 'finishUs' | 'unitUs' | 'passUs'>,
  ): void {
    const {
      graph: { slotCount, keyInterval },
      slotUs,
      buffers,
    } = this.options;
    const target = targetFrom({
      from,
      end: Math.min(slotCount, from + this.lookAhead),
      slotUs,
      keyInterval,
      bufferUs: (buffers.ready + buffers.decoded) * slotUs,
      delayUs,
      finishUs,
      unitUs,
      passUs,
      isGivenUp: (slot) => this.decisions[slot] !== skippedAt.none,
      deadlineOf: (slot) => this.deadlineOf(slot),
      makes: (slot, finish) => this.makes(slot, finish),
    });
    for (let slot = from; slot < target; slot++) {
      if (this.decisions[slot] === skippedAt.none)
        this.giveUp(slot, slot >= this.nextSlot ? skippedAt.read : skippedAt.decode);
    }
  }

  private giveUp(slot: number, where: number): void {
    this.decisions[slot] = where;
    this.options.onGiveUp?.(slot, where);
  }
}
