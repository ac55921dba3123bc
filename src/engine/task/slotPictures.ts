import type { AVPixelFormat } from 'node-av/constants';
import { Frame } from 'node-av/lib';
import { piecesOf, type SlotRows } from '@/core/playback/backlog';
import type { CoursePlan } from '@/core/timeline/course';
import type { Timeline } from '@/core/timeline/model';
import { EngineError } from '../errors';
import { FeedSource, type SlotFrames } from '../playback/feedSource';
import type { OpenTimeline } from '../timeline/openTimeline';
import { TaskPictures } from './taskPictures';
import type { ThreadOwners } from './threadOwners';
import { greatest } from '@/core/stats/extremes';

/** A slot with what was decoded for it. */
export interface DecodedSlot {
  readonly slot: number;
  readonly frames: SlotFrames;
  readonly isRefused: boolean;
}

/** Reads, decodes and makes every slot of a course in turn. The steps of a slot are apart, so that several slots can be under way. */
export class SlotPictures {
  readonly pictures: TaskPictures;
  private readonly source: FeedSource;
  /** The last picture that could be made, once there is one: it stands in for those that cannot. */
  private readonly last = new Frame();
  private hasLast = false;
  /** Slots at the beginning of which no picture could be made yet. */
  private lacking = 0;

  constructor(
    timeline: Timeline,
    private readonly plan: CoursePlan,
    private readonly opened: OpenTimeline,
    options: { readonly pixelFormat: AVPixelFormat; readonly threads: number; readonly owners: ThreadOwners },
  ) {
    const { pixelFormat, threads, owners } = options;
    this.pictures = new TaskPictures(
      timeline,
      plan,
      opened,
      pixelFormat,
      threads,
      owners.watching('process'),
    );
    const { pictures } = this;
    this.last.alloc();
    this.source = new FeedSource(plan, {
      mediaOf: ({ media }) => {
        const open = opened.media.get(media);
        if (!open) throw new EngineError('clip-not-at-hand');
        return open;
      },
      finisher: {
        process: () => Promise.resolve(null),
        release: () => undefined,
        shownFrame: (slot) => ({ frame: slot, isProved: false }),
        frameCode: false,
        prepare: (slot, frames) => pictures.prepare(slot, frames),
        close: () => pictures.close(),
      },
      threads,
      lowDelay: false,
      watchThreads: owners.watching('decode'),
    });
  }

  get slotCount(): number {
    return this.plan.slotCount;
  }

  /** Opens the decoders of the first slots. @throws EngineError when none opens */
  open(): Promise<void> {
    return this.source.openFirst();
  }

  /** Threads of the decoders that were used, of those that work side by side. */
  get decoderThreads(): number {
    const side = greatest(
      this.plan.uses.map((uses) => uses.length),
      1,
    );
    return this.source.decoders.slice(0, side).reduce((sum, { threads }) => sum + threads, 0);
  }

  /** Bytes that a slot takes off its volumes. */
  bytesOf(slot: number): number {
    return this.plan.graph.bytes[slot] ?? 0;
  }

  read(slot: number): Promise<void> {
    return this.source.read(rowsOf(slot));
  }

  /** Hands a slot to the decoders. */
  async decode(slot: number): Promise<void> {
    const rows = rowsOf(slot);
    const pieces = piecesOf(this.plan.graph, rows);
    for (const [at, piece] of pieces.entries())
      await this.source.decode(piece, at === pieces.length - 1 ? rows : null);
  }

  /** No slot will come any more. */
  end(): Promise<void> {
    return this.source.end();
  }

  get hasFrame(): boolean {
    return this.source.hasFrame;
  }

  async receive(): Promise<DecodedSlot> {
    const { slot, decoded, isRefused } = await this.source.receive();
    return { slot, frames: decoded, isRefused };
  }

  /** The pictures that a decoded slot settles, in their order: its own, after those that waited for a first one. Whoever takes them releases them. */
  async make({ slot, frames, isRefused }: DecodedSlot): Promise<Frame[]> {
    const made = isRefused ? null : await this.pictures.make(slot, frames);
    this.source.drop(frames.filter((frame) => frame !== made));
    if (made) {
      this.remember(made);
      const before = Array.from({ length: this.lacking }, () => copyOf(made));
      this.lacking = 0;
      return [...before, made];
    }
    if (!this.hasLast) {
      this.lacking++;
      return [];
    }
    return [copyOf(this.last)];
  }

  /** Refers to a picture by the one frame that is kept for it: a new one each time would weigh on the engine's memory. */
  private remember(picture: Frame): void {
    if (this.hasLast) this.last.unref();
    if (this.last.ref(picture) < 0) throw new EngineError('no-memory-for-frame');
    this.hasLast = true;
  }

  /** Why nothing at all could be decoded; null where something was. */
  get failure(): Error | null {
    return this.source.failure;
  }

  get faults() {
    return this.source.faults;
  }

  async close(): Promise<void> {
    this.last.free();
    await this.source.close();
  }

  /** All pictures one after the other. Each is the caller's until the next is asked for. */
  async *inTurn(isStopped: () => boolean): AsyncGenerator<Frame> {
    await this.open();
    for (let slot = 0; slot <= this.slotCount && !isStopped(); slot++) {
      if (slot < this.slotCount) {
        await this.read(slot);
        await this.decode(slot);
      } else await this.end();
      while (this.hasFrame)
        for (const picture of await this.make(await this.receive())) {
          yield picture;
          this.pictures.release(picture);
        }
    }
  }

  /** Throws EngineError when a path no longer leads to the opened file. */
  assertStillThere(): Promise<void> {
    return this.opened.assertStillThere();
  }
}

const rowsOf = (slot: number): SlotRows => ({ slot, parts: null, feeds: null });

function copyOf(frame: Frame): Frame {
  const copy = frame.clone();
  if (!copy) throw new EngineError('no-memory-for-frame');
  return copy;
}
