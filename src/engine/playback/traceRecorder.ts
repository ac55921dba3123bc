import { skippedAt, slotState } from '@/core/playback/slots';
import type { PlaySound } from '../sound/playSound';
import type { ShownFrame } from './playSource';
import { RunStart } from './runStart';
import { emptyTrace, encodeTrace, type Trace } from '@/core/playback/trace';

type TimeColumn =
  | 'readStart'
  | 'readEnd'
  | 'decodeStart'
  | 'decodeEnd'
  | 'decodeDone'
  | 'processStart'
  | 'processEnd';

/**
 * Collects a run's trace. Times are held on the monotonic clock until t0 is
 * known and given out relative to it. A slot is settled when both the
 * presenter has passed it and the pipeline is done with it.
 */
export class TraceRecorder {
  readonly trace: Trace;
  readonly start = new RunStart();
  private flushed = 0;
  private readonly pipelineDone: Uint8Array;
  private readonly passed: Uint8Array;
  /** 1 where the slot's picture carried its number. */
  private readonly proved: Uint8Array;
  settled = 0;
  shown = 0;
  dropped = 0;

  /** What works the run's sound out; null: none is played. */
  sound: Pick<PlaySound, 'isSettled' | 'note'> | null = null;

  /** @param expected frame that each slot is to show; null: the slot's own number */
  constructor(
    readonly slotCount: number,
    bytesPerSlot: Float64Array,
    private readonly expected: Int32Array | null = null,
  ) {
    this.trace = emptyTrace(slotCount);
    this.trace.bytes.set(bytesPerSlot.subarray(0, slotCount));
    this.pipelineDone = new Uint8Array(slotCount);
    this.passed = new Uint8Array(slotCount);
    this.proved = new Uint8Array(slotCount);
  }

  /** Notes a time on the monotonic clock in a column; returns it. */
  note(column: TimeColumn, slot: number, time: number): number {
    this.trace[column][slot] = time;
    return time;
  }

  /** A noted time on the monotonic clock, µs. */
  absolute(column: TimeColumn, slot: number): number {
    return this.trace[column][slot] as number;
  }

  /** A noted time from t0, µs. */
  relative(column: TimeColumn, slot: number): number {
    return this.absolute(column, slot) - this.start.us;
  }

  /** The frame that a slot is to show. A frame that is finished after its slot has passed is not shown any more. */
  setShownFrame(slot: number, { frame, isProved }: ShownFrame): void {
    if (this.passed[slot] !== 0) return;
    this.trace.shownFrame[slot] = frame;
    this.proved[slot] = Number(isProved);
  }

  setWoke(slot: number, wokeAtUs: number): void {
    this.trace.wokeAt[slot] = wokeAtUs;
  }

  /** The pipeline gives up the frame of a slot. */
  skip(slot: number, where: number): void {
    this.trace.skipped[slot] = where;
    this.settlePipeline(slot);
  }

  /** The presenter passed a slot at `atUs` from t0 (NaN: nothing to show). */
  present(
    slot: number,
    atUs: number,
    state: number,
    depths: { read: number; decoded: number; ready: number },
  ): void {
    const { trace } = this;
    trace.presentedAt[slot] = atUs;
    trace.readDepth[slot] = depths.read;
    trace.decodedDepth[slot] = depths.decoded;
    trace.readyDepth[slot] = depths.ready;
    const isShown = state === slotState.shown || state === slotState.late;
    const wrong =
      isShown &&
      this.proved[slot] === 1 &&
      trace.shownFrame[slot] !== (this.expected ? this.expected[slot] : slot);
    trace.state[slot] = wrong ? slotState.wrong : state;
    if (isShown) this.shown++;
    else {
      this.dropped++;
      trace.shownFrame[slot] = -1;
    }
    this.passed[slot] = 1;
    if (isShown) this.settlePipeline(slot);
  }

  private settlePipeline(slot: number): void {
    if (this.pipelineDone[slot] === 1) return;
    this.pipelineDone[slot] = 1;
    this.settled++;
  }

  /** At the end: slots the presenter passed whose frame was still under way are given up where they were. */
  closePending(): void {
    const { trace } = this;
    for (let slot = 0; slot < this.slotCount; slot++) {
      if (this.passed[slot] === 0 || this.pipelineDone[slot] === 1) continue;
      const known = (column: TimeColumn) => !Number.isNaN(trace[column][slot]);
      trace.skipped[slot] = known('processEnd')
        ? skippedAt.present
        : known('decodeEnd')
          ? skippedAt.process
          : known('readEnd')
            ? skippedAt.decode
            : skippedAt.read;
      if (trace.skipped[slot] === skippedAt.read) trace.readStart[slot] = Number.NaN;
      this.settlePipeline(slot);
    }
  }

  /** Takes the settled slots not given out yet, packed, or null when there are none. */
  takeBatch(): { from: number; count: number; data: Uint8Array } | null {
    const from = this.flushed;
    let to = from;
    while (this.isDone(to)) to++;
    if (to === from) return null;
    this.flushed = to;
    return { from, count: to - from, data: encodeTrace(this.fromStart(from, to)) };
  }

  /** The trace of a whole run up to where it was stopped. */
  finished(): Trace {
    let to = 0;
    while (this.isDone(to)) to++;
    return this.fromStart(0, to);
  }

  private isDone(slot: number): boolean {
    return (
      slot < this.slotCount &&
      this.passed[slot] === 1 &&
      this.pipelineDone[slot] === 1 &&
      (this.sound?.isSettled(slot) ?? true)
    );
  }

  /** A copy of some slots with their times from t0. */
  private fromStart(from: number, to: number): Trace {
    const copy = emptyTrace(to - from);
    for (const column of Object.keys(copy) as (keyof Trace)[]) {
      if (column !== 'length') copy[column].set(this.trace[column].subarray(from, to));
    }
    for (const column of [
      'readStart',
      'readEnd',
      'decodeStart',
      'decodeEnd',
      'decodeDone',
      'processStart',
      'processEnd',
    ] as const) {
      const times = copy[column];
      for (let i = 0; i < times.length; i++) times[i] = (times[i] as number) - this.start.us;
    }
    this.sound?.note(copy, from);
    return copy;
  }
}
