import { fork, type ChildProcess } from 'node:child_process';
import { EngineError } from '@/engine/errors';
import type { FromMedia, MediaJob, MediaResults, ToMedia } from '@/engine/library/mediaSpec';

type Kind = MediaJob['kind'];

/** A process that has to come up first may take so long before a file is to blame: a busy machine is slow to start one. */
const startUpMs = 20_000;

/** Asks a process of its own to read media, and starts another when a file has ended or stopped it. One job at a time. */
export class MediaReader {
  private child: ChildProcess | null = null;
  private isUp = false;
  private turn = 0;
  private queue: Promise<unknown> = Promise.resolve();

  constructor(
    private readonly processPath: string,
    private readonly watchdogMs: number,
  ) {}

  /**
   * Does one job.
   * @throws EngineError when the file is at fault, ended the process or kept it from going on
   */
  ask<Job extends MediaJob>(job: Job): Promise<MediaResults[Job['kind']]> {
    const next = this.queue.then(() => this.perform(job));
    this.queue = next.catch(() => undefined);
    return next as Promise<MediaResults[Job['kind']]>;
  }

  private perform(job: MediaJob): Promise<MediaResults[Kind]> {
    const child = this.started();
    const turn = ++this.turn;
    return new Promise((resolve, reject) => {
      let lastMs = Date.now();
      const settle = (act: () => void) => {
        clearInterval(watchdog);
        child.off('message', onMessage);
        child.off('close', onClose);
        act();
      };
      const watchdog = setInterval(
        () => {
          const idleMs = Date.now() - lastMs;
          if (idleMs < (this.isUp ? this.watchdogMs : Math.max(startUpMs, this.watchdogMs))) return;
          this.stop();
          settle(() => reject(new EngineError('reading-stands-still', { ms: idleMs })));
        },
        Math.min(500, this.watchdogMs / 4),
      );
      const onMessage = (message: FromMedia) => {
        if (message.turn !== turn && message.type !== 'up') return;
        lastMs = Date.now();
        if (message.type === 'done') settle(() => resolve(message.result));
        if (message.type === 'failed')
          settle(() =>
            reject(
              message.expected
                ? new EngineError('reader-failed', { reason: message.message })
                : new Error(message.message),
            ),
          );
      };
      const onClose = (code: number | null, signal: NodeJS.Signals | null) => {
        settle(() =>
          reject(
            new EngineError('reading-process-ended', {
              how: signal ? `signal ${signal}` : `exit code ${code}`,
            }),
          ),
        );
      };
      child.on('message', onMessage);
      child.once('close', onClose);
      child.send({ turn, job } satisfies ToMedia, () => undefined);
    });
  }

  private started(): ChildProcess {
    if (this.child?.connected && this.child.exitCode === null && this.child.signalCode === null)
      return this.child;
    const child = fork(this.processPath, [], {
      serialization: 'advanced',
      stdio: ['ignore', 'ignore', 'inherit', 'ipc'],
    });
    child.on('error', () => undefined); // `close` tells
    this.isUp = false;
    child.on('message', ({ type }: FromMedia) => {
      if (type === 'up') this.isUp = true;
    });
    child.unref();
    this.child = child;
    return child;
  }

  /** Ends the process; the next job starts another. */
  stop(): void {
    this.child?.kill('SIGKILL');
    this.child = null;
  }
}
