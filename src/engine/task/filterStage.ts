import { AV_BUFFERSRC_FLAG_KEEP_REF } from 'node-av/constants';
import { avGetPixFmtFromName, FilterGraph, Frame, type FilterContext } from 'node-av/lib';
import {
  picturesPerSlot,
  type AnalysisChoice,
  type AnalysisFound,
  type AnalysisWork,
} from '@/core/tasks/analysis';
import type { Rational } from '@/core/time/rational';
import { EngineError } from '../errors';
import type { WatchThreads } from '../codec/decoder';
import type { Raster } from '../timeline/pictureGraph';
import { outputFilter } from './colour';
import type { PictureStage } from './pictureStage';

/** Pictures that a filter may look ahead before it gives the one that was meant: the last is repeated so often. */
const lookAhead = 4;

/** What a filter of the codec library does. */
interface FilterChoice extends AnalysisChoice {
  readonly work: Exclude<AnalysisWork, 'track'>;
}

/** Works on pictures by a filter of the codec library that runs on from picture to picture. */
export class FilterStage implements PictureStage {
  readonly pixelFormat: string;
  private graph: FilterGraph | null = null;
  private input: FilterContext | null = null;
  private output: FilterContext | null = null;
  private readonly last = new Frame();
  private given = 0;
  private made = 0;
  private noted = 0;
  private brightness = 0;

  /** @param outputFormat what the encoder takes, as the codec library names it */
  constructor(
    private readonly choice: FilterChoice,
    private readonly raster: Raster,
    private readonly rate: Rational,
    private readonly outputFormat: string,
    private readonly threads: number,
    private readonly watchThreads: WatchThreads,
  ) {
    // These filters work in 8 bits a channel.
    this.pixelFormat = choice.work === 'matte' ? 'yuv444p' : 'yuv422p';
    this.last.alloc();
  }

  get found(): AnalysisFound {
    const { work } = this.choice;
    const leftOut = work === 'matte' && this.noted > 0 ? 1 - this.brightness / this.noted : null;
    return { work, points: null, pixelsPerFrame: null, leftOut };
  }

  async open(): Promise<void> {
    const graph = new FilterGraph();
    graph.alloc();
    if (this.threads > 0) graph.nbThreads = this.threads;
    const { num, den } = this.rate;
    const { width, height } = this.raster;
    const code = graph.parsePtr(
      `buffer@in=video_size=${width}x${height}:pix_fmt=${avGetPixFmtFromName(this.pixelFormat)}:time_base=${den}/${num}:frame_rate=${num}/${den}:pixel_aspect=1/1,` +
        `${filterOf(this.choice, this.rate)},${outputFilter(this.outputFormat, this.raster)},buffersink@out`,
    );
    const configured = code < 0 ? code : await this.watchThreads(() => graph.config());
    if (configured < 0) {
      graph.free();
      throw new EngineError('analysis-not-set-up', { code: configured });
    }
    this.graph = graph;
    this.input = graph.getFilter('buffer@in');
    this.output = graph.getFilter('buffersink@out');
  }

  async take(picture: Frame): Promise<Frame[]> {
    this.feed(picture);
    if (this.last.width > 0) this.last.unref();
    if (this.last.ref(picture) < 0) throw new EngineError('no-memory-for-frame');
    return this.settled();
  }

  async end(): Promise<Frame[]> {
    if (this.given === 0) return [];
    const wanted = (this.given - 1) * picturesPerSlot(this.choice) + 1;
    for (let more = 0; more < lookAhead && this.made < wanted; more++) this.feed(this.last);
    this.input?.buffersrcAddFrameSync(null);
    const before = this.made;
    const rest = await this.settled();
    const surplus = rest.splice(Math.max(0, wanted - before));
    for (const picture of surplus) picture.free();
    this.made -= surplus.length;
    return rest;
  }

  private feed(picture: Frame): void {
    picture.pts = BigInt(this.given++);
    picture.duration = 1n;
    const code = this.input?.buffersrcAddFrameSync(picture, AV_BUFFERSRC_FLAG_KEEP_REF) ?? -1;
    if (code < 0) throw new EngineError('refused-by-analysis', { code });
  }

  private async settled(): Promise<Frame[]> {
    const pictures: Frame[] = [];
    for (;;) {
      const picture = new Frame();
      picture.alloc();
      const code = (await this.output?.buffersinkGetFrame(picture)) ?? -1;
      if (code < 0) {
        picture.free();
        return pictures;
      }
      this.made++;
      pictures.push(picture);
    }
  }

  note(signature: Uint8Array): void {
    this.brightness += signature.reduce((sum, luma) => sum + luma, 0) / signature.length / 255;
    this.noted++;
  }

  release(picture: Frame): void {
    picture.free();
  }

  close(): Promise<void> {
    this.graph?.free();
    this.graph = null;
    this.last.free();
    return Promise.resolve();
  }
}

/** The filter of the codec library that does the work. */
function filterOf({ work, factor, colour, tolerance }: FilterChoice, { num, den }: Rational): string {
  const rate = `fps=${num * (factor ?? 1)}/${den}`;
  switch (work) {
    case 'slow-motion':
      return `minterpolate=${rate}:mi_mode=mci:mc_mode=aobmc:vsbmc=1`;
    case 'blend':
      return `minterpolate=${rate}:mi_mode=blend:scd=none`;
    case 'stabilise':
      return 'deshake=edge=clamp:contrast=20';
    case 'matte':
      return `format=yuva444p,chromakey=color=0x${(colour as string).slice(1)}:similarity=${tolerance as number}:blend=0.02,alphaextract`;
  }
}
