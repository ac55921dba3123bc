import { Worker } from 'node:worker_threads';
import { AV_PIX_FMT_GRAY8, SWS_POINT } from 'node-av/constants';
import { avGetPixFmtFromName, SoftwareScaleContext, type Frame } from 'node-av/lib';
import type { AnalysisFound } from '@/core/tasks/analysis';
import { pixelFormatFacts } from '@/core/media/format';
import { median } from '@/core/stats/quantiles';
import { emptyPicture, FramePool } from '../codec/framePool';
import { EngineError } from '../errors';
import type { WatchThreads } from '../codec/decoder';
import type { Raster } from '../timeline/pictureGraph';
import type { PictureStage } from './pictureStage';
import type { FromTracker, TrackStart } from './trackShared';

/** Half the length of a cross's arms, share of the picture's height. */
const armShare = 0.008;

/** Follows points through the pictures by a thread of its own, and draws where they are. */
export class TrackStage implements PictureStage {
  private worker: Worker | null = null;
  private readonly luma: SharedArrayBuffer;
  private readonly grey: Frame;
  private readonly scaler = new SoftwareScaleContext();
  private readonly pool: FramePool;
  private readonly planes = new WeakMap<Frame, { luma: Buffer; stride: number }>();
  private readonly bytesPerSample: number;
  private readonly white: number;
  private answer: ((message: FromTracker) => void) | null = null;
  private failure: Error | null = null;
  private first: number | null = null;
  private kept = 0;
  /** Median way of each step. */
  private readonly ways: number[] = [];

  /** @param pixelFormat what the encoder takes, as the codec library names it */
  constructor(
    readonly pixelFormat: string,
    private readonly points: number,
    private readonly raster: Raster,
    private readonly watchThreads: WatchThreads,
    /** Of `trackWorker`, bundled. */
    private readonly workerPath: URL,
  ) {
    const { width, height } = raster;
    this.luma = new SharedArrayBuffer(width * height);
    this.grey = emptyPicture(width, height, AV_PIX_FMT_GRAY8);
    const format = avGetPixFmtFromName(pixelFormat);
    this.pool = new FramePool(width, height, format);
    this.scaler.getContext(width, height, format, width, height, AV_PIX_FMT_GRAY8, SWS_POINT);
    const { bitDepth } = pixelFormatFacts(pixelFormat);
    this.bytesPerSample = bitDepth > 8 ? 2 : 1;
    this.white = 235 << (bitDepth - 8);
  }

  get found(): AnalysisFound {
    return {
      work: 'track',
      points: { found: this.first ?? 0, kept: this.kept },
      pixelsPerFrame: this.ways.length > 0 ? median(this.ways) : null,
      leftOut: null,
    };
  }

  /** Starts the thread and waits until it is up. */
  async open(): Promise<void> {
    const { width, height } = this.raster;
    const workerData: TrackStart = { width, height, points: this.points, luma: this.luma };
    await this.watchThreads(async () => {
      const up = this.nextAnswer();
      this.worker = new Worker(this.workerPath, { workerData });
      this.worker.on('message', (message: FromTracker) => this.hear(message));
      this.worker.on('error', (error) => this.hear({ type: 'failed', message: error.message }));
      await up;
    });
  }

  private hear(message: FromTracker): void {
    if (message.type === 'failed')
      this.failure = new EngineError('points-not-followed', { reason: message.message });
    this.answer?.(message);
    this.answer = null;
  }

  private async nextAnswer(): Promise<FromTracker> {
    const message = await new Promise<FromTracker>((resolve) => {
      this.answer = resolve;
    });
    if (this.failure) throw this.failure;
    return message;
  }

  async take(picture: Frame): Promise<Frame[]> {
    await this.look(picture);
    const answer = this.nextAnswer();
    this.worker?.postMessage(null);
    const drawn = this.pool.take();
    drawn.copyProps(picture);
    if (drawn.copy(picture) < 0) throw new EngineError('no-memory-for-picture');
    const told = await answer;
    if (told.type === 'points') {
      this.kept = told.places.length / 2;
      this.first ??= this.kept;
      if (told.ways.length > 0) this.ways.push(median([...told.ways]));
      this.draw(drawn, told.places);
    }
    return [drawn];
  }

  /** Puts the picture's luma where the thread looks for it. */
  private async look(picture: Frame): Promise<void> {
    const { width, height } = this.raster;
    const code = await this.scaler.scaleFrame(this.grey, picture);
    if (code < 0) throw new EngineError('picture-not-looked-at', { code });
    const { luma, stride } = this.planeOf(this.grey);
    const target = new Uint8Array(this.luma);
    for (let line = 0; line < height; line++)
      target.set(luma.subarray(line * stride, line * stride + width), line * width);
  }

  /** Asked for once of each picture, which are used again: each time has the engine's memory cleared sooner. */
  private planeOf(frame: Frame): { luma: Buffer; stride: number } {
    const known = this.planes.get(frame);
    if (known) return known;
    const [luma] = frame.data ?? [];
    if (!luma) throw new EngineError('no-memory-for-picture');
    const plane = { luma, stride: frame.linesize[0] ?? this.raster.width };
    this.planes.set(frame, plane);
    return plane;
  }

  /** A cross for every point: bright arms on a dark ground, so that it is seen on any picture. */
  private draw(frame: Frame, places: Float32Array): void {
    const { width, height } = this.raster;
    const { luma, stride } = this.planeOf(frame);
    const arm = Math.max(3, Math.round(height * armShare));
    const set = (x: number, y: number, value: number) => {
      if (x < 0 || y < 0 || x >= width || y >= height) return;
      const at = y * stride + x * this.bytesPerSample;
      if (this.bytesPerSample === 2) luma.writeUInt16LE(value, at);
      else luma[at] = value;
    };
    for (let point = 0; point < places.length; point += 2) {
      const [x, y] = [Math.round(places[point] as number), Math.round(places[point + 1] as number)];
      for (let step = -arm; step <= arm; step++)
        for (const [dx, dy] of [
          [step, 1],
          [1, step],
        ] as const)
          set(x + dx, y + dy, 0);
      for (let step = -arm; step <= arm; step++) {
        set(x + step, y, this.white);
        set(x, y + step, this.white);
      }
    }
  }

  end(): Promise<Frame[]> {
    return Promise.resolve([]);
  }

  note(): void {
    // The points tell all.
  }

  release(picture: Frame): void {
    this.pool.giveBack(picture);
  }

  async close(): Promise<void> {
    await this.worker?.terminate();
    this.scaler.freeContext();
    this.grey.free();
    this.pool.close();
  }
}
