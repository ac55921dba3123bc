import { readFrameCode } from '@/core/media/frameCode';
import type { CoursePlan } from '@/core/timeline/course';
import { prerenderedTrack } from '@/core/timeline/flatten';
import { lumaReader } from '../media/luma';
import type { SlotFinisher, SlotFrames } from '../playback/feedSource';
import type { ProcessedPicture } from '../codec/processor';
import type { ShownFrame } from '../playback/playSource';
import type { SlotProcessor } from './slotProcessor';

/** Makes a timeline's pictures of the frames of their layers, and proves that those are the ones asked for. */
export class TimelineFinisher implements SlotFinisher {
  private readonly coded = new Map<string, boolean>();
  private readonly shown: Int32Array;
  /** 1 where a picture that went into the slot's carried its number. */
  private readonly proved: Uint8Array;
  frameCode = false;

  /** @param processor null: decode only */
  constructor(
    private readonly plan: CoursePlan,
    private readonly hasMedia: (media: string) => boolean,
    private readonly processor: SlotProcessor | null,
  ) {
    this.shown = expectedFrames(plan);
    this.proved = new Uint8Array(this.shown.length);
  }

  async process(slot: number, frames: SlotFrames): Promise<ProcessedPicture | null> {
    this.prove(slot, frames);
    return this.processor ? this.processor.process(this.plan.contents[slot]?.layers ?? [], frames) : null;
  }

  prepare(slot: number, frames: SlotFrames): void {
    this.processor?.prepare(this.plan.contents[slot]?.layers ?? [], frames);
  }

  /** Compares the number in each layer's picture with the one that was asked for. */
  private prove(slot: number, frames: SlotFrames): void {
    const layers = this.plan.contents[slot]?.layers ?? [];
    layers.forEach(({ media, frame: wanted, item, trackId }, at) => {
      // Of a rendered part the pictures carry the numbers of what they were made of.
      if (media === null || !this.hasMedia(media) || trackId === prerenderedTrack) return;
      const frame = frames[at];
      if (!frame || this.coded.get(media) === false || item.source.kind === 'still') return;
      const luma = lumaReader(frame);
      const code = luma && readFrameCode(frame.width, frame.height, luma);
      if (!this.coded.has(media)) this.coded.set(media, code === wanted);
      if (!this.coded.get(media)) return;
      this.frameCode = true;
      this.proved[slot] = 1;
      if (code !== wanted) this.shown[slot] = code === null ? -1 : code;
    });
  }

  release(picture: ProcessedPicture): void {
    this.processor?.release(picture);
  }

  shownFrame(slot: number): ShownFrame {
    return { frame: this.shown[slot] as number, isProved: this.proved[slot] === 1 };
  }

  async close(): Promise<void> {
    await this.processor?.close();
  }
}

/** The frame number of each slot's topmost layer with media; -1 where there is none. */
export function expectedFrames(plan: CoursePlan): Int32Array {
  return Int32Array.from(
    plan.contents,
    ({ layers }) => layers.findLast(({ media }) => media !== null)?.frame ?? -1,
  );
}
