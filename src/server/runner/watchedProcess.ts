import { fork, type ChildProcess } from 'node:child_process';
import { availableParallelism } from 'node:os';

/** Ends of a measuring process that are no success. */
export type BadEnd =
  | { readonly kind: 'cancelled' }
  | { readonly kind: 'failed'; readonly message: string; readonly detail: string }
  | { readonly kind: 'crashed'; readonly message: string }
  | { readonly kind: 'hung'; readonly message: string };

const cancelGraceMs = 2_000;
/** Calls that a process may have under way at once; streams side by side need one each. */
const threadPoolSize = String(Math.max(8, 2 * availableParallelism()));

/** One measuring process under watch: it is killed when it makes no progress for the watchdog's time. */
export abstract class WatchedProcess<From, To, End extends { readonly kind: string }> {
  private readonly child: ChildProcess;
  private lastProgressMs = Date.now();
  private cancelling = false;
  /** How it ended, as soon as that is known. */
  protected end: End | BadEnd | null = null;
  readonly ended: Promise<End | BadEnd>;

  /** @param piece what makes progress, in words: "frame" @param pinned keep it and all its threads on the first core */
  constructor(
    path: string,
    watchdogMs: number,
    private readonly piece: string,
    pinned = false,
  ) {
    const pin = pinned ? { execPath: 'taskset', execArgv: ['--cpu-list', '0', process.execPath] } : {};
    this.child = fork(path, [], {
      serialization: 'advanced',
      env: { ...process.env, UV_THREADPOOL_SIZE: threadPoolSize },
      stdio: ['ignore', 'ignore', 'inherit', 'ipc'],
      ...pin,
    });
    this.child.on('message', (message) => this.onMessage(message as From));
    const watchdog = setInterval(() => this.checkProgress(watchdogMs), Math.min(500, watchdogMs / 4));
    this.ended = new Promise((resolve) => {
      this.child.once('error', (error) => {
        this.end ??= { kind: 'crashed', message: `The trial process could not be started: ${error.message}` };
      });
      this.child.once('close', (code, signal) => {
        clearInterval(watchdog);
        resolve(this.end ?? this.crash(code, signal));
      });
    });
  }

  protected abstract onMessage(message: From): void;
  protected abstract askToCancel(): To;

  get pid(): number | null {
    return this.child.pid ?? null;
  }

  /** Asks the process to stop at its next boundary, and ends it if it does not. */
  cancel(): void {
    this.cancelling = true;
    this.send(this.askToCancel());
    setTimeout(() => {
      if (this.child.exitCode === null) {
        this.end ??= { kind: 'cancelled' };
        this.child.kill('SIGKILL');
      }
    }, cancelGraceMs).unref();
  }

  protected send(message: To): void {
    if (this.child.connected) this.child.send(message as object, () => undefined);
  }

  protected progressed(): void {
    this.lastProgressMs = Date.now();
  }

  private checkProgress(watchdogMs: number): void {
    const idleMs = Date.now() - this.lastProgressMs;
    if (idleMs < watchdogMs || this.child.exitCode !== null) return;
    this.end ??= {
      kind: 'hung',
      message: `No ${this.piece} moved for ${(idleMs / 1000).toFixed(0)} s, so the trial process was ended.`,
    };
    this.child.kill('SIGKILL');
  }

  private crash(code: number | null, signal: NodeJS.Signals | null): BadEnd {
    if (this.cancelling) return { kind: 'cancelled' };
    return {
      kind: 'crashed',
      message: `The trial process ended unexpectedly (${signal ? `signal ${signal}` : `exit code ${code}`}).`,
    };
  }
}
