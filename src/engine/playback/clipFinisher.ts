import { readFrameCode } from '@/core/media/frameCode';
import type { SlotFinisher, SlotFrames } from './feedSource';
import { greenAt, type ProcessedPicture, type Processor } from '../codec/processor';
import type { TraceRecorder } from './traceRecorder';

/** Makes a clip's pictures: scaled to the playback raster, nothing else. */
export class ClipFinisher implements SlotFinisher {
  private coded: boolean | null = null;

  /** @param processor null: decode only */
  constructor(
    private readonly processor: Processor | null,
    private readonly recorder: TraceRecorder,
  ) {}

  async process(_slot: number, [frame]: SlotFrames): Promise<ProcessedPicture | null> {
    return this.processor && frame ? this.processor.process(frame) : null;
  }

  release(picture: ProcessedPicture): void {
    this.processor?.release(picture);
  }

  /** The number in the picture's block code where the clip carries one, else the timestamp's. */
  shownFrame(slot: number, picture: ProcessedPicture | null): number {
    if (!picture || this.coded === false) return slot;
    const code = readFrameCode(picture.width, picture.height, (x, y) => greenAt(picture, x, y));
    this.coded ??= this.recorder.frameCode = code === slot;
    return this.coded ? (code ?? -1) : slot;
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
