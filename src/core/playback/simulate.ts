import type { SlotRows } from './backlog';
import { PlayPolicy, startLeadUs } from './policy';
import { deadlineUs, dueUs, type Stage } from './slots';
import { DecoderAtWork, epsilonUs, Line, StageAtWork, UnitServices } from './stagesAtWork';
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
  /** When the decoder was done with what a slot handed it; its frames may come later. */
  readonly decodeDone: Float64Array;
  /** How long the decoder was held up before a slot's frame for lack of room, µs. */
  readonly decodeHeldUs: ArrayLike<number>;
}

type Ends = Omit<Departures, 'decodeHeldUs'>;

/** A duration per slot and stage, µs. */
export interface StageTimes {
  readonly read: Float64Array;
  readonly decode: Float64Array;
  readonly process: Float64Array;
}

/** What a simulated run did, per slot; times in µs from t0. */
export interface Simulated {
  readonly presentedAt: Float64Array;
  /** 1 where the slot's frame was not presented. */
  readonly dropped: Uint8Array;
  readonly droppedCount: number;
  /** Where frames were given up before they were finished: what the player chose. */
  readonly decisions: Uint8Array;
  /** Time that each stage worked for each slot; NaN where it did not. */
  readonly services: StageTimes;
  /** Time of each slot's whole unit, as given or recovered from `departures`; NaN where a stage did nothing of it. */
  readonly units: StageTimes;
  /** Weight of each slot's unit that was decoded. */
  readonly decodedWeights: Float64Array;
  /** Work of the decoder between a slot's own and the coming of its frame (frame threads), µs; NaN where it did not come. */
  readonly lagUs: Float64Array;
  /** When each stage ended, µs from t0; NaN where it never did. */
  readonly ends: Ends;
  /** When reading began, µs from t0. */
  readonly startUs: number;
}

/**
 * Runs a clip or timeline through read, decode, process and present as first-in-first-out servers
 * with bounded buffers between them (departure = latest of previous departure, arrival and room,
 * plus service: Lindley 1952, with blocking), event by event, under the player's own policy. Linear
 * in the number of slots.
 */
export function simulate(work: Work, options: SimulateOptions = {}): Simulated {
  return new Simulation(work, options).run();
}

class Simulation {
  private readonly presentedAt: Float64Array;
  private readonly dropped: Uint8Array;
  private readonly services: StageTimes;
  private readonly units: { read: UnitServices; decode: UnitServices };
  private readonly ends: Ends;
  private readonly lagUs: Float64Array;
  private readonly policy: PlayPolicy;
  private readonly slotCount: number;
  /** Now, and t0; µs from the first read. */
  private now = 0;
  private startUs: number;
  private readonly reading = new StageAtWork();
  private readonly processing = new StageAtWork();
  private allRead = false;
  private allSent = false;
  private readonly read = new Line<SlotRows>();
  /** Slots in the decoder, with how much it had worked when their own work was done; Infinity before. */
  private readonly inDecoder = new Line<{ rows: SlotRows; doneAt: number }>();
  private readonly decoded = new Line<SlotRows>();
  /** When the frames in the ready buffer leave it. */
  private readonly ready = new Line<number>();
  private readonly decoder = new DecoderAtWork();
  private gaveOne = false;
  /** Slots that were finished while t0 was not known, and when. */
  private readonly beforeStart: { slot: number; at: number }[] = [];
  private droppedCount: number;

  constructor(
    private readonly work: Work,
    private readonly options: SimulateOptions,
  ) {
    const { graph, startUs } = work;
    this.slotCount = graph.slotCount;
    const never = () => new Float64Array(this.slotCount).fill(Number.NaN);
    this.presentedAt = never();
    this.services = { read: never(), decode: never(), process: never() };
    this.dropped = new Uint8Array(this.slotCount).fill(1);
    this.droppedCount = this.slotCount;
    this.units = {
      read: new UnitServices(graph.bytes, 'bytes'),
      decode: new UnitServices(graph.weights, 'weight'),
    };
    this.ends = { read: never(), decode: never(), process: never(), decodeDone: never() };
    this.lagUs = never();
    this.policy = new PlayPolicy({
      graph,
      slotUs: work.slotUs,
      policy: work.policy,
      buffers: work.buffers,
      decisions: options.decisions ?? null,
    });
    this.startUs = startUs === null ? Infinity : -startUs;
    if (startUs !== null) this.policy.begin(this.startUs);
  }

  run(): Simulated {
    while (this.step());
    const {
      presentedAt,
      dropped,
      droppedCount,
      policy: { decisions },
      ends,
      services,
      units,
      lagUs,
      startUs,
    } = this;
    const shift = Number.isFinite(startUs) ? startUs : 0;
    for (const column of [presentedAt, ends.read, ends.decode, ends.process, ends.decodeDone])
      for (let slot = 0; slot < column.length; slot++) column[slot] = (column[slot] as number) - shift;
    return {
      presentedAt,
      dropped,
      droppedCount,
      decisions,
      services,
      units: { read: units.read.whole(), decode: units.decode.whole(), process: services.process },
      decodedWeights: units.decode.amount,
      lagUs,
      ends,
      startUs: -shift,
    };
  }

  /** Begins all that can begin now, then goes on to the next end. False when nothing is under way. */
  private step(): boolean {
    let moved = true;
    while (moved) {
      // What processing goes on with is known before the next slot is decoded.
      while (this.tryProcess());
      const decodes = this.tryDecode();
      moved = this.tryRead() || decodes;
    }
    if (this.startUs === Infinity && this.isFilled()) {
      this.startUs = this.now + startLeadUs;
      this.policy.begin(this.startUs);
      for (const { slot, at } of this.beforeStart.splice(0)) this.finish(slot, at);
    }
    const { reading, processing } = this;
    const ready =
      this.ready.length >= this.work.buffers.ready && processing.rows === null && this.decoded.length > 0
        ? (this.ready.head as number)
        : Infinity;
    const next = Math.min(reading.endUs, this.nextOfDecoder(), processing.endUs, ready);
    if (next === Infinity) return false;
    this.now = Math.max(this.now, next);
    if (processing.endUs <= this.now) this.endProcess(processing.startUs, processing.endUs);
    if (this.nextOfDecoder() <= this.now) this.workDecoder();
    if (reading.endUs <= this.now) this.endRead(reading.startUs, reading.endUs);
    return true;
  }

  /** True when the player's buffers are full, or hold all there is: the next frames are due then. */
  private isFilled(): boolean {
    const { buffers, policy } = this.work;
    if (policy === 'every-frame') return true;
    if (this.allSent && this.inDecoder.length + this.decoded.length === 0 && !this.processing.rows)
      return true;
    return (
      this.beforeStart.length >= Math.min(buffers.ready, this.slotCount) &&
      (this.allSent || this.decoded.length >= buffers.decoded) &&
      (this.allRead || this.read.length >= buffers.readAhead)
    );
  }

  private isFree(stage: Stage): boolean {
    return this.options.free?.[stage] === true;
  }

  /** When work begun now ends: by the measured departure where there is one, else by its service. */
  private endOf(stage: 'read' | 'decodeDone' | 'process', slot: number, serviceUs: number): number {
    const measured = this.options.departures?.[stage][slot];
    if (measured !== undefined && measured === measured) return Math.max(this.now, measured + this.startUs);
    return this.now + (stage !== 'decodeDone' && this.isFree(stage) ? 0 : serviceUs);
  }

  /** Service of a slot's share of units. */
  private serviceOf(
    column: Float64Array,
    full: Float64Array,
    amount: 'bytes' | 'weight',
    { slot, parts }: SlotRows,
  ): number {
    if (parts === null) return column[slot] as number;
    let [sum, total] = [0, 0];
    for (const part of parts) {
      total += part[amount];
      if (part[amount] > 0)
        sum += ((column[part.unit] as number) * part[amount]) / (full[part.unit] as number);
    }
    return total > 0 ? sum : (column[slot] as number);
  }

  private tryRead(): boolean {
    if (this.reading.rows || this.allRead || this.read.length >= this.work.buffers.readAhead) return false;
    const rows = this.policy.nextToRead(this.now);
    if (!rows) {
      this.allRead = true;
      return true;
    }
    this.reading.begin(
      rows,
      this.now,
      this.endOf('read', rows.slot, this.serviceOf(this.work.read, this.work.graph.bytes, 'bytes', rows)),
    );
    return false;
  }

  private endRead(startUs: number, endUs: number): void {
    const rows = this.reading.end();
    this.ends.read[rows.slot] = endUs;
    this.services.read[rows.slot] = endUs - startUs;
    this.units.read.add(rows, endUs - startUs);
    this.policy.hasRead(rows, endUs, endUs - startUs);
    this.read.push(rows);
  }

  private tryDecode(): boolean {
    const { decoder } = this;
    if (decoder.isHeldUp) return this.workDecoder();
    if (decoder.rows || this.allSent || this.decoded.length >= this.work.buffers.decoded) return false;
    if (this.read.length === 0) {
      if (!this.allRead || this.reading.rows) return false;
      this.allSent = true;
      // No more will come: what is still in the decoder comes by itself.
      decoder.run(this.now, Infinity);
      return true;
    }
    const rows = this.policy.nextToDecode(this.read.shift().slot, this.now);
    if (!rows) return true;
    this.inDecoder.push({ rows, doneAt: Infinity });
    this.gaveOne = false;
    decoder.begin(
      rows,
      this.now,
      this.endOf(
        'decodeDone',
        rows.slot,
        this.isFree('decode') ? 0 : this.serviceOf(this.work.decode, this.work.graph.weights, 'weight', rows),
      ) - this.now,
    );
    return true;
  }

  /** When the decoder is done with what it has in hand, or gives a frame. */
  private nextOfDecoder(): number {
    const { decoder } = this;
    if (decoder.isHeldUp) return decoder.heldUntil;
    if (!decoder.isRunning) return Infinity;
    const next = this.inDecoder.head;
    if (next === undefined && this.allSent) return Infinity;
    return decoder.timeAt(
      Math.min(decoder.workLeft, next === undefined ? Infinity : this.workUntilFrame(next)),
    );
  }

  /** Work that is left until a slot's frame comes; Infinity while its own work is not done. */
  private workUntilFrame({ rows: { slot }, doneAt }: { rows: SlotRows; doneAt: number }): number {
    if (doneAt === Infinity) return Infinity;
    const measured = this.measuredFrame(slot);
    if (measured === measured)
      return Math.max(0, measured - (this.options.departures?.decodeHeldUs[slot] ?? 0) - this.decoder.since);
    return Math.max(
      0,
      doneAt + (this.isFree('decode') ? 0 : (this.work.lagUs?.[slot] ?? 0)) - this.decoder.worked,
    );
  }

  /** When a slot's frame came, as measured; NaN where it was not. */
  private measuredFrame(slot: number): number {
    return (this.options.departures?.decode[slot] ?? Number.NaN) + this.startUs;
  }

  /** Brings the decoder up to now: gives the frames that are due, and ends the work in hand. True when something came of it. */
  private workDecoder(): boolean {
    const { decoder } = this;
    decoder.advance(this.now);
    let moved = this.giveFrames();
    if (decoder.isHeldUp) return moved;
    if (decoder.rows && decoder.workLeft <= epsilonUs) {
      moved = true;
      this.endWork();
      if (!this.giveFrames() && decoder.isHeldUp) return true;
      if (!decoder.isHeldUp) decoder.rest();
    }
    return moved;
  }

  private endWork(): void {
    const { decoder, inDecoder } = this;
    const rows = decoder.rows as SlotRows;
    const took = this.now - decoder.beganAt - decoder.heldUpUs;
    inDecoder.last.doneAt = decoder.worked;
    this.ends.decodeDone[rows.slot] = this.now;
    this.units.decode.add(rows, took);
    this.services.decode[rows.slot] = took;
    this.policy.hasWorked(rows, this.now, took);
    decoder.rows = null;
  }

  /** Gives the frames that are due, as far as there is room; the first has its room from before. True when there was one. */
  private giveFrames(): boolean {
    const { decoder } = this;
    let gave = false;
    for (
      let next = this.inDecoder.head;
      next !== undefined && this.workUntilFrame(next) <= epsilonUs;
      next = this.inDecoder.head
    ) {
      const { slot } = next.rows;
      const measured = this.measuredFrame(slot);
      const isHeldUp =
        measured === measured
          ? measured > this.now + epsilonUs
          : (this.gaveOne || this.allSent) && this.decoded.length >= this.work.buffers.decoded;
      if (isHeldUp) {
        decoder.holdUp(this.now, measured === measured ? measured : Infinity);
        return gave;
      }
      decoder.goOn(this.now);
      this.inDecoder.shift();
      this.ends.decode[slot] = this.now;
      this.lagUs[slot] = decoder.worked - next.doneAt;
      this.policy.hasDecoded(slot, this.now, decoder.worked - next.doneAt);
      this.decoded.push(next.rows);
      this.gaveOne = gave = true;
    }
    decoder.goOn(this.now);
    return gave;
  }

  private tryProcess(): boolean {
    if (this.processing.rows || this.decoded.length === 0) return false;
    while (this.ready.length > 0 && (this.ready.head as number) <= this.now) this.ready.shift();
    if (this.ready.length + this.beforeStart.length >= this.work.buffers.ready) return false;
    const rows = this.decoded.shift();
    const { slot } = rows;
    if (this.work.refused?.[slot]) {
      this.policy.passRefused(slot, this.now);
      return true;
    }
    if (!this.policy.nextToProcess(slot, this.now)) return true;
    this.processing.begin(rows, this.now, this.endOf('process', slot, this.work.process[slot] as number));
    return true;
  }

  private endProcess(startUs: number, endUs: number): void {
    const { slot } = this.processing.end();
    this.ends.process[slot] = endUs;
    this.services.process[slot] = endUs - startUs;
    this.policy.hasProcessed(slot, endUs, endUs - startUs);
    if (this.work.policy === 'every-frame') this.show(slot, endUs);
    else if (this.startUs === Infinity) this.beforeStart.push({ slot, at: endUs });
    else this.finish(slot, endUs);
  }

  private show(slot: number, at: number): void {
    this.presentedAt[slot] = at;
    this.dropped[slot] = 0;
    this.droppedCount--;
  }

  private finish(slot: number, finishedAt: number): void {
    const { slotUs, present } = this.work;
    const deadline = this.startUs + deadlineUs(slot, slotUs);
    const at =
      Math.max(this.startUs + dueUs(slot, slotUs), finishedAt) +
      (this.isFree('present') ? 0 : (present[slot] as number));
    if (at < deadline) this.show(slot, at);
    if (finishedAt < deadline) this.ready.push(Math.min(at, deadline));
  }
}
