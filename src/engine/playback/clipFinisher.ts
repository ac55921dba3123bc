import { readFrameCode } from '@/core/media/frameCode';
import type { SlotFinisher, SlotFrames } from './feedSource';
import { greenAt, type ProcessedPicture, type Processor } from '../codec/processor';
import type { ShownFrame } from './playSource';

/** Makes a clip's pictures: scaled to the playback raster, nothing else. */
export class ClipFinisher implements SlotFinisher {
  private coded: boolean | null = null;

  /** @param processor null: decode only */
  constructor(private readonly processor: Processor | null) {}

  async process(_slot: number, [frame]: SlotFrames): Promise<ProcessedPicture | null> {
    return this.processor && frame ? this.processor.process(frame) : null;
  }

  release(picture: ProcessedPicture): void {
    this.processor?.release(picture);
  }

  /** By the block code in the picture where the clip carries one: whether it does, its first picture tells. */
  shownFrame(slot: number, picture: ProcessedPicture | null): ShownFrame {
    if (!picture || this.coded === false) return { frame: slot, isProved: false };
    const code = readFrameCode(picture.width, picture.height, (x, y) => greenAt(picture, x, y));
    this.coded ??= code === slot;
    return this.coded ? { frame: code ?? -1, isProved: true } : { frame: slot, isProved: false };
  }

  get frameCode(): boolean {
    return this.coded ?? false;
  }

  prepare(): void {
    // Its one set-up was done before the run.
  }

  close(): Promise<void> {
    this.processor?.close();
    return Promise.resolve();
  }
}
