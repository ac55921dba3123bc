import { fork, type ChildProcess } from 'node:child_process';
import type { FromTrial, LiveCounters, RunConditions, RunFindings, ToTrial, TrialSpec } from '@/engine/playback/spec';

/** How a trial process ended. */
export type TrialEnd =
  | { readonly kind: 'done'; readonly cpuUs: number; readonly wallUs: number; readonly peakMemoryBytes: number }
  | { readonly kind: 'cancelled' }
  | { readonly kind: 'failed'; readonly message: string; readonly detail: string }
  | { readonly kind: 'crashed'; readonly message: string }
  | { readonly kind: 'hung'; readonly message: string };

export interface TrialListener {
  onPrepared(conditions: RunConditions, slotCount: number): void;
  /** What was measured after the run. */
  onFindings(findings: RunFindings): void;
  onBatch(batch: { from: number; count: number; data: Uint8Array }): void;
  onCounters(counters: LiveCounters): void;
  onPicture(frame: number, jpeg: Uint8Array): void;
}

const cancelGraceMs = 2_000;

/** One trial process under watch: it is killed when it makes no progress for the watchdog's time. */
export class TrialHost {
  private readonly child: ChildProcess;
  private lastProgressMs = Date.now();
  private settled = -1;
  private end: TrialEnd | null = null;
  private cancelling = false;
  readonly ended: Promise<TrialEnd>;

  constructor(trialPath: string, spec: TrialSpec, private readonly listener: TrialListener, watchdogMs: number) {
    this.child = fork(trialPath, [], { serialization: 'advanced', env: { ...process.env, UV_THREADPOOL_SIZE: '8' }, stdio: ['ignore', 'ignore', 'inherit', 'ipc'] });
    this.child.on('message', (message) => this.onMessage(message as FromTrial));
    const watchdog = setInterval(() => this.checkProgress(watchdogMs), Math.min(500, watchdogMs / 4));
    this.ended = new Promise((resolve) => {
      this.child.once('error', (error) => { this.end ??= { kind: 'crashed', message: `The trial process could not be started: ${error.message}` }; });
      this.child.once('close', (code, signal) => {
        clearInterval(watchdog);
        resolve(this.end ?? this.crash(code, signal));
      });
    });
    this.send({ type: 'start', spec });
  }

  get pid(): number | null {
    return this.child.pid ?? null;
  }

  /** Asks the trial to stop at its next stage boundary, and ends it if it does not. */
  cancel(): void {
    this.cancelling = true;
    this.send({ type: 'cancel' });
    setTimeout(() => {
      if (this.child.exitCode === null) {
        this.end ??= { kind: 'cancelled' };
        this.child.kill('SIGKILL');
      }
    }, cancelGraceMs).unref();
  }

  setViewers(count: number): void {
    this.send({ type: 'viewers', count });
  }

  private send(message: ToTrial): void {
    if (this.child.connected) this.child.send(message, () => undefined);
  }

  private onMessage(message: FromTrial): void {
    switch (message.type) {
      case 'prepared': this.progressed(); this.listener.onPrepared(message.conditions, message.slotCount); break;
      case 'findings': this.progressed(); this.listener.onFindings(message.findings); break;
      case 'batch': this.progressed(); this.listener.onBatch(message); break;
      case 'counters':
        if (message.counters.settled !== this.settled) this.progressed();
        this.settled = message.counters.settled;
        this.listener.onCounters(message.counters);
        break;
      case 'picture': this.listener.onPicture(message.frame, message.jpeg); break;
      case 'failed': this.end = { kind: 'failed', message: message.message, detail: message.detail }; break;
      case 'finished':
        this.end = message.cancelled ? { kind: 'cancelled' } : { kind: 'done', cpuUs: message.cpuUs, wallUs: message.wallUs, peakMemoryBytes: message.peakMemoryBytes };
        break;
    }
  }

  private progressed(): void {
    this.lastProgressMs = Date.now();
  }

  private checkProgress(watchdogMs: number): void {
    const idleMs = Date.now() - this.lastProgressMs;
    if (idleMs < watchdogMs || this.child.exitCode !== null) return;
    this.end ??= { kind: 'hung', message: `No frame moved for ${(idleMs / 1000).toFixed(0)} s, so the trial process was ended.` };
    this.child.kill('SIGKILL');
  }

  private crash(code: number | null, signal: NodeJS.Signals | null): TrialEnd {
    if (this.cancelling) return { kind: 'cancelled' };
    return { kind: 'crashed', message: `The trial process ended unexpectedly (${signal ? `signal ${signal}` : `exit code ${code}`}).` };
  }
}
