import { piecesOf, type SlotRows } from '@/core/playback/backlog';
import { PlayPolicy, startLeadUs } from '@/core/playback/policy';
import { RoomTimes } from '@/core/playback/roomTimes';
import { deadlineUs, skippedAt, slotState } from '@/core/playback/slots';
import type { FrameGraph } from '@/core/playback/work';
import { hostClock, type Clock } from '../clock';
import { BoundedQueue } from '../codec/boundedQueue';
import { FaultInjector } from './faults';
import type { PlaySound } from '../sound/playSound';
import type { PlaySource } from './playSource';
import type { OpenPresenter, PassedSlot, Presenter } from './presenter';
import type { ProcessedPicture } from '../codec/processor';
import type { RunStart } from './runStart';
import type { TraceRecorder } from './traceRecorder';
import type { ViewerTap } from './viewerTap';
import type { PlaybackSettings } from '@/core/playback/settings';

/** How often it is looked whether the buffers are full, µs. */
const fillCheckUs = 2_000;

interface DecodedSlot<Decoded> {
  readonly slot: number;
  readonly decoded: Decoded;
  readonly isRefused: boolean;
}

export interface PlayerParts<Decoded> {
  readonly source: PlaySource<Decoded>;
  readonly graph: FrameGraph;
  readonly recorder: TraceRecorder;
  readonly viewer: ViewerTap;
  /** Its sound; absent: none is played. */
  readonly sound?: PlaySound | undefined;
  readonly openPresenter: OpenPresenter;
  readonly slotUs: number;
  readonly settings: PlaybackSettings;
  /** Called once t0 is known. */
  readonly onStart: (startUs: number) => void;
  /** Whose time it is; the host's by default. */
  readonly clock?: Clock;
}

/**
 * Plays a clip or timeline once: read, decode, process and present run concurrently with
 * bounded buffers between them and write the trace. Under hold time the slots
 * follow the clock; under every frame they follow the work. What is made and what is
 * given up is decided by `PlayPolicy`.
 */
export class Player<Decoded = unknown> {
  private readonly read: BoundedQueue<number>;
  private readonly decoded: BoundedQueue<DecodedSlot<Decoded>>;
  private readonly ready = new Map<number, ProcessedPicture | null>();
  private readonly policy: PlayPolicy;
  private readonly clock: Clock;
  /** Shows the slots under hold time; null before the run, and under every frame. */
  private presenter: Presenter | null = null;
  private readonly holdTime: boolean;
  private readonly faults: FaultInjector;
  private readonly start: RunStart;
  private stopped = false;
  /**
   * When each stage could go on, by when it was done and when the buffers had something for it and room:
   * what is decided does not hang on how soon this thread came to it, and a replay decides the same.
   */
  private readIdleAt = -Infinity;
  private decodeIdleAt = -Infinity;
  private processIdleAt = -Infinity;
  private readonly readRoom: RoomTimes;
  private readonly decodedRoom: RoomTimes;
  private readonly readyRoom: RoomTimes;
  /** Time that the decoder had worked before what it has in hand, and since when it works on that; later by what it waited. */
  private workedUs = 0;
  private decodingSince = 0;
  /** By how much this thread came too late to what the decoder has in hand, where it waited for room. */
  private decodeLateUs = 0;
  /** For slots in the decoder: how much it had worked when it was done with what they handed it. */
  private readonly doneAt = new Map<number, number>();
  private presented = 0;
  private wakeReady: (() => void) | null = null;

  constructor(private readonly parts: PlayerParts<Decoded>) {
    const { settings, graph, slotUs } = parts;
    this.read = new BoundedQueue(settings.buffers.readAhead);
    this.decoded = new BoundedQueue(settings.buffers.decoded);
    this.readRoom = new RoomTimes(settings.buffers.readAhead);
    this.decodedRoom = new RoomTimes(settings.buffers.decoded);
    this.readyRoom = new RoomTimes(settings.buffers.ready);
    this.holdTime = settings.policy === 'hold-time';
    this.clock = parts.clock ?? hostClock;
    this.policy = new PlayPolicy({
      graph,
      slotUs,
      policy: settings.policy,
      buffers: settings.buffers,
      onGiveUp: (slot, where) => parts.recorder.skip(slot, where),
    });
    this.start = parts.recorder.start;
    this.faults = new FaultInjector(settings.faults, slotUs, this.start, this.clock);
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
    this.readIdleAt = this.clock.now();
    const {
      graph: { slotCount },
      slotUs,
      openPresenter,
    } = this.parts;
    const presenter = this.holdTime
      ? openPresenter({ slotCount, slotUs, onPassed: (passed) => this.onPassed(passed) })
      : null;
    this.presenter = presenter;
    if (!this.holdTime) this.begin(this.clock.now());
    const stages = [this.readStage(), this.decodeStage(), this.processStage()];
    const work = Promise.all(stages);
    work.catch(() => this.stop());
    try {
      if (presenter) {
        await Promise.race([work, Promise.all([this.preRolled(), presenter.up])]);
        if (!this.stopped) this.begin(this.clock.now() + startLeadUs);
        await Promise.race([presenter.done, work.then(() => presenter.done)]);
        // The clock has passed the last slot: what is still under way can no longer be shown.
        this.stop();
      }
      await work;
      // Where slots follow the work, sound may still be behind the pictures.
      if (!this.stopped) await this.parts.sound?.ended;
    } finally {
      this.stop();
      await presenter?.end();
      await this.parts.sound?.stop();
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
    this.presenter?.stop();
    void this.parts.sound?.stop();
  }

  private begin(startUs: number): void {
    this.start.us = startUs;
    this.policy.begin(startUs);
    this.parts.sound?.begin(startUs);
    this.parts.onStart(startUs);
    this.presenter?.begin(startUs);
  }

  /** Resolves when all buffers are full, or hold all there is. */
  private async preRolled(): Promise<void> {
    const { slotCount } = this.parts.graph;
    const { ready } = this.parts.settings.buffers;
    while (!this.stopped) {
      const isFilled = (queue: { isFull: boolean; isClosed: boolean }) =>
        queue.isFull || queue.isClosed || this.faults.isHolding;
      const filled =
        this.ready.size >= Math.min(ready, slotCount) &&
        isFilled(this.decoded) &&
        isFilled(this.read) &&
        (this.parts.sound?.isFilled ?? true);
      if (filled) return;
      await this.clock.sleep(fillCheckUs);
    }
  }

  private sinceStart(): number {
    return this.clock.now() - this.start.us;
  }

  private async readStage(): Promise<void> {
    const { source, recorder } = this.parts;
    try {
      for (;;) {
        await this.read.room();
        // Decoding, a turn after it took a slot, decides first: what it gives up is not read any more.
        await this.clock.turn();
        await this.clock.turn();
        if (this.stopped) return;
        const start = Math.max(this.readIdleAt, this.readRoom.since);
        const rows = this.policy.nextToRead(start);
        if (!rows) return;
        recorder.note('readStart', rows.slot, start);
        await source.read(rows);
        await this.faults.hold('read', rows.slot);
        this.readIdleAt = recorder.note('readEnd', rows.slot, this.clock.now());
        this.policy.hasRead(rows, this.readIdleAt, this.readIdleAt - start);
        this.readRoom.enter();
        this.read.push(rows.slot);
      }
    } finally {
      this.read.close();
    }
  }

  private async decodeStage(): Promise<void> {
    const { source, recorder } = this.parts;
    try {
      for (;;) {
        // Room first: nothing is made that has no place.
        await this.decoded.room();
        const slot = await this.read.take();
        if (slot === null) break;
        if (this.stopped) continue;
        const start = Math.max(this.decodeIdleAt, recorder.absolute('readEnd', slot), this.decodedRoom.since);
        this.readRoom.leave(start);
        // What the other stages have done by now is told first.
        await this.clock.turn();
        const rows = this.policy.nextToDecode(slot, start);
        if (!rows) continue;
        recorder.note('decodeStart', slot, start);
        this.decodingSince = start;
        this.decodeLateUs = 0;
        await this.decodeSlot(rows);
      }
      if (this.stopped) return;
      this.decodeLateUs = 0;
      this.decodingSince = this.clock.now();
      await source.end();
      await this.takeDecoded(true);
    } finally {
      this.decoded.close();
    }
  }

  /** Decodes a slot piece by piece, and takes the frames that come in between. */
  private async decodeSlot(rows: SlotRows): Promise<void> {
    const { source, graph, recorder } = this.parts;
    const pieces = piecesOf(graph, rows);
    // The first frame has its room from before.
    let tookOne = false;
    for (const [at, piece] of pieces.entries()) {
      const isLast = at === pieces.length - 1;
      await source.decode(piece, isLast ? rows : null);
      if (isLast) this.doneAt.set(rows.slot, Infinity);
      tookOne = await this.takeDecoded(tookOne);
      if (this.stopped) return;
    }
    const worked = this.decoderWorkedUs() - this.workedUs;
    this.workedUs += worked;
    if (this.doneAt.has(rows.slot)) this.doneAt.set(rows.slot, this.workedUs);
    this.decodeIdleAt = this.decoderNow();
    recorder.note('decodeDone', rows.slot, this.decodeIdleAt);
    this.policy.hasWorked(rows, this.decodeIdleAt, worked);
  }

  private decoderNow(): number {
    return this.clock.now() - this.decodeLateUs;
  }

  /** Time that the decoder has worked, without waiting. */
  private decoderWorkedUs(): number {
    return this.workedUs + this.decoderNow() - this.decodingSince;
  }

  /** Takes all decoded slots that are there; each but the first waits for room. Returns whether there was one. */
  private async takeDecoded(tookOne: boolean): Promise<boolean> {
    const { source, recorder } = this.parts;
    let took = tookOne;
    while (source.hasFrame && !this.stopped) {
      let roomAt = Number.NaN;
      let heldUs = 0;
      if (took && this.decoded.isFull) {
        const begun = this.decoderNow();
        await this.decoded.room();
        heldUs = Math.max(0, Math.round(this.decodedRoom.since - begun));
        this.decodingSince += heldUs;
        roomAt = begun + heldUs;
        if (this.stopped) return took;
      }
      const { slot, decoded, isRefused } = await source.receive();
      if (roomAt === roomAt) this.decodeLateUs = this.clock.now() - roomAt;
      await this.faults.hold('decode', slot);
      const end = this.decoderNow();
      recorder.note('decodeEnd', slot, end);
      recorder.trace.decodeHeldUs[slot] = heldUs;
      this.policy.hasDecoded(
        slot,
        end,
        Math.max(0, this.decoderWorkedUs() - (this.doneAt.get(slot) as number)),
      );
      this.doneAt.delete(slot);
      this.decodedRoom.enter();
      this.decoded.push({ slot, decoded, isRefused });
      took = true;
    }
    return took;
  }

  private async processStage(): Promise<void> {
    const { recorder, source } = this.parts;
    for (;;) {
      while (this.ready.size >= this.parts.settings.buffers.ready && !this.stopped) {
        await new Promise<void>((resolve) => {
          this.wakeReady = resolve;
        });
      }
      const next = await this.decoded.take();
      if (next === null) return;
      const { slot, decoded, isRefused } = next;
      const start = Math.max(this.processIdleAt, recorder.absolute('decodeEnd', slot), this.readyRoom.since);
      this.decodedRoom.leave(start);
      if (isRefused) this.passRefused(slot, start);
      if (isRefused || this.stopped || !this.policy.nextToProcess(slot, start)) {
        source.drop(decoded);
        continue;
      }
      recorder.note('processStart', slot, start);
      const picture = await source.process(slot, decoded);
      source.drop(decoded);
      await this.faults.hold('process', slot);
      this.processIdleAt = recorder.note('processEnd', slot, this.clock.now());
      this.policy.hasProcessed(slot, this.processIdleAt, this.processIdleAt - start);
      this.finishSlot(slot, picture);
    }
  }

  /** A slot of which the decoder made no picture is dropped, and the run goes on. */
  private passRefused(slot: number, nowUs: number): void {
    const { recorder } = this.parts;
    this.policy.passRefused(slot, nowUs);
    recorder.skip(slot, skippedAt.media);
    if (this.holdTime) return;
    recorder.present(slot, Number.NaN, slotState.dropped, this.depths);
    this.pass(slot);
  }

  private finishSlot(slot: number, picture: ProcessedPicture | null): void {
    const { recorder, source } = this.parts;
    recorder.setShownFrame(slot, source.shownFrame(slot, picture));
    if (!this.holdTime) {
      recorder.present(slot, this.sinceStart(), slotState.shown, this.depths);
      this.pass(slot);
      this.offerToViewer(slot, picture);
      return;
    }
    if (this.start.isKnown && this.sinceStart() >= deadlineUs(slot, this.parts.slotUs)) {
      recorder.skip(slot, skippedAt.present);
      if (picture) this.parts.source.release(picture);
      return;
    }
    this.readyRoom.enter();
    this.ready.set(slot, picture);
    this.presenter?.offer(slot);
  }

  private pass(slot: number): void {
    this.presented = slot + 1;
    this.parts.sound?.passed(this.presented);
  }

  private offerToViewer(slot: number, picture: ProcessedPicture | null): void {
    if (picture) this.parts.viewer.offer(picture, slot, () => this.parts.source.release(picture));
  }

  private onPassed({ slot, presentedAt, wokeAt }: PassedSlot): void {
    const { recorder } = this.parts;
    const shown = !Number.isNaN(presentedAt);
    this.pass(slot);
    recorder.setWoke(slot, wokeAt);
    const wasReady = this.ready.has(slot);
    const picture = this.ready.get(slot) ?? null;
    this.ready.delete(slot);
    if (wasReady)
      this.readyRoom.leave(this.start.us + (shown ? presentedAt : deadlineUs(slot, this.parts.slotUs)));
    if (shown) {
      const late = recorder.relative('processEnd', slot) > slot * this.parts.slotUs;
      recorder.present(slot, presentedAt, late ? slotState.late : slotState.shown, this.depths);
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
