import { seededRandom } from '../../stats/random';
import { PlayPolicy, startLeadUs } from '../policy';
import type { SlotRows } from '../backlog';
import { deadlineUs, defaultBufferDepths, skippedAt, slotState, type Policy } from '../slots';
import { emptyTrace, type Trace } from '../trace';
import type { FrameGraph } from '../work';

/**
 * A rig whose decoding and processing share its cores, worked through tick by tick: a player around
 * the policy that is nothing like the simulator, with what real rigs do to one. Times in µs.
 */
export interface RigSpec {
  readonly graph: FrameGraph;
  readonly cores: number;
  /** Processor time of decoding, per weight, and cores that it can use. */
  readonly decodeUs: number;
  readonly decodeParallel: number;
  /** Pieces that the decoder holds before it gives a frame. */
  readonly held: number;
  /** Processor time of processing a slot of a kind, and cores that it can use. The first of a kind takes more. */
  readonly processUs: (kind: number) => number;
  readonly processParallel: number;
  readonly readUs: number;
  /** Spread of all times, as a share of them. */
  readonly noise: number;
}

const tickUs = 250;
const setUp = 2.5;
const buffers = defaultBufferDepths;

interface Piece {
  readonly work: number;
  readonly whole: SlotRows | null;
}

export class Rig {
  readonly trace: Trace;
  private readonly policy: PlayPolicy;
  private readonly random: () => number;
  private now = 0;
  private startUs = Infinity;
  private reading: { rows: SlotRows; endUs: number } | null = null;
  private allRead = false;
  private readonly read: SlotRows[] = [];
  private pieces: Piece[] = [];
  private decodeLeft = 0;
  private handed = 0;
  private flushing = false;
  private gaveOne = false;
  private worked = 0;
  private heldSince: number | null = null;
  private inHand: { rows: SlotRows; workedBefore: number } | null = null;
  private readonly inDecoder: { slot: number; handed: number; worked: number }[] = [];
  private readonly decoded: number[] = [];
  private processing: { slot: number; left: number; startUs: number } | null = null;
  private readonly ready: number[] = [];
  private readonly kinds = new Set<number>();
  private presented = 0;

  constructor(
    private readonly spec: RigSpec,
    private readonly slotUs: number,
    private readonly how: Policy,
    seed: number,
  ) {
    this.policy = new PlayPolicy({ graph: spec.graph, slotUs, policy: how, buffers });
    this.trace = emptyTrace(spec.graph.slotCount);
    this.trace.bytes.set(spec.graph.bytes);
    this.random = seededRandom(seed);
  }

  private noisy(us: number): number {
    const { noise } = this.spec;
    const hiccup = this.random() < 0.02 ? 1 + 2 * this.random() : 1;
    return us * (1 - noise + 2 * noise * this.random()) * hiccup;
  }

  /** Plays to the end. Every frame: until all are shown. */
  run(): Trace {
    const { slotCount } = this.spec.graph;
    while (
      this.how === 'hold-time'
        ? this.now <= this.startUs + slotCount * this.slotUs
        : this.presented < slotCount
    )
      this.tick();
    return this.finished();
  }

  private tick(): void {
    this.readOn();
    this.processOn();
    this.decodeOn();
    this.processOn();
    this.share();
    this.endProcess();
    this.startIfFilled();
    this.present();
  }

  private readOn(): void {
    if (this.reading && this.now >= this.reading.endUs) {
      const { rows } = this.reading;
      this.trace.readEnd[rows.slot] = this.now;
      this.policy.hasRead(rows, this.now, this.now - (this.trace.readStart[rows.slot] as number));
      this.read.push(rows);
      this.reading = null;
    }
    if (this.reading || this.allRead || this.read.length >= buffers.readAhead) return;
    const rows = this.policy.nextToRead(this.now);
    if (!rows) {
      this.allRead = true;
      return;
    }
    this.trace.readStart[rows.slot] = this.now;
    this.reading = { rows, endUs: this.now + this.noisy(this.spec.readUs) };
  }

  private decodeOn(): void {
    let goesOn = this.heldSince !== null;
    if (!goesOn && this.decodeLeft <= 0 && this.pieces.length > 0) {
      const { whole } = this.pieces.shift() as Piece;
      this.handed++;
      if (whole) this.inDecoder.push({ slot: whole.slot, handed: this.handed, worked: this.worked });
      goesOn = true;
    }
    this.give();
    if (this.heldSince !== null) return;
    if (goesOn && this.pieces.length > 0) this.decodeLeft = (this.pieces[0] as Piece).work;
    else if (goesOn) this.endWork();
    if (this.decodeLeft <= 0 && this.pieces.length === 0 && this.decoded.length < buffers.decoded)
      this.takeSlot();
  }

  private endWork(): void {
    if (!this.inHand) return;
    const { rows, workedBefore } = this.inHand;
    this.trace.decodeDone[rows.slot] = this.now;
    this.policy.hasWorked(rows, this.now, this.worked - workedBefore);
    this.inHand = null;
  }

  private takeSlot(): void {
    for (let next = this.read.shift(); next; next = this.read.shift()) {
      const rows = this.policy.nextToDecode(next.slot, this.now);
      if (!rows) continue;
      this.trace.decodeStart[rows.slot] = this.now;
      const parts = rows.parts ?? [{ unit: rows.slot, weight: this.spec.graph.weights[rows.slot] as number }];
      const own = parts.find(({ unit }) => unit === rows.slot)?.weight ?? 0;
      const before = parts.filter(({ unit }) => unit !== rows.slot).sort((a, b) => a.unit - b.unit);
      this.pieces = [
        ...before.map(({ weight }) => ({ work: this.noisy(weight * this.spec.decodeUs), whole: null })),
        { work: this.noisy(own * this.spec.decodeUs) + 200, whole: rows },
      ];
      this.decodeLeft = (this.pieces[0] as Piece).work;
      this.inHand = { rows, workedBefore: this.worked };
      this.gaveOne = false;
      return;
    }
    if (this.allRead && !this.reading) this.flushing = true;
  }

  private give(): void {
    for (
      let next = this.inDecoder[0];
      next && (this.flushing || this.handed - next.handed >= this.spec.held);
      next = this.inDecoder[0]
    ) {
      if ((this.gaveOne || this.flushing) && this.decoded.length >= buffers.decoded) {
        this.heldSince ??= this.now;
        return;
      }
      this.trace.decodeHeldUs[next.slot] = this.heldSince === null ? 0 : this.now - this.heldSince;
      this.heldSince = null;
      this.inDecoder.shift();
      this.gaveOne = true;
      this.trace.decodeEnd[next.slot] = this.now;
      this.policy.hasDecoded(next.slot, this.now, this.worked - next.worked);
      this.decoded.push(next.slot);
    }
  }

  private processOn(): void {
    while (!this.processing && this.decoded.length > 0 && this.ready.length < buffers.ready) {
      const slot = this.decoded.shift() as number;
      if (!this.policy.nextToProcess(slot, this.now)) continue;
      const kind = this.spec.graph.kinds[slot] as number;
      this.trace.processStart[slot] = this.now;
      this.processing = {
        slot,
        startUs: this.now,
        left: this.noisy(this.spec.processUs(kind)) * (this.kinds.has(kind) ? 1 : setUp),
      };
      this.kinds.add(kind);
    }
  }

  /** Lets a tick pass: each stage that works gets its share of the cores. */
  private share(): void {
    const { cores, decodeParallel, processParallel } = this.spec;
    const decodes = this.decodeLeft > 0;
    const wanted = (decodes ? decodeParallel : 0) + (this.processing ? processParallel : 0);
    const share = Math.min(1, cores / Math.max(1, wanted));
    if (decodes || (this.flushing && this.heldSince === null)) this.worked += tickUs;
    this.decodeLeft -= decodeParallel * share * tickUs;
    if (this.processing) this.processing.left -= processParallel * share * tickUs;
    this.now += tickUs;
  }

  private endProcess(): void {
    if (!this.processing || this.processing.left > 0) return;
    const { slot, startUs } = this.processing;
    this.processing = null;
    this.trace.processEnd[slot] = this.now;
    this.policy.hasProcessed(slot, this.now, this.now - startUs);
    if (this.how === 'every-frame') {
      this.trace.presentedAt[slot] = this.now;
      this.presented++;
    } else if (this.now < this.startUs + deadlineUs(slot, this.slotUs)) this.ready.push(slot);
  }

  private startIfFilled(): void {
    if (this.how === 'every-frame' || this.startUs !== Infinity) return;
    const { slotCount } = this.spec.graph;
    const filled =
      this.ready.length >= Math.min(buffers.ready, slotCount) &&
      (this.flushing || this.decoded.length >= buffers.decoded) &&
      (this.allRead || this.read.length >= buffers.readAhead);
    if (!filled) return;
    this.startUs = this.now + startLeadUs;
    this.policy.begin(this.startUs);
  }

  private present(): void {
    for (
      let slot = this.ready[0];
      slot !== undefined && this.now >= this.startUs + slot * this.slotUs;
      slot = this.ready[0]
    ) {
      if (this.now < this.startUs + deadlineUs(slot, this.slotUs))
        this.trace.presentedAt[slot] = Math.max(this.now, this.startUs + slot * this.slotUs);
      this.ready.shift();
    }
  }

  private finished(): Trace {
    const { trace } = this;
    const start = Number.isFinite(this.startUs) ? this.startUs : 0;
    for (const column of [
      'readStart',
      'readEnd',
      'decodeStart',
      'decodeEnd',
      'decodeDone',
      'processStart',
      'processEnd',
      'presentedAt',
    ] as const)
      trace[column].forEach((time, slot) => {
        trace[column][slot] = time - start;
      });
    trace.presentedAt.forEach((at, slot) => {
      const isShown = !Number.isNaN(at);
      trace.state[slot] = isShown ? slotState.shown : slotState.dropped;
      trace.wokeAt[slot] = slot * this.slotUs;
      trace.skipped[slot] = isShown ? skippedAt.none : this.policy.decisions[slot] || skippedAt.present;
    });
    return trace;
  }
}
