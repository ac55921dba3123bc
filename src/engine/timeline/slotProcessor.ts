import { AV_BUFFERSRC_FLAG_KEEP_REF, AV_PIX_FMT_GBRP } from 'node-av/constants';
import { FilterGraph, Frame, type FilterContext } from 'node-av/lib';
import type { Item } from '@/core/timeline/model';
import { EngineError } from '../errors';
import type { WatchThreads } from '../playback/decoder';
import type { ProcessedPicture } from '../playback/processor';
import {
  describeGraph,
  forDisplay,
  graphCommands,
  graphKey,
  type GraphFiles,
  type GraphLayer,
  type Raster,
  type SourcePicture,
} from './pictureGraph';
import type { Layer } from '@/core/timeline/flatten';

interface BuiltGraph {
  readonly graph: FilterGraph;
  readonly items: readonly Item[];
  /** Null where the layer draws itself. */
  readonly inputs: readonly (FilterContext | null)[];
  readonly base: FilterContext | null;
  readonly out: FilterContext;
}

/** Graphs kept ready. A cut back and forth between items finds its graph again. */
const mostGraphs = 12;

/** Makes slots' pictures of their layers' frames by graphs of filters, one for each combination of items. */
export class SlotProcessor {
  private readonly graphs = new Map<string, BuiltGraph>();
  private building: {
    readonly key: string;
    readonly items: readonly Item[];
    readonly built: Promise<BuiltGraph>;
  } | null = null;
  private black: Frame | null = null;
  private pts = 0n;

  /**
   * @param raster playback raster in pixels
   * @param output the last filters: what the picture comes out as
   */
  constructor(
    readonly raster: Raster,
    private readonly files: GraphFiles,
    private readonly threads = 0,
    private readonly output = forDisplay,
    private readonly watchThreads: WatchThreads = (open) => open(),
  ) {}

  /**
   * One slot's picture at the playback raster: 8-bit RGBA, where nothing else was asked for. The frames stay the caller's; the picture is the caller's to release.
   * @param frames per layer; null for layers that draw themselves or have no frame
   * @throws EngineError when the graph cannot be built or run
   */
  async process(layers: readonly Layer[], frames: readonly (Frame | null)[]): Promise<ProcessedPicture> {
    const { usable, inputs } = usableLayers(layers, frames);
    const built = await this.graphFor(usable);
    for (const { target, command, value } of graphCommands(usable))
      built.graph.sendCommand(target, command, value);
    return this.run(built, inputs);
  }

  /** Builds the graph of a slot that will be processed soon, beside other work; a failure is told when it is processed. */
  prepare(layers: readonly Layer[], frames: readonly (Frame | null)[]): void {
    void this.graphFor(usableLayers(layers, frames).usable).catch(() => undefined);
  }

  release(picture: ProcessedPicture): void {
    picture.frame.free();
  }

  private async run(built: BuiltGraph, frames: readonly Frame[]): Promise<ProcessedPicture> {
    this.pts++;
    let next = 0;
    if (built.base) this.feed(built.base, this.ground());
    for (const input of built.inputs) if (input) this.feed(input, frames[next++] as Frame);
    const frame = new Frame();
    frame.alloc();
    const code = await built.out.buffersinkGetFrame(frame);
    const pixels = code >= 0 ? frame.data?.[0] : undefined;
    if (!pixels) {
      frame.free();
      throw new EngineError('effects-not-computed', { code });
    }
    return {
      frame,
      pixels,
      stride: frame.linesize[0] ?? frame.width * 4,
      width: frame.width,
      height: frame.height,
    };
  }

  /** Inputs take what they are given without working on it; the work is done when the picture is asked for. */
  private feed(input: FilterContext, frame: Frame): void {
    frame.pts = this.pts;
    const code = input.buffersrcAddFrameSync(frame, AV_BUFFERSRC_FLAG_KEEP_REF);
    if (code < 0) throw new EngineError('refused-by-effects', { code });
  }

  private async graphFor(layers: readonly GraphLayer[]): Promise<BuiltGraph> {
    const key = graphKey(layers);
    // The items themselves are compared: an edit makes a new one.
    const isSame = ({ items }: Pick<BuiltGraph, 'items'>) =>
      items.every((item, at) => item === layers[at]?.layer.item);
    const known = this.graphs.get(key);
    if (known && isSame(known)) {
      this.graphs.delete(key);
      this.graphs.set(key, known);
      return known;
    }
    const { building } = this;
    if (!building) return this.startBuilding(key, layers);
    if (building.key === key && isSame(building)) return building.built;
    // Another one is being built: this one is next.
    await building.built.catch(() => undefined);
    return this.graphFor(layers);
  }

  private startBuilding(key: string, layers: readonly GraphLayer[]): Promise<BuiltGraph> {
    const built = this.build(layers)
      .then((graph) => {
        const before = this.graphs.get(key);
        if (before) this.forget(key, before);
        for (const [oldest, other] of this.graphs)
          if (this.graphs.size >= mostGraphs) this.forget(oldest, other);
        this.graphs.set(key, graph);
        return graph;
      })
      .finally(() => {
        this.building = null;
      });
    this.building = { key, items: layers.map(({ layer }) => layer.item), built };
    return built;
  }

  private forget(key: string, { graph }: BuiltGraph): void {
    this.graphs.delete(key);
    graph.free();
  }

  private async build(layers: readonly GraphLayer[]): Promise<BuiltGraph> {
    const graph = new FilterGraph();
    graph.alloc();
    if (this.threads > 0) graph.nbThreads = this.threads;
    const { text, base } = describeGraph(layers, this.raster, this.files, this.output);
    const code = graph.parsePtr(text);
    const configured = code < 0 ? code : await this.watchThreads(() => graph.config());
    if (configured < 0) {
      graph.free();
      throw new EngineError('effects-not-set-up', {
        items: layers.map(({ layer }) => layer.item.name).join(', '),
        code: configured,
      });
    }
    const find = (name: string) => graph.getFilter(name) as FilterContext;
    return {
      graph,
      items: layers.map(({ layer }) => layer.item),
      inputs: layers.map(({ picture }, at) => (picture ? find(`buffer@${at}`) : null)),
      base: base ? find('buffer@base') : null,
      out: find('buffersink@out'),
    };
  }

  /** The black picture that lies below what does not cover the raster. */
  private ground(): Frame {
    if (this.black) return this.black;
    const frame = new Frame();
    frame.alloc();
    frame.width = this.raster.width;
    frame.height = this.raster.height;
    frame.format = AV_PIX_FMT_GBRP;
    frame.getBuffer();
    for (const plane of frame.data ?? []) plane?.fill(0);
    return (this.black = frame);
  }

  async close(): Promise<void> {
    await this.building?.built.catch(() => undefined);
    for (const [key, built] of this.graphs) this.forget(key, built);
    this.black?.free();
    this.black = null;
  }
}

function usableLayers(
  layers: readonly Layer[],
  frames: readonly (Frame | null)[],
): { usable: GraphLayer[]; inputs: Frame[] } {
  const usable: GraphLayer[] = [];
  const inputs: Frame[] = [];
  layers.forEach((layer, at) => {
    const frame = frames[at] ?? null;
    if (layer.media !== null && !frame) return; // missing media are left out
    usable.push({ layer, picture: frame && pictureOf(frame) });
    if (frame) inputs.push(frame);
  });
  return { usable, inputs };
}

function pictureOf(frame: Frame): SourcePicture {
  const { num, den } = frame.sampleAspectRatio;
  return {
    width: frame.width,
    height: frame.height,
    format: frame.format,
    pixelAspect: num > 0 ? { num, den } : { num: 1, den: 1 },
  };
}
