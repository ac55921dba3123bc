import { spawn } from 'node:child_process';
import { existsSync, readFileSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import { Worker } from 'node:worker_threads';
import { median } from '@/core/stats/quantiles';
import { sleepUs } from '../clock';
import { beatsKept, createPulseShared, pulseMode, pulseViews } from './shared';
import { coresOf } from './thread';

/** One beat: the processor time that the fixed work took, µs, and the core it ran on; -1 where that is not known. */
export interface Beat {
  readonly us: number;
  readonly core: number;
}

/** For how long the pulse is taken before a run. */
const beforeUs = 400_000;
/** Beats that it needs, and for how long it waits for them beyond that. */
const leastBefore = 8;
const longestBeforeUs = 5_000_000;
const checkUs = 20_000;

/**
 * The rig's pulse: fixed work that a thread of its own times in its own processor time, so that it tells how fast the
 * machine is at that moment and not what else wants it.
 */
export class Pulse {
  private readonly views;
  private read: number;
  private readonly worker: Worker;

  private constructor(
    path: URL,
    private readonly cores: readonly number[],
  ) {
    const shared = createPulseShared(cores);
    this.views = pulseViews(shared);
    this.read = 0;
    this.worker = new Worker(path, { workerData: shared });
    this.worker.unref();
    // Without its pulse a run is told without one.
    this.worker.on('error', () => this.set(pulseMode.unable));
  }

  /** @param path of `pulseWorker`, bundled; null where it is not there */
  static open(path: URL): Pulse | null {
    return existsSync(fileURLToPath(path)) ? new Pulse(path, allowedCores()) : null;
  }

  /**
   * The pulse before a run, µs, as a median over all cores. All cores are kept at work meanwhile, by processes that yield to all others: a
   * processor that clocks lower when all its cores work is no slower than it should be. Null where the system tells no times.
   */
  async before(): Promise<number | null> {
    const company = this.cores.map(() =>
      spawn('nice', ['-n', '19', 'sh', '-c', busyLoop], { stdio: 'ignore' }).on('error', () => undefined),
    );
    try {
      this.begin(pulseMode.before);
      await sleepUs(beforeUs);
      // Its thread may only just have begun.
      for (
        let waited = 0;
        this.isAble && this.beatsSince < leastBefore && waited < longestBeforeUs;
        waited += checkUs
      )
        await sleepUs(checkUs);
    } finally {
      this.rest();
      for (const process of company) process.kill('SIGKILL');
    }
    const times = this.take().map(({ us }) => us);
    return times.length === 0 ? null : median(times);
  }

  /** Beats until `rest`. */
  beat(): void {
    this.begin(pulseMode.beating);
  }

  rest(): void {
    this.set(pulseMode.resting);
  }

  /** The beats since they were taken last, oldest first. */
  take(): Beat[] {
    const count = Atomics.load(this.views.control, 1);
    const from = Math.max(this.read, count - beatsKept);
    this.read = count;
    return Array.from({ length: Math.max(0, count - from) }, (_, index) => {
      const at = (from + index) % beatsKept;
      return { us: this.views.us[at] as number, core: this.views.core[at] as number };
    });
  }

  async close(): Promise<void> {
    await this.worker.terminate();
  }

  private get isAble(): boolean {
    return Atomics.load(this.views.control, 0) !== pulseMode.unable;
  }

  private get beatsSince(): number {
    return Atomics.load(this.views.control, 1) - this.read;
  }

  private begin(mode: number): void {
    this.take();
    this.set(mode);
  }

  private set(mode: number): void {
    const { control } = this.views;
    if (!this.isAble) return;
    Atomics.store(control, 0, mode);
    Atomics.notify(control, 0);
  }
}

/** Ends by itself after seconds of work, should nobody be left to end it. */
const busyLoop = 'ulimit -t 3; while :; do :; done';

/** Cores that this process may use. Source: proc_pid_status(5). */
function allowedCores(): number[] {
  const list = /^Cpus_allowed_list:\s*(\S+)$/m.exec(readFileSync('/proc/self/status', 'utf8'))?.[1] ?? '0';
  return coresOf(list);
}
