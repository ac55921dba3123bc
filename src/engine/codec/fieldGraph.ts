import { AV_BUFFERSRC_FLAG_KEEP_REF } from 'node-av/constants';
import { FilterGraph, Frame, type FilterContext } from 'node-av/lib';
import { EngineError } from '../errors';

/** A chain of filters that interlaced frames go through one by one. */
export class FieldGraph {
  private pts = 0n;

  private constructor(
    private readonly graph: FilterGraph,
    private readonly input: FilterContext,
    private readonly output: FilterContext,
  ) {}

  /**
   * @param like a frame as all others are
   * @throws EngineError when the library refuses it
   */
  static async open(like: Frame, filters: readonly string[]): Promise<FieldGraph> {
    const { width, height, format } = like;
    const graph = new FilterGraph();
    graph.alloc();
    const code = graph.parsePtr(
      `buffer@in=video_size=${width}x${height}:pix_fmt=${format}:time_base=1/25:pixel_aspect=1/1,${filters.join(',')},buffersink@out`,
    );
    const configured = code < 0 ? code : await graph.config();
    const [input, output] = [graph.getFilter('buffer@in'), graph.getFilter('buffersink@out')];
    if (configured >= 0 && input && output) return new FieldGraph(graph, input, output);
    graph.free();
    throw new EngineError('not-converted', { code: configured });
  }

  /** What becomes of a frame, which stays the caller's; so is the picture to free. @throws EngineError */
  async picture(source: Frame): Promise<Frame> {
    const { pts } = source;
    source.pts = this.pts++;
    const fed = this.input.buffersrcAddFrameSync(source, AV_BUFFERSRC_FLAG_KEEP_REF);
    source.pts = pts;
    const frame = new Frame();
    frame.alloc();
    const code = fed < 0 ? fed : await this.output.buffersinkGetFrame(frame);
    frame.pts = pts;
    if (code >= 0) return frame;
    frame.free();
    throw new EngineError('not-converted', { code });
  }

  close(): void {
    this.graph.free();
  }
}
