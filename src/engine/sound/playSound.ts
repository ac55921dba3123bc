import { Worker } from 'node:worker_threads';
import { soundState } from '@/core/playback/sound';
import type { Trace } from '@/core/playback/trace';
import { createSoundShared, soundViews, type FromSound, type SoundJob, type ToSound } from './soundShared';

/** A run's sound, as its player sees it. */
export interface PlaySound {
  /** All that is worked out ahead is there, or there is no more. */
  readonly isFilled: boolean;
  /** Resolves when all is worked out, or it was ended. */
  readonly ended: Promise<void>;
  /** t0 is known, on the monotonic clock, µs. */
  begin(startUs: number): void;
  /** So many slots were shown, or their time is over. */
  passed(slots: number): void;
  /** Whether it is known what a slot's sound came to. */
  isSettled(slot: number): boolean;
  /** Writes what the sound of slots from `from` on came to into a trace of them. */
  note(trace: Trace, from: number): void;
  /** Ends it; slots whose sound is not there are given up. */
  stop(): Promise<void>;
}

/** A thread that works out a run's sound, up before what a person waits for begins. */
export class SoundThread {
  private readonly gone: Promise<void>;

  private constructor(private readonly worker: Worker) {
    this.gone = new Promise((resolve) => {
      worker.once('exit', () => resolve());
    });
  }

  /** Resolves when it is up. @param path of `soundWorker`, bundled */
  static async open(path: URL): Promise<SoundThread> {
    const worker = new Worker(path);
    await new Promise((resolve, reject) => {
      worker.once('message', resolve);
      worker.once('error', reject);
    });
    return new SoundThread(worker);
  }

  /** Begins with the sound of a run, as far ahead as that goes; null: it ends. */
  start(job: SoundJob | null): RunSound | null {
    if (job) return new RunSound(job, this.worker, this.gone);
    this.worker.postMessage(null);
    return null;
  }
}

/** A run's sound, worked out on a thread of its own. */
export class RunSound implements PlaySound {
  private readonly views: ReturnType<typeof soundViews>;
  /** Why it came to an end before the run; null where it did not. */
  problem: string | null = null;

  constructor(
    private readonly job: SoundJob,
    worker: Worker,
    readonly ended: Promise<void>,
  ) {
    const shared = createSoundShared(job.slotCount);
    this.views = soundViews(shared);
    worker.on('error', (error) => this.fail(error.message));
    worker.on('message', (message: FromSound) => {
      if (message.type === 'failed') this.fail(message.message);
    });
    worker.postMessage({ job, shared } satisfies ToSound);
  }

  /** What is left is given up at once: nothing waits for it. */
  private fail(problem: string): void {
    this.problem ??= problem;
    this.giveUp();
  }

  private giveUp(): void {
    const { state, done } = this.views;
    for (let slot = Atomics.load(done, 0); slot < this.job.slotCount; slot++)
      Atomics.compareExchange(state, slot, soundState.silent, soundState.underRun);
    Atomics.store(done, 0, this.job.slotCount);
  }

  get isFilled(): boolean {
    const { ahead, slotCount } = this.job;
    return Atomics.load(this.views.done, 0) >= Math.min(ahead, slotCount);
  }

  begin(startUs: number): void {
    this.views.timing[0] = startUs;
  }

  passed(slots: number): void {
    Atomics.store(this.views.passed, 0, slots);
    Atomics.notify(this.views.passed, 0);
  }

  isSettled(slot: number): boolean {
    return Atomics.load(this.views.state, slot) !== soundState.silent;
  }

  note(trace: Trace, from: number): void {
    const { state, readUs, decodeUs, mixUs, bytes } = this.views;
    const to = from + trace.length;
    trace.soundReadUs.set(readUs.subarray(from, to));
    trace.soundDecodeUs.set(decodeUs.subarray(from, to));
    trace.soundMixUs.set(mixUs.subarray(from, to));
    trace.soundBytes.set(bytes.subarray(from, to));
    trace.sound.set(state.subarray(from, to));
  }

  async stop(): Promise<void> {
    Atomics.store(this.views.stop, 0, 1);
    Atomics.notify(this.views.stop, 0);
    Atomics.notify(this.views.passed, 0);
    await this.ended;
    this.giveUp();
  }
}
