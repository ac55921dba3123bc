import { AV_PIX_FMT_RGBA, AV_PIX_FMT_RGBA64LE, SWS_BILINEAR, type AVPixelFormat } from 'node-av/constants';
import { Frame, SoftwareScaleContext } from 'node-av/lib';
import type { FieldsWay, WorkedIn, WorkingDepth } from '@/core/playback/settings';
import { forDisplay, isDeep } from './depth';
import { firstField, oneField, scaledTo, type FirstField } from './fields';
import { EngineError } from '../errors';
import { FieldGraph } from './fieldGraph';
import type { PlaybackScale } from '../playback/spec';

const scaleDivisors: Record<PlaybackScale, number> = { full: 1, half: 2, quarter: 4 };

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
  /** Given back to be used again; else freed. */
  readonly isPooled: boolean;
  readonly pixels: Buffer;
  readonly stride: number;
  readonly width: number;
  readonly height: number;
}

/** Green at a pixel of a processed picture, 0 to 255. */
export const greenAt = ({ pixels, stride, deep }: ProcessedPicture, x: number, y: number): number =>
  pixels[y * stride + (deep ? 8 * x + 3 : 4 * x + 1)] ?? 0;

/** Scales decoded frames to the playback raster and converts them for the viewer. Pictures are pooled; those of interlaced frames come from graphs of filters. */
export class Processor {
  private readonly pool: ProcessedPicture[] = [];
  private context: { readonly of: string; readonly scale: SoftwareScaleContext } | null = null;
  readonly width: number;
  readonly height: number;
  private readonly depth: WorkingDepth;
  private readonly fields: FieldsWay;
  private ofFields: { readonly of: string; readonly graph: FieldGraph } | null = null;

  constructor(
    sourceWidth: number,
    sourceHeight: number,
    scale: PlaybackScale,
    { depth = '8-bit', fields = 'woven' }: WorkedIn = {},
  ) {
    this.depth = depth;
    this.fields = fields;
    ({ width: this.width, height: this.height } = playbackRaster(
      { width: sourceWidth, height: sourceHeight },
      scale,
    ));
  }

  /** @throws EngineError when the picture cannot be converted */
  async process(source: Frame): Promise<ProcessedPicture> {
    const deep = this.depth === 'kept' && isDeep(source.format);
    const first = firstField(source);
    if (first !== null) return this.ofField(source, first, deep);
    const known = this.pool.findIndex((picture) => picture.deep === deep);
    const picture = known < 0 ? this.allocate(deep) : (this.pool.splice(known, 1)[0] as ProcessedPicture);
    const code = await this.scaleFor(source, picture).scaleFrame(picture.frame, source);
    if (code < 0) throw new EngineError('not-scaled', { width: this.width, height: this.height, code });
    return picture;
  }

  /** Gives a picture back for reuse. */
  release(picture: ProcessedPicture): void {
    if (picture.isPooled) this.pool.push(picture);
    else picture.frame.free();
  }

  /** Both fields of an interlaced frame scaled apart, or its first alone. */
  private async ofField(source: Frame, first: FirstField, deep: boolean): Promise<ProcessedPicture> {
    const of = `${source.width}x${source.height}:${source.format}:${first}`;
    if (this.ofFields?.of !== of) {
      this.ofFields?.graph.close();
      this.ofFields = null;
      const isWoven = this.fields === 'woven';
      const filters = [
        ...(isWoven ? [] : [oneField(first, 0, '')]),
        scaledTo(this, isWoven),
        forDisplay(deep),
      ];
      this.ofFields = { of, graph: await FieldGraph.open(source, filters) };
    }
    const frame = await this.ofFields.graph.picture(source);
    const pixels = frame.data?.[0];
    if (!pixels) throw new EngineError('no-memory-for-pictures', { width: this.width, height: this.height });
    const { width, height } = frame;
    const stride = frame.linesize[0] ?? width * (deep ? 8 : 4);
    return { frame, pixels, deep, isPooled: false, stride, width, height };
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
      isPooled: true,
      stride: frame.linesize[0] ?? this.width * (deep ? 8 : 4),
      width: this.width,
      height: this.height,
    };
  }

  close(): void {
    this.ofFields?.graph.close();
    this.ofFields = null;
    for (const picture of this.pool.splice(0)) picture.frame.free();
    this.context?.scale.freeContext();
    this.context = null;
  }
}
