import { AV_PIX_FMT_RGBA, AV_PIX_FMT_RGBA64LE, SWS_BILINEAR, type AVPixelFormat } from 'node-av/constants';
import { Frame, SoftwareScaleContext } from 'node-av/lib';
import type { WorkingDepth } from '@/core/playback/settings';
import { isDeep } from '../codec/depth';
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

/** A processed picture: RGBA at the playback raster. */
export interface ProcessedPicture {
  readonly frame: Frame;
  /** 16 bits a channel, little-endian; else 8. */
  readonly deep: boolean;
  readonly pixels: Buffer;
  readonly stride: number;
  readonly width: number;
  readonly height: number;
}

/** Green at a pixel of a processed picture, 0 to 255. */
export const greenAt = ({ pixels, stride, deep }: ProcessedPicture, x: number, y: number): number =>
  pixels[y * stride + (deep ? 8 * x + 3 : 4 * x + 1)] ?? 0;

/** Scales decoded frames to the playback raster and converts them for the viewer. Pictures are pooled. */
export class Processor {
  private readonly pool: ProcessedPicture[] = [];
  private context: { readonly of: string; readonly scale: SoftwareScaleContext } | null = null;
  private readonly width: number;
  private readonly height: number;

  constructor(
    sourceWidth: number,
    sourceHeight: number,
    scale: PlaybackScale,
    private readonly depth: WorkingDepth = '8-bit',
  ) {
    ({ width: this.width, height: this.height } = playbackRaster(
      { width: sourceWidth, height: sourceHeight },
      scale,
    ));
  }

  /** @throws EngineError when the picture cannot be converted */
  async process(source: Frame): Promise<ProcessedPicture> {
    const deep = this.depth === 'kept' && isDeep(source.format);
    const known = this.pool.findIndex((picture) => picture.deep === deep);
    const picture = known < 0 ? this.allocate(deep) : (this.pool.splice(known, 1)[0] as ProcessedPicture);
    const code = await this.scaleFor(source, picture).scaleFrame(picture.frame, source);
    if (code < 0) throw new EngineError('not-scaled', { width: this.width, height: this.height, code });
    return picture;
  }

  /** Gives a picture back for reuse. */
  release(picture: ProcessedPicture): void {
    this.pool.push(picture);
  }

  /** Frames of one run are alike, but where a device hands some of them to software, or scales some of them itself. */
  private scaleFor(
    { width, height, format }: Frame,
    { frame: target }: ProcessedPicture,
  ): SoftwareScaleContext {
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
      target.format as AVPixelFormat,
      SWS_BILINEAR,
    );
    this.context = { of, scale };
    return scale;
  }

  private allocate(deep: boolean): ProcessedPicture {
    const frame = new Frame();
    frame.alloc();
    frame.width = this.width;
    frame.height = this.height;
    frame.format = deep ? AV_PIX_FMT_RGBA64LE : AV_PIX_FMT_RGBA;
    frame.getBuffer();
    const pixels = frame.data?.[0];
    if (!pixels) throw new EngineError('no-memory-for-pictures', { width: this.width, height: this.height });
    return {
      frame,
      pixels,
      deep,
      stride: frame.linesize[0] ?? this.width * (deep ? 8 : 4),
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
