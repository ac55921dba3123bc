import type { Frame } from 'node-av/lib';
import type { AnalysisFound } from '@/core/tasks/analysis';

/** Works on the pictures of a task one after the other, before they go to the encoder. */
export interface PictureStage {
  /** Pixel format that it wants pictures in, as the codec library names it. */
  readonly pixelFormat: string;
  /** What it found so far, beside its pictures. */
  readonly found: AnalysisFound;
  open(): Promise<void>;
  /** Pictures that one more settles, in their order. It stays the caller's; whoever takes those releases them. */
  take(picture: Frame): Promise<Frame[]>;
  /** Those that are left when no picture will come any more. */
  end(): Promise<Frame[]>;
  /** Told the coarse picture of each that it made: mean luma of each cell of a raster. */
  note(signature: Uint8Array): void;
  /** A picture of its own that is done with. */
  release(picture: Frame): void;
  close(): Promise<void>;
}
