import { Worker } from 'node:worker_threads';
import { monotonicUs } from '../clock';
import { fileError } from '../errors';
import {
  controlViews,
  createControl,
  RecordRing,
  runState,
  type Actor,
  type BlockRecord,
  type FromWorker,
  type SharedModel,
  type WorkerStart,
} from './blockShared';

const drainMs = 50;

/** Readers and writers that start together, each in a thread of its own. */
export class ActorRun {
  private readonly control = createControl();
  private readonly views = controlViews(this.control);

  /**
   * @param workerPath the thread's script
   * @param onRecord told every request, with its actor, in bundles some 50 ms apart
   * @param onStart told t0 on the monotonic clock
   * @param onUp told of every thread that has come up
   */
  constructor(
    private readonly actors: readonly Actor[],
    private readonly shared: SharedModel | null,
    private readonly workerPath: URL,
    private readonly onRecord: (actor: Actor, record: BlockRecord) => void,
    private readonly onStart: (startUs: number) => void,
    private readonly onUp: () => void = () => undefined,
  ) {}

  /** Ends the run at each actor's next block. */
  stop(): void {
    Atomics.store(this.views.state, 0, runState.stopped);
    Atomics.notify(this.views.state, 0);
  }

  /** Resolves when all actors have ended. @throws EngineError with the first failure, naming the file */
  async run(): Promise<void> {
    const rings = this.actors.map(() => RecordRing.create());
    const readers = rings.map((ring) => new RecordRing(ring));
    const drain = () =>
      this.actors.forEach((actor, index) => readers[index]?.drain((record) => this.onRecord(actor, record)));
    const timer = setInterval(drain, drainMs);
    const workers = this.actors.map((actor, index) =>
      this.startWorker(actor, rings[index] as SharedArrayBuffer),
    );
    const ended = Promise.all(workers.map((worker) => worker.ended));
    ended.catch(() => this.stop());
    try {
      await Promise.race([Promise.all(workers.map((worker) => worker.up)), ended]);
      this.begin();
      await ended;
    } finally {
      this.stop();
      clearInterval(timer);
      await Promise.all(workers.map((worker) => worker.ended.catch(() => undefined)));
      drain();
    }
  }

  private begin(): void {
    this.views.start[0] = monotonicUs();
    this.onStart(this.views.start[0]);
    // A run that was stopped before it began stays stopped.
    Atomics.compareExchange(this.views.state, 0, runState.waiting, runState.running);
    Atomics.notify(this.views.state, 0);
  }

  private startWorker(actor: Actor, ring: SharedArrayBuffer) {
    const worker = new Worker(this.workerPath, {
      workerData: { actor, shared: this.shared, control: this.control, ring } satisfies WorkerStart,
    });
    let isUp: () => void = () => undefined;
    const up = new Promise<void>((resolve) => {
      isUp = resolve;
    });
    const ended = new Promise<void>((resolve, reject) => {
      worker.on('message', (message: FromWorker) => {
        if (message.type === 'up') {
          this.onUp();
          isUp();
        } else
          reject(fileError(Object.assign(new Error(message.message), { code: message.code }), actor.path));
      });
      worker.once('error', reject);
      worker.once('exit', () => resolve());
    });
    return { up, ended };
  }
}
