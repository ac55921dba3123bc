import { AV_BUFFERSRC_FLAG_KEEP_REF, type AVPixelFormat } from 'node-av/constants';
import { avGetPixFmtName, FilterGraph, Frame, type FilterContext } from 'node-av/lib';
import type { Likeness } from '@/core/kinds/shared/task';
import { pixelFormatFacts } from '@/core/media/format';
import { EngineError } from '../errors';

/** Compares pictures pair by pair: structure and error, by the codec library's filters ssim and psnr. */
export class LikenessMeter {
  private graph: FilterGraph | null = null;
  private made: FilterContext | null = null;
  private given: FilterContext | null = null;
  private out: FilterContext | null = null;
  private readonly result = new Frame();
  private frames = 0;
  private ssim = 0;
  private squares = 0;
  private most = 255;

  constructor() {
    this.result.alloc();
  }

  /** Both stay the caller's. */
  async add(made: Frame, given: Frame): Promise<void> {
    if (!this.graph) await this.open(made, given);
    made.pts = given.pts = BigInt(this.frames);
    for (const [input, frame] of [
      [this.made, made],
      [this.given, given],
    ] as const)
      if (!input || input.buffersrcAddFrameSync(frame, AV_BUFFERSRC_FLAG_KEEP_REF) < 0)
        throw new EngineError('not-compared');
    while (((await this.out?.buffersinkGetFrame(this.result)) ?? -1) >= 0) this.take();
  }

  private take(): void {
    const told = this.result.getMetadata();
    this.frames++;
    this.ssim += Number(told.get('lavfi.ssim.All') ?? 0);
    this.squares += Number(told.get('lavfi.psnr.mse_avg') ?? 0);
    this.result.unref();
  }

  private async open(made: Frame, given: Frame): Promise<void> {
    const graph = new FilterGraph();
    graph.alloc();
    const format = avGetPixFmtName(given.format as AVPixelFormat) ?? 'yuv420p';
    this.most = 2 ** pixelFormatFacts(format).bitDepth - 1;
    const buffer = (name: string, frame: Frame) =>
      `buffer@${name}=video_size=${frame.width}x${frame.height}:pix_fmt=${frame.format}:time_base=1/25:pixel_aspect=1/1`;
    const code = graph.parsePtr(
      `${buffer('made', made)},format=${format}[m];${buffer('given', given)},split[g1][g2];[m][g1]ssim[s];[s][g2]psnr,buffersink@out`,
    );
    const configured = code < 0 ? code : await graph.config();
    if (configured < 0) throw new EngineError('comparison-not-set-up', { code: configured });
    this.graph = graph;
    this.made = graph.getFilter('buffer@made');
    this.given = graph.getFilter('buffer@given');
    this.out = graph.getFilter('buffersink@out');
  }

  /** Means over all pairs; null where there were none. */
  async close(): Promise<Likeness | null> {
    this.made?.buffersrcAddFrameSync(null);
    this.given?.buffersrcAddFrameSync(null);
    while (((await this.out?.buffersinkGetFrame(this.result)) ?? -1) >= 0) this.take();
    this.result.free();
    this.graph?.free();
    if (this.frames === 0) return null;
    const mean = this.squares / this.frames;
    return {
      frames: this.frames,
      ssim: this.ssim / this.frames,
      psnr: mean > 0 ? 10 * Math.log10((this.most * this.most) / mean) : null,
    };
  }
}
