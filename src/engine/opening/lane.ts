import { Worker } from 'node:worker_threads';
import { monotonicUs } from '../clock';
import { fileError } from '../errors';
import type { FromLane, LaneStart, ToLane } from './laneShared';

export type LaneHeard = Extract<FromLane, { type: 'step' | 'done' }>;

/** What lanes that belong together are told beside their jobs: from when times count, and that all are to end. */
export class LaneSignals {
  readonly stop = new SharedArrayBuffer(4);
  readonly begun = new SharedArrayBuffer(8);
  private readonly stopWord = new Int32Array(this.stop);
  private readonly beginUs = new Float64Array(this.begun);

  begin(): void {
    this.beginUs[0] = monotonicUs();
  }

  /** Since the beginning, µs. */
  get us(): number {
    return monotonicUs() - (this.beginUs[0] as number);
  }

  /** Lanes end their jobs between two pictures or blocks of sound. */
  end(): void {
    Atomics.store(this.stopWord, 0, 1);
    Atomics.notify(this.stopWord, 0);
  }

  get isEnded(): boolean {
    return Atomics.load(this.stopWord, 0) !== 0;
  }
}

/** A thread that opens clips, one at a time. */
export class Lane {
  /** Resolves when the thread takes jobs. */
  readonly up: Promise<void>;
  private settle: { resolve: () => void; reject: (error: unknown) => void } | null = null;
  private readonly worker: Worker;
  private readonly gone: Promise<void>;

  /** @param path of `openingLane`, bundled */
  constructor(
    path: URL,
    signals: LaneSignals,
    how: Pick<LaneStart, 'threads' | 'direct'>,
    private readonly hear: (message: LaneHeard) => void,
    private readonly moved: () => void = () => undefined,
  ) {
    const { stop, begun } = signals;
    this.worker = new Worker(path, { workerData: { ...how, stop, begun } satisfies LaneStart });
    this.up = this.next();
    this.gone = new Promise((resolve) => {
      this.worker.once('exit', () => resolve());
    });
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
        this.settle?.reject(fileError(error, path));
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
    this.worker.postMessage({ type: 'end' } satisfies ToLane);
    return this.gone;
  }
}
