import { AV_PIX_FMT_RGBA, SWS_BILINEAR, type AVPixelFormat } from 'node-av/constants';
import { Frame, SoftwareScaleContext } from 'node-av/lib';
import { EngineError } from '../errors';
import type { PlaybackScale } from './spec';

export const scaleDivisors: Record<PlaybackScale, number> = { full: 1, half: 2, quarter: 4 };

/** The raster that processing works at: a picture's own at a playback scale. */
export function playbackRaster(
  { width, height }: { readonly width: number; readonly height: number },
  scale: PlaybackScale,
): { width: number; height: number } {
  const divisor = scaleDivisors[scale];
  return {
    width: Math.max(2, Math.round(width / divisor)),
    height: Math.max(2, Math.round(height / divisor)),
  };
}

/** A processed picture: 8-bit RGBA at the playback raster. */
export interface ProcessedPicture {
  readonly frame: Frame;
  readonly pixels: Buffer;
  readonly stride: number;
  readonly width: number;
  readonly height: number;
}

/** Scales decoded frames to the playback raster and converts them for the viewer. Pictures are pooled. */
export class Processor {
  private readonly pool: ProcessedPicture[] = [];
  private context: { readonly of: string; readonly scale: SoftwareScaleContext } | null = null;
  private readonly width: number;
  private readonly height: number;

  constructor(sourceWidth: number, sourceHeight: number, scale: PlaybackScale) {
    ({ width: this.width, height: this.height } = playbackRaster(
      { width: sourceWidth, height: sourceHeight },
      scale,
    ));
  }

  /** @throws EngineError when the picture cannot be converted */
  async process(source: Frame): Promise<ProcessedPicture> {
    const picture = this.pool.pop() ?? this.allocate();
    const code = await this.scaleFor(source).scaleFrame(picture.frame, source);
    if (code < 0) throw new EngineError('not-scaled', { width: this.width, height: this.height, code });
    return picture;
  }

  /** Gives a picture back for reuse. */
  release(picture: ProcessedPicture): void {
    this.pool.push(picture);
  }

  /** Frames of one run are alike, but where a device hands some of them to software, or scales some of them itself. */
  private scaleFor({ width, height, format }: Frame): SoftwareScaleContext {
    const of = `${width}x${height}:${format}`;
    if (this.context?.of === of) return this.context.scale;
    this.context?.scale.freeContext();
    const scale = new SoftwareScaleContext();
    scale.getContext(
      width,
      height,
      format as AVPixelFormat,
      this.width,
      this.height,
      AV_PIX_FMT_RGBA,
      SWS_BILINEAR,
    );
    this.context = { of, scale };
    return scale;
  }

  private allocate(): ProcessedPicture {
    const frame = new Frame();
    frame.alloc();
    frame.width = this.width;
    frame.height = this.height;
    frame.format = AV_PIX_FMT_RGBA;
    frame.getBuffer();
    const pixels = frame.data?.[0];
    if (!pixels) throw new EngineError('no-memory-for-pictures', { width: this.width, height: this.height });
    return {
      frame,
      pixels,
      stride: frame.linesize[0] ?? this.width * 4,
      width: this.width,
      height: this.height,
    };
  }

  close(): void {
    for (const picture of this.pool.splice(0)) picture.frame.free();
    this.context?.scale.freeContext();
    this.context = null;
  }
}
