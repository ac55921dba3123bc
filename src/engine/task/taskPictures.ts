import { SWS_BICUBIC, type AVPixelFormat } from 'node-av/constants';
import { avGetPixFmtName, SoftwareScaleContext, type Frame } from 'node-av/lib';
import { wholePicture, type Effect, type Rect, type Timeline } from '@/core/timeline/model';
import type { CoursePlan } from '@/core/timeline/course';
import type { Layer } from '@/core/timeline/flatten';
import { firstField } from '../codec/fields';
import { FramePool } from '../codec/framePool';
import { EngineError } from '../errors';
import type { WatchThreads } from '../codec/decoder';
import type { SlotFrames } from '../playback/feedSource';
import type { Raster } from '../timeline/pictureGraph';
import { SlotProcessor, type PictureWork } from '../timeline/slotProcessor';
import { outputFilter } from './colour';

/**
 * Makes the pictures of a task in the pixel format that its encoder takes. A slot that shows one clip as it was shot keeps its depth:
 * it is converted at most. Whatever else a slot is made of goes through the graph that playback has, at full raster.
 */
export class TaskPictures {
  private readonly processor: SlotProcessor;
  private readonly scalers = new Map<string, SoftwareScaleContext>();
  private readonly pool: FramePool;
  private readonly raster: Raster;

  constructor(
    { width, height }: Pick<Timeline, 'width' | 'height'>,
    private readonly plan: CoursePlan,
    private readonly work: PictureWork,
    private readonly pixelFormat: AVPixelFormat,
    threads: number,
    watchThreads: WatchThreads,
  ) {
    this.raster = { width, height };
    this.pool = new FramePool(width, height, pixelFormat);
    const output = outputFilter(avGetPixFmtName(pixelFormat) ?? 'yuv420p', this.raster);
    this.processor = new SlotProcessor(this.raster, work, { threads, output: () => output, watchThreads });
  }

  /** Sets up what a slot will need, beside other work. */
  prepare(slot: number, frames: SlotFrames): void {
    const layers = this.layersOf(slot);
    if (!this.plainFrame(layers, frames)) this.processor.prepare(layers, frames);
  }

  /** A slot's picture, to be given back by `release`. The frames stay the caller's, but where one of them is that picture. */
  async make(slot: number, frames: SlotFrames): Promise<Frame> {
    const layers = this.layersOf(slot);
    const plain = this.plainFrame(layers, frames);
    if (plain) return this.converted(plain);
    const { frame } = await this.processor.process(layers, frames);
    return frame;
  }

  release(frame: Frame): void {
    this.pool.giveBack(frame);
  }

  private layersOf(slot: number): readonly Layer[] {
    return this.plan.contents[slot]?.layers ?? [];
  }

  /** The frame of a slot that shows it as it is, in the timeline's raster; null where the slot is made of more. */
  private plainFrame(layers: readonly Layer[], [frame, ...others]: SlotFrames): Frame | null {
    const [layer] = layers;
    if (layers.length !== 1 || others.length > 0 || !layer || !frame) return null;
    const isPlain =
      isWhole(layer.view) &&
      layer.effects.every(changesNothing) &&
      layer.fade === 1 &&
      layer.item.source.kind !== 'still';
    const fits = frame.width === this.raster.width && frame.height === this.raster.height;
    // Fields are taken apart by the graph, where they are to be or where a conversion would mix them.
    const keepsFields =
      firstField(frame) === null || (this.work.fields === 'woven' && frame.format === this.pixelFormat);
    return isPlain && fits && keepsFields ? frame : null;
  }

  /** @returns itself where nothing changes */
  private async converted(frame: Frame): Promise<Frame> {
    if (frame.format === this.pixelFormat) return frame;
    const { width, height } = frame;
    const key = `${frame.format}`;
    const scaler = this.scalers.get(key) ?? new SoftwareScaleContext();
    if (!this.scalers.has(key))
      scaler.getContext(
        width,
        height,
        frame.format as AVPixelFormat,
        width,
        height,
        this.pixelFormat,
        SWS_BICUBIC,
      );
    this.scalers.set(key, scaler);
    const target = this.pool.take();
    target.copyProps(frame);
    const code = await scaler.scaleFrame(target, frame);
    if (code < 0) throw new EngineError('not-converted', { code });
    return target;
  }

  async close(): Promise<void> {
    await this.processor.close();
    for (const scaler of this.scalers.values()) scaler.freeContext();
    this.pool.close();
  }
}

const isWhole = ({ x, y, width, height }: Rect) =>
  x === wholePicture.x &&
  y === wholePicture.y &&
  width === wholePicture.width &&
  height === wholePicture.height;

/** A place that is the whole picture: timelines made of one clip have it. */
const changesNothing = (effect: Effect) =>
  effect.kind === 'transform' && isWhole(effect.crop) && isWhole(effect.place) && effect.opacity === 1;
