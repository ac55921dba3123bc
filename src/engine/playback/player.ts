import { Worker } from 'node:worker_threads';
import { cannotMakeSlot, firstSlotInReach, keyFrameJump } from '@/core/playback/policy';
import { skippedAt, slotState } from '@/core/playback/slots';
import type { FrameGraph } from '@/core/playback/work';
import { RecentMedian } from '@/core/stats/recentMedian';
import { monotonicUs } from '../clock';
import { BoundedQueue } from './boundedQueue';
import { FaultInjector } from './faults';
import { createPresenterShared, presenterIsUp, presenterState, presenterViews, type PresenterMessage } from './presenterShared';
import type { PlaySource } from './playSource';
import type { ProcessedPicture } from './processor';
import type { PlaybackSettings } from './spec';
import type { TraceRecorder } from './traceRecorder';
import type { ViewerTap } from './viewerTap';

interface ReadSlot<Read> { readonly slot: number; readonly position: number; readonly data: Read }
interface DecodedSlot<Decoded> { readonly slot: number; readonly decoded: Decoded }

export interface PlayerParts<Read, Decoded> {
  readonly source: PlaySource<Read, Decoded>;
  readonly graph: FrameGraph;
  readonly recorder: TraceRecorder;
  readonly viewer: ViewerTap;
  readonly presenterPath: URL;
  readonly slotUs: number;
  readonly settings: PlaybackSettings;
  /** Called once t0 is known. */
  readonly onStart: (startUs: number) => void;
}

/**
 * Plays a clip or timeline once: read, decode, process and present run concurrently with
 * bounded buffers between them and write the trace. Under hold time the slots
 * follow the clock; under every frame they follow the work.
 */
export class Player<Read = unknown, Decoded = unknown> {
  private readonly read: BoundedQueue<ReadSlot<Read>>;
  private readonly decoded: BoundedQueue<DecodedSlot<Decoded>>;
  private readonly ready = new Map<number, ProcessedPicture | null>();
  private readonly estimates = { read: new RecentMedian(), decode: new RecentMedian(), process: new RecentMedian() };
  private readonly shared;
  private readonly views;
  private readonly holdTime: boolean;
  private readonly faults: FaultInjector;
  /** Where frames were given up before they were begun: values of `skippedAt`. */
  private readonly givenUp: Uint8Array;
  /** t0 on the monotonic clock; NaN during the read-ahead. */
  private startUs = Number.NaN;
  private stopped = false;
  private nextSlot = 0;
  private readPosition = 0;
  private lastSent = -1;
  private presented = 0;
  private wakeReady: (() => void) | null = null;

  constructor(private readonly parts: PlayerParts<Read, Decoded>) {
    const { settings, graph, slotUs } = parts;
    this.read = new BoundedQueue(settings.buffers.readAhead);
    this.decoded = new BoundedQueue(settings.buffers.decoded);
    this.holdTime = settings.policy === 'hold-time';
    this.shared = createPresenterShared(graph.slotCount, slotUs);
    this.views = presenterViews(this.shared);
    this.givenUp = new Uint8Array(graph.slotCount);
    this.faults = new FaultInjector(settings.faults, slotUs, () => this.startUs);
  }

  /** Depths of the buffers now, in slots. */
  get depths() {
    return { read: this.read.depth, decoded: this.decoded.depth, ready: this.ready.size };
  }

  /** Frames shown per second since t0; 0 before. */
  get achievedRate(): number {
    const elapsedUs = this.holdTime ? this.presented * this.parts.slotUs : this.sinceStart();
    return elapsedUs > 0 ? (this.parts.recorder.shown * 1e6) / elapsedUs : 0;
  }

  /** Slots the clock has passed (hold time) or that were presented (every frame). */
  get position(): number {
    return this.presented;
  }

  /**
   * Runs to the end of the clip or until `stop`. Rejects with the first stage's failure.
   */
  async run(): Promise<void> {
    const presenting = this.holdTime ? this.startPresenter() : null;
    if (!this.holdTime) this.begin(monotonicUs());
    const stages = [this.readStage(), this.decodeStage(), this.processStage()];
    const work = Promise.all(stages);
    work.catch(() => this.stop());
    try {
      if (presenting) {
        await Promise.race([work, Promise.all([this.preRolled(), presenting.up])]);
        if (!this.stopped) this.begin(monotonicUs() + 20_000);
        await Promise.race([presenting.done, work.then(() => presenting.done)]);
        // The clock has passed the last slot: what is still under way can no longer be shown.
        this.stop();
      }
      await work;
    } finally {
      this.stop();
      await presenting?.end();
      this.parts.recorder.closePending();
      // Pictures that were ready and will not be shown any more.
      for (const picture of this.ready.values()) if (picture) this.parts.source.release(picture);
      this.ready.clear();
    }
  }

  /** Ends the run at the next stage boundary. */
  stop(): void {
    this.stopped = true;
    this.read.close();
    this.decoded.close();
    this.wakeReady?.();
    Atomics.store(this.views.control, 0, presenterState.stopped);
    Atomics.notify(this.views.control, 0);
  }

  private begin(startUs: number): void {
    this.startUs = startUs;
    this.parts.recorder.setStart(startUs);
    this.parts.onStart(startUs);
    this.views.timing[0] = startUs;
    if (!this.holdTime) return;
    Atomics.store(this.views.control, 0, presenterState.running);
    Atomics.notify(this.views.control, 0);
  }

  /** Resolves when the read-ahead and the ready buffer are full, or all is read. */
  private async preRolled(): Promise<void> {
    const { slotCount } = this.parts.graph;
    const { ready } = this.parts.settings.buffers;
    while (!this.stopped) {
      const filled = this.ready.size >= Math.min(ready, slotCount) && (this.read.isFull || this.read.isClosed || this.faults.isHolding);
      if (filled) return;
      await new Promise((resolve) => { setTimeout(resolve, 2); });
    }
  }

  private sinceStart(): number {
    return monotonicUs() - this.startUs;
  }

  /** True when the frame of a slot can no longer be shown in time. Never during the read-ahead. */
  private tooLate(slot: number, neededUs: number): boolean {
    return this.holdTime && !Number.isNaN(this.startUs) && cannotMakeSlot(slot, this.sinceStart(), neededUs, this.parts.slotUs);
  }

  private async readStage(): Promise<void> {
    const { graph, source, recorder } = this.parts;
    try {
      for (let position = 0; position < graph.slotCount && !this.stopped; position++) {
        const slot = graph.order[position] as number;
        await this.read.room();
        if (this.stopped) return;
        this.readPosition = position;
        if (this.givenUp[slot] === skippedAt.none) this.skipBeforeRead(slot, position);
        if (this.givenUp[slot] !== skippedAt.none) continue;
        const start = recorder.mark('readStart', slot);
        const data = await source.read(slot, position);
        await this.faults.hold('read', slot);
        this.estimates.read.add(recorder.mark('readEnd', slot) - start);
        this.read.push({ slot, position, data });
      }
    } finally {
      this.read.close();
    }
  }

  /** Marks the frames that a late reader gives up, by the format's cheapest way to catch up. */
  private skipBeforeRead(packetSlot: number, position: number): void {
    const needed = this.estimates.read.value + this.estimates.decode.value + this.estimates.process.value;
    if (this.parts.graph.intra) {
      if (this.tooLate(packetSlot, needed)) this.giveUp(packetSlot, skippedAt.read);
    } else if (this.tooLate(this.firstOpenSlot(position), needed)) this.jump(position, needed, skippedAt.read);
  }

  /** Jumps to a later key frame where that loses least: gives up all frames before it from a decode-order position on. */
  private jump(fromPosition: number, neededUs: number, where: number): void {
    const { graph, slotUs } = this.parts;
    const nextSlot = this.firstOpenSlot(fromPosition);
    const keys = graph.keySlots.filter((slot) => (graph.position[slot] as number) >= fromPosition);
    const pace = Math.max(this.estimates.read.value, this.estimates.decode.value) / slotUs;
    const target = keyFrameJump(nextSlot, firstSlotInReach(this.sinceStart(), neededUs, slotUs), keys, pace);
    if (target === null) return;
    for (let slot = nextSlot; slot < target; slot++) {
      const at = graph.position[slot] as number;
      if (at >= fromPosition && this.givenUp[slot] === skippedAt.none) this.giveUp(slot, at > this.readPosition ? skippedAt.read : where);
    }
  }

  /** The first slot not given up whose packet lies at a decode-order position or later: what is before it is under way. */
  private firstOpenSlot(fromPosition: number): number {
    const { position, slotCount } = this.parts.graph;
    let slot = this.nextSlot;
    while (slot < slotCount && (this.givenUp[slot] !== skippedAt.none || (position[slot] as number) < fromPosition)) slot++;
    return slot;
  }

  private giveUp(slot: number, where: number): void {
    this.givenUp[slot] = where;
    this.parts.recorder.skip(slot, where);
  }

  /** Before a packet is decoded: gives up a frame nothing needs, or jumps, when the frame cannot make its slot. */
  private skipBeforeDecode({ slot, position }: ReadSlot<Read>): void {
    const { graph } = this.parts;
    const needed = this.estimates.decode.value + this.estimates.process.value;
    if (this.givenUp[slot] !== skippedAt.none) return;
    if (graph.disposable[slot] === 1) {
      if (this.tooLate(slot, needed)) this.giveUp(slot, skippedAt.decode);
    } else if (!graph.intra && this.tooLate(this.firstOpenSlot(position), needed)) this.jump(position, needed, skippedAt.decode);
  }

  private async decodeStage(): Promise<void> {
    const { source } = this.parts;
    try {
      for (;;) {
        const next = await this.idle(() => this.read.take());
        if (next === null) break;
        if (this.stopped) { source.discard(next.data); continue; }
        this.skipBeforeDecode(next);
        if (this.givenUp[next.slot] === skippedAt.none) await this.decodeSlot(next);
        source.discard(next.data);
      }
      if (this.stopped) return;
      await source.send(null);
      await this.drainDecoder();
    } finally {
      this.decoded.close();
    }
  }

  private async decodeSlot({ slot, position, data }: ReadSlot<Read>): Promise<void> {
    const { source, recorder } = this.parts;
    recorder.mark('decodeStart', slot);
    this.lastSent = position;
    if (!(await source.send(data))) {
      await this.drainDecoder();
      await source.send(data);
    }
    await this.drainDecoder();
  }

  /** End of the last decoded frame, and time since then that the decoder waited for packets or room. */
  private lastDecodeEnd = -Infinity;
  private decoderIdleUs = 0;

  private async idle<Result>(wait: () => Promise<Result>): Promise<Result> {
    const begun = monotonicUs();
    const result = await wait();
    this.decoderIdleUs += monotonicUs() - begun;
    return result;
  }

  /** What a frame costs the decoder: the time since the frame before, without the waiting. */
  private noteDecodeTime(slot: number, end: number): void {
    const since = this.lastDecodeEnd === -Infinity ? this.parts.recorder.absolute('decodeStart', slot) : this.lastDecodeEnd + this.decoderIdleUs;
    this.estimates.decode.add(Math.max(0, end - since));
    this.lastDecodeEnd = end;
    this.decoderIdleUs = 0;
  }

  /** Takes all frames the decoder has, waiting for room before each. */
  private async drainDecoder(): Promise<void> {
    const { source, recorder, graph } = this.parts;
    for (;;) {
      await this.idle(() => this.decoded.room());
      if (this.stopped) return;
      const next = await source.receive();
      if (!next) return;
      const { slot, decoded } = next;
      if (slot < 0 || slot >= graph.slotCount) { source.drop(decoded); continue; }
      await this.faults.hold('decode', slot);
      recorder.setArrival(slot, this.lastSent);
      const end = recorder.mark('decodeEnd', slot);
      this.noteDecodeTime(slot, end);
      this.decoded.push({ slot, decoded });
    }
  }

  private async processStage(): Promise<void> {
    const { recorder, source } = this.parts;
    for (;;) {
      while (this.ready.size >= this.parts.settings.buffers.ready && !this.stopped) {
        await new Promise<void>((resolve) => { this.wakeReady = resolve; });
      }
      const next = await this.decoded.take();
      if (next === null) return;
      const { slot, decoded } = next;
      this.nextSlot = Math.max(this.nextSlot, slot + 1);
      if (this.stopped) { source.drop(decoded); continue; }
      if (this.tooLate(slot, this.estimates.process.value)) {
        source.drop(decoded);
        recorder.skip(slot, skippedAt.process);
        continue;
      }
      const start = recorder.mark('processStart', slot);
      const picture = await source.process(slot, decoded);
      source.drop(decoded);
      await this.faults.hold('process', slot);
      const end = recorder.mark('processEnd', slot);
      this.estimates.process.add(end - start);
      this.finishSlot(slot, picture);
    }
  }

  private finishSlot(slot: number, picture: ProcessedPicture | null): void {
    const { recorder, source } = this.parts;
    recorder.setShownFrame(slot, source.shownFrame(slot, picture));
    if (!this.holdTime) {
      recorder.present(slot, this.sinceStart(), slotState.shown, this.depths);
      this.presented++;
      this.offerToViewer(slot, picture);
      return;
    }
    if (this.tooLate(slot, 0)) {
      recorder.skip(slot, skippedAt.present);
      if (picture) this.parts.source.release(picture);
      return;
    }
    this.ready.set(slot, picture);
    Atomics.store(this.views.ready, slot, 1);
    Atomics.notify(this.views.ready, slot);
  }

  private offerToViewer(slot: number, picture: ProcessedPicture | null): void {
    if (picture) this.parts.viewer.offer(picture, slot, () => this.parts.source.release(picture));
  }

  private startPresenter() {
    const worker = new Worker(this.parts.presenterPath, { workerData: this.shared });
    let finish: () => void = () => undefined;
    let isUp: () => void = () => undefined;
    const up = new Promise<void>((resolve) => { isUp = resolve; });
    const done = new Promise<void>((resolve, reject) => {
      finish = resolve;
      worker.on('message', (message: PresenterMessage) => {
        if (message.slot === presenterIsUp) isUp();
        else this.onPresented(message);
      });
      worker.once('error', reject);
      worker.once('exit', () => resolve());
    });
    const exited = new Promise<void>((resolve) => { worker.once('exit', () => resolve()); });
    return { done, up, end: () => { finish(); return exited; } };
  }

  private onPresented({ slot, shown }: PresenterMessage): void {
    const { recorder } = this.parts;
    const { presentedAt, wokeAt } = this.views;
    this.presented = slot + 1;
    recorder.setWoke(slot, wokeAt[slot] as number);
    const wasReady = this.ready.has(slot);
    const picture = this.ready.get(slot) ?? null;
    this.ready.delete(slot);
    if (shown) {
      const at = presentedAt[slot] as number;
      const late = recorder.relative('processEnd', slot) > slot * this.parts.slotUs;
      recorder.present(slot, at, late ? slotState.late : slotState.shown, this.depths);
      this.offerToViewer(slot, picture);
    } else {
      recorder.present(slot, Number.NaN, slotState.dropped, this.depths);
      if (wasReady) recorder.skip(slot, skippedAt.present);
      if (picture) this.parts.source.release(picture);
    }
    this.wakeReady?.();
    this.wakeReady = null;
  }
}
