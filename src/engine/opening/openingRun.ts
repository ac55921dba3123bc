import { Worker } from 'node:worker_threads';
import type { OpeningSettings } from '@/core/kinds/opening';
import type { TimelineTrialProgress } from '@/core/kinds/shared/timeline';
import type { ColdProof } from '@/core/media/coldProof';
import type { OpenedClip, OpeningRecord, OpeningStep } from '@/core/tasks/opening';
import { firstShown } from '@/core/timeline/flatten';
import { monotonicUs } from '../clock';
import { EngineError, fileErrorMessage } from '../errors';
import { playbackRaster } from '../playback/processor';
import { sharedModel } from '../storage/sharedPacer';
import type { OpenTimeline } from '../timeline/openTimeline';
import { SlotAccess } from '../timeline/slotAccess';
import { SlotProcessor } from '../timeline/slotProcessor';
import type { TimelineSpec } from '../timeline/spec';
import type { FromLane, LaneClip, LaneStart, ToLane } from './laneShared';

/** What is saved of an opening is told at most so often, ms. */
const tellEveryMs = 500;

/** What the lanes read goes through the system's cache: cold is what was put out of it. */
export function coldOfOpening({ method, ...shares }: ColdProof): ColdProof {
  const { residentAtStart } = shares;
  const isOut = method !== 'warm' && residentAtStart !== null && residentAtStart < 0.01;
  return { method: isOut ? 'evicted' : 'warm', ...shares };
}

/** A thread that opens clips, one at a time. */
class Lane {
  readonly up: Promise<void>;
  private settle: { resolve: () => void; reject: (error: unknown) => void } | null = null;
  private readonly worker: Worker;

  constructor(
    path: URL,
    start: LaneStart,
    private readonly hear: (message: Extract<FromLane, { type: 'step' | 'done' }>) => void,
    private readonly moved: () => void,
  ) {
    this.worker = new Worker(path, { workerData: start });
    this.up = this.next();
    this.worker.on('message', (message: FromLane) => this.take(message));
    this.worker.on('error', (error) => this.settle?.reject(error));
  }

  private next(): Promise<void> {
    return new Promise((resolve, reject) => {
      this.settle = { resolve, reject };
    });
  }

  private take(message: FromLane): void {
    switch (message.type) {
      case 'up':
        this.settle?.resolve();
        break;
      case 'moved':
        this.moved();
        break;
      case 'step':
        this.hear(message);
        break;
      case 'done':
        this.hear(message);
        this.settle?.resolve();
        break;
      case 'failed': {
        const { path, code, message: text } = message;
        const error = Object.assign(new Error(text), { code });
        this.settle?.reject(new EngineError(fileErrorMessage(error, path), { cause: error }));
      }
    }
  }

  /** Resolves when the job has come to its end. @throws EngineError where its file cannot be read */
  do(job: ToLane): Promise<void> {
    const done = this.next();
    this.worker.postMessage(job);
    return done;
  }

  /** It ends by itself: a decoder under work may not be pulled away. */
  end(): Promise<void> {
    return new Promise((resolve) => {
      this.worker.once('exit', () => resolve());
      this.worker.postMessage({ type: 'end' } satisfies ToLane);
    });
  }
}

/**
 * Opens a timeline as an editor is shown it: headers of what its first picture needs and that picture, then the thumbnails and the
 * sound peaks of all its clips, several clips at a time.
 */
export class OpeningRun {
  private readonly stopWord = new SharedArrayBuffer(4);
  private readonly begun = new SharedArrayBuffer(8);
  private first: OpeningStep | null = null;
  private readonly clips: OpenedClip[];
  private readonly laneClips: readonly LaneClip[];
  private readonly shown: readonly LaneClip[];
  private readonly slot: number;
  private toldMs = 0;

  constructor(
    private readonly opened: OpenTimeline,
    private readonly source: TimelineSpec,
    private readonly settings: OpeningSettings,
    /** Of `openingLane`, bundled. */
    private readonly lanePath: URL,
    private readonly onRecord: (record: OpeningRecord) => void,
    private readonly onProgress: (progress: TimelineTrialProgress) => void,
  ) {
    const { timeline, media } = source;
    const { slot, shown } = firstShown(timeline, new Set(opened.media.keys()));
    this.slot = slot;
    const ids = Object.keys(media);
    const addresses = new Map<string, number>();
    this.laneClips = ids.map((id, index) => {
      const { path, volumeId, setup, rate } = media[id] as (typeof media)[string];
      const addressBase = addresses.get(volumeId) ?? 0;
      addresses.set(volumeId, addressBase + opened.bytesOf(id));
      const packets = opened.tables.get(id);
      if (!packets) throw new EngineError(`${path} was not read fully. Scan its volume again.`);
      return { index, path, volumeId, addressBase, setup, rate, packets };
    });
    this.shown = this.laneClips.filter(({ index }) => shown.has(ids[index] ?? ''));
    this.clips = ids.map((id) => ({
      name: timeline.media[id]?.name ?? id,
      isFirst: shown.has(id),
      header: null,
      pictures: null,
      sound: null,
      problem: null,
      lane: null,
    }));
  }

  /** Ends the run between two pictures or blocks of sound. */
  stop(): void {
    Atomics.store(new Int32Array(this.stopWord), 0, 1);
    Atomics.notify(new Int32Array(this.stopWord), 0);
  }

  private get isStopped(): boolean {
    return Atomics.load(new Int32Array(this.stopWord), 0) !== 0;
  }

  /** @throws EngineError where a file cannot be read, or the first picture cannot be made */
  async run(): Promise<void> {
    const { timeline } = this.source;
    const { threads } = this.settings;
    const lanes = this.startLanes();
    const raster = playbackRaster(timeline, 'full');
    const access = new SlotAccess(
      timeline,
      this.opened.media,
      new SlotProcessor(raster, this.opened.files, threads),
      threads,
    );
    try {
      await Promise.all(lanes.map(({ up }) => up));
      new Float64Array(this.begun)[0] = monotonicUs();
      const [lane] = lanes as [Lane, ...Lane[]];
      for (const clip of this.shown) if (!this.isStopped) await this.on(0, clip, lane, 'header');
      if (!this.isStopped) await this.showFirst(access);
      await this.openAll(lanes);
    } finally {
      this.stop();
      this.tell(true);
      await Promise.all(lanes.map((lane) => lane.end()));
      await access.close();
    }
  }

  private startLanes(): Lane[] {
    const models = this.models();
    return Array.from({ length: this.settings.lanes }, (_, lane) => {
      const { threads } = this.settings;
      const start: LaneStart = { lane, threads, models, stop: this.stopWord, begun: this.begun };
      return new Lane(
        this.lanePath,
        start,
        (message) => this.hear(message),
        () => this.tellProgress(),
      );
    });
  }

  /** Models of the simulated volumes, which all lanes ask by turns. */
  private models(): LaneStart['models'] {
    const { media } = this.source;
    return Object.fromEntries(
      Object.values(media).flatMap(({ volumeId, standIn }) => {
        if (!standIn) return [];
        const bytes = Object.keys(media)
          .filter((id) => media[id]?.volumeId === volumeId)
          .reduce((sum, id) => sum + this.opened.bytesOf(id), 0);
        const shared = sharedModel(standIn, this.settings.lanes, bytes);
        return [[volumeId, { shared, lock: new SharedArrayBuffer(4) }] as const];
      }),
    );
  }

  private async showFirst(access: SlotAccess): Promise<void> {
    const fromMs = this.nowMs();
    const fetched = await access.fetch(this.slot);
    if (!fetched) return;
    access.release(fetched.picture);
    this.first = { fromMs, toMs: this.nowMs(), readMs: fetched.readUs / 1000, bytes: fetched.bytes };
    this.tell();
  }

  /** Every clip on the lane that is free first; those whose header is open on the first one, which begins with them. */
  private async openAll(lanes: readonly Lane[]): Promise<void> {
    const open = new Set(this.shown);
    const waiting = this.laneClips.filter((clip) => !open.has(clip));
    await Promise.all(
      lanes.map(async (lane, at) => {
        for (const clip of at === 0 ? this.shown : [])
          if (!this.isStopped && !this.clips[clip.index]?.problem) await this.on(at, clip, lane, 'whole');
        for (let clip = waiting.shift(); clip && !this.isStopped; clip = waiting.shift())
          await this.on(at, clip, lane, 'whole');
      }),
    );
  }

  private on(at: number, clip: LaneClip, lane: Lane, type: 'header' | 'whole'): Promise<void> {
    this.change(clip.index, { lane: at });
    return lane.do({ type, clip });
  }

  private change(index: number, change: Partial<OpenedClip>): void {
    const clip = this.clips[index];
    if (clip) this.clips[index] = { ...clip, ...change };
  }

  private hear(message: Extract<FromLane, { type: 'step' | 'done' }>): void {
    if (message.type === 'step') this.change(message.index, { [message.part]: message.step });
    else if (message.problem !== null) this.change(message.index, { problem: message.problem });
    this.tell();
  }

  private nowMs(): number {
    return (monotonicUs() - (new Float64Array(this.begun)[0] as number)) / 1000;
  }

  private tell(isLast = false): void {
    this.tellProgress();
    if (!isLast && Date.now() - this.toldMs < tellEveryMs) return;
    this.toldMs = Date.now();
    this.onRecord({ lanes: this.settings.lanes, first: this.first, clips: [...this.clips] });
  }

  private tellProgress(): void {
    const done = this.clips.filter(({ problem, pictures }) => problem !== null || pictures).length;
    const total = this.clips.length;
    const share = total > 0 ? done / total : 0;
    this.onProgress({
      share,
      note: this.first
        ? `${done} of ${total} ${total === 1 ? 'clip' : 'clips'} with thumbnails, first picture after ${Math.round(this.first.toMs)} ms`
        : 'reaching the first picture',
      msLeft: done > 0 ? (this.nowMs() * (1 - share)) / share : null,
    });
  }
}
