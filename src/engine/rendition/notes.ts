import { AV_PIX_FMT_GRAY8, SWS_POINT, type AVPixelFormat } from 'node-av/constants';
import { SoftwareScaleContext, type Frame } from 'node-av/lib';
import { readFrameCode } from '@/core/media/frameCode';
import { signatureRaster } from '@/core/rendition/frameCheck';
import { emptyPicture } from '../codec/framePool';
import { EngineError } from '../errors';

/** Width that pictures are looked at with: a frame code's blocks are 4 pixels of it. */
const mostWidth = 240;

/** What a picture shows: its number where it carries one (else -1), and a coarse picture. */
export interface FrameNote {
  readonly code: number;
  readonly signature: Uint8Array;
}

/**
 * Notes what pictures show. Each is sampled into one small grey picture that is used again: asking a frame itself for its memory
 * would have the engine's memory cleared every few frames.
 */
export class FrameNoter {
  private readonly scalers = new Map<string, SoftwareScaleContext>();
  private grey: { readonly frame: Frame; readonly pixels: Buffer; readonly stride: number } | null = null;

  async note(frame: Frame): Promise<FrameNote> {
    const { frame: small, pixels, stride } = this.opened(frame);
    const code = await this.scalerOf(frame, small).scaleFrame(small, frame);
    if (code < 0) throw new EngineError('picture-not-looked-at', { code });
    const { width, height } = small;
    return {
      code: readFrameCode(width, height, (x, y) => pixels[y * stride + x] ?? 0) ?? -1,
      signature: signatureOf(pixels, stride, width, height),
    };
  }

  private opened({ width, height }: Frame) {
    const small = Math.min(mostWidth, width);
    const lines = Math.max(signatureRaster.height, Math.round((height * small) / width));
    if (this.grey && this.grey.frame.width === small && this.grey.frame.height === lines) return this.grey;
    this.grey?.frame.free();
    const frame = emptyPicture(small, lines, AV_PIX_FMT_GRAY8);
    const [pixels] = frame.data ?? [];
    if (!pixels) throw new EngineError('no-memory-to-look');
    return (this.grey = { frame, pixels, stride: frame.linesize[0] ?? small });
  }

  private scalerOf(frame: Frame, small: Frame): SoftwareScaleContext {
    const key = `${frame.width}x${frame.height} ${frame.format}`;
    const known = this.scalers.get(key);
    if (known) return known;
    const scaler = new SoftwareScaleContext();
    scaler.getContext(
      frame.width,
      frame.height,
      frame.format as AVPixelFormat,
      small.width,
      small.height,
      AV_PIX_FMT_GRAY8,
      SWS_POINT,
    );
    this.scalers.set(key, scaler);
    return scaler;
  }

  close(): void {
    for (const scaler of this.scalers.values()) scaler.freeContext();
    this.scalers.clear();
    this.grey?.frame.free();
    this.grey = null;
  }
}

/** Mean luma of each cell of a coarse raster. */
function signatureOf(pixels: Buffer, stride: number, width: number, height: number): Uint8Array {
  const signature = new Uint8Array(signatureRaster.width * signatureRaster.height);
  for (let row = 0; row < signatureRaster.height; row++) {
    const [top, bottom] = [row, row + 1].map((at) => Math.floor((at * height) / signatureRaster.height)) as [
      number,
      number,
    ];
    for (let column = 0; column < signatureRaster.width; column++) {
      const left = Math.floor((column * width) / signatureRaster.width);
      const right = Math.floor(((column + 1) * width) / signatureRaster.width);
      let sum = 0;
      for (let y = top; y < bottom; y++)
        for (let x = left; x < right; x++) sum += pixels[y * stride + x] as number;
      signature[row * signatureRaster.width + column] = Math.round(
        sum / Math.max(1, (bottom - top) * (right - left)),
      );
    }
  }
  return signature;
}
