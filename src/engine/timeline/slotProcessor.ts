import {
  AV_BUFFERSRC_FLAG_KEEP_REF,
  AV_PIX_FMT_GBRP,
  AV_PIX_FMT_GBRP16LE,
  type AVPixelFormat,
} from 'node-av/constants';
import { FilterGraph, Frame, type FilterContext } from 'node-av/lib';
import type { FieldsWay, WorkingDepth } from '@/core/playback/settings';
import type { Item } from '@/core/timeline/model';
import { forDisplay, isDeep, type GraphOutput } from '../codec/depth';
import { firstField } from '../codec/fields';
import { emptyPicture } from '../codec/framePool';
import { EngineError } from '../errors';
import type { WatchThreads } from '../codec/decoder';
import type { ProcessedPicture } from '../codec/processor';
import {
  describeGraph,
  graphCommands,
  graphKey,
  type GraphFiles,
  type GraphLayer,
  type GraphMask,
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
  /** What layers cover, where pictures of 16 bits are merged. */
  readonly masks: readonly { readonly input: FilterContext; readonly frame: Frame }[];
  readonly deep: boolean;
  readonly out: FilterContext;
}

/** What pictures are made with. */
export interface PictureWork {
  readonly files: GraphFiles;
  readonly depth: WorkingDepth;
  readonly fields: FieldsWay;
}

export interface SlotProcessorOptions {
  /** Of filters; 0: one per core. */
  readonly threads?: number;
  /** The last filters: what the picture comes out as. */
  readonly output?: GraphOutput;
  readonly watchThreads?: WatchThreads;
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
  private readonly black = new Map<boolean, Frame>();
  private pts = 0n;
  private readonly threads: number;
  private readonly output: GraphOutput;
  private readonly watchThreads: WatchThreads;

  /** @param raster playback raster in pixels */
  constructor(
    readonly raster: Raster,
    private readonly work: PictureWork,
    { threads = 0, output = forDisplay, watchThreads = (open) => open() }: SlotProcessorOptions = {},
  ) {
    this.threads = threads;
    this.output = output;
    this.watchThreads = watchThreads;
  }

  /**
   * One slot's picture at the playback raster: RGBA of 8 bits a channel, or of 16 where a source has more than 8 and they are kept, where nothing else was asked for. The frames stay the caller's; the picture is the caller's to release.
   * @param frames per layer; null for layers that draw themselves or have no frame
   * @throws EngineError when the graph cannot be built or run
   */
  async process(layers: readonly Layer[], frames: readonly (Frame | null)[]): Promise<ProcessedPicture> {
    const { usable, inputs } = usableLayers(layers, frames);
    const built = await this.graphFor(usable);
    for (const { target, command, value } of graphCommands(usable, built.deep))
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
    if (built.base) this.feed(built.base, this.ground(built.deep));
    for (const { input, frame } of built.masks) this.feed(input, frame);
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
      deep: built.deep,
      isPooled: false,
      stride: frame.linesize[0] ?? frame.width * (built.deep ? 8 : 4),
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

  private forget(key: string, { graph, masks }: BuiltGraph): void {
    this.graphs.delete(key);
    graph.free();
    for (const { frame } of masks) frame.free();
  }

  private async build(layers: readonly GraphLayer[]): Promise<BuiltGraph> {
    const graph = new FilterGraph();
    graph.alloc();
    if (this.threads > 0) graph.nbThreads = this.threads;
    const { depth, fields, files } = this.work;
    const deep = depth === 'kept' && layers.some(({ picture }) => picture && isDeep(picture.format));
    const form = { deep, fields, output: this.output };
    const { text, base, masks } = describeGraph(layers, this.raster, files, form);
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
      masks: masks.map(({ at, place }) => ({
        input: find(`buffer@mask${at}`),
        frame: maskOf(this.raster, place),
      })),
      deep,
      out: find('buffersink@out'),
    };
  }

  /** The black picture that lies below what does not cover the raster. */
  private ground(deep: boolean): Frame {
    const known = this.black.get(deep);
    if (known) return known;
    const frame = blackPicture(this.raster, deep ? AV_PIX_FMT_GBRP16LE : AV_PIX_FMT_GBRP);
    this.black.set(deep, frame);
    return frame;
  }

  async close(): Promise<void> {
    await this.building?.built.catch(() => undefined);
    for (const [key, built] of this.graphs) this.forget(key, built);
    for (const frame of this.black.values()) frame.free();
    this.black.clear();
  }
}

function blackPicture({ width, height }: Raster, format: AVPixelFormat): Frame {
  const frame = emptyPicture(width, height, format);
  for (const plane of frame.data ?? []) plane?.fill(0);
  return frame;
}

/** White where a layer covers the raster, black elsewhere. */
function maskOf(raster: Raster, { x, y, width, height }: GraphMask['place']): Frame {
  const frame = blackPicture(raster, AV_PIX_FMT_GBRP16LE);
  const strides = frame.linesize;
  for (const [index, plane] of (frame.data ?? []).entries())
    for (let line = y; line < y + height; line++) {
      const from = line * (strides[index] ?? 0) + 2 * x;
      plane?.fill(255, from, from + 2 * width);
    }
  return frame;
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
    fields: firstField(frame),
  };
}
