import { quantity } from '@/core/format';
import { fork, type ChildProcess } from 'node:child_process';
import { availableParallelism } from 'node:os';
import { threadsInWords } from '@/engine/activity';
import {
  progressOf,
  type Failed,
  type Finished,
  type ProcessName,
  type ProcessTypes,
} from '@/engine/processes';

/** Ends of a measuring process that are no success. */
export type BadEnd =
  | { readonly kind: 'cancelled' }
  | { readonly kind: 'failed'; readonly message: string; readonly detail: string }
  | { readonly kind: 'crashed'; readonly message: string }
  | { readonly kind: 'hung'; readonly message: string; readonly detail: string };

/** How a measuring process ended, with its last word where it had one. */
export type ProcessEnd<Name extends ProcessName = ProcessName> =
  | { readonly kind: 'done' | 'paused'; readonly last: LastWord<Name> }
  | (BadEnd & { readonly last?: LastWord<Name> });
export type LastWord<Name extends ProcessName> = Extract<ProcessTypes[Name]['says'], Finished>;

export interface WatchedOptions<Name extends ProcessName> {
  readonly watchdogMs: number;
  /** Keep it and all its threads on the first core. */
  readonly pinned?: boolean;
  /** Requests to storage that it has under way at once, besides other work; each takes a thread. */
  readonly underWay?: number;
  readonly onMessage: (message: Exclude<ProcessTypes[Name]['says'], Finished | Failed>) => void;
}

/** How long a process may take to go once it was asked to or has said its last word, ms. */
const graceMs = 2_000;
/** Calls that a process may have under way at once; streams side by side need one each. */
const threadPoolSize = Math.max(8, 2 * availableParallelism());

/** One measuring process under watch: it is killed when it makes no progress for the watchdog's time. */
export class WatchedProcess<Name extends ProcessName> {
  private readonly child: ChildProcess;
  private lastProgressMs = Date.now();
  private lastMark: unknown = null;
  private cancelling = false;
  /** How it ended, as soon as that is known. */
  private end: ProcessEnd<Name> | null = null;
  readonly ended: Promise<ProcessEnd<Name>>;

  constructor(
    private readonly name: Name,
    path: string,
    spec: ProcessTypes[Name]['spec'],
    private readonly options: WatchedOptions<Name>,
  ) {
    const { watchdogMs, pinned = false, underWay = 1 } = options;
    const pin = pinned ? { execPath: 'taskset', execArgv: ['--cpu-list', '0', process.execPath] } : {};
    this.child = fork(path, [], {
      serialization: 'advanced',
      env: { ...process.env, UV_THREADPOOL_SIZE: String(threadPoolSize + (underWay > 1 ? underWay : 0)) },
      stdio: ['ignore', 'ignore', 'inherit', 'ipc'],
      ...pin,
    });
    this.child.on('message', (message) => this.onMessage(message as ProcessTypes[Name]['says']));
    const watchdog = setInterval(() => this.checkProgress(watchdogMs), Math.min(500, watchdogMs / 4));
    this.ended = new Promise((resolve) => {
      this.child.once('error', (error) => {
        this.end ??= { kind: 'crashed', message: `The trial process could not be started: ${error.message}` };
      });
      let late: NodeJS.Timeout | undefined;
      const gone = (code: number | null, signal: NodeJS.Signals | null) => {
        clearInterval(watchdog);
        clearTimeout(late);
        resolve(this.end ?? this.crash(code, signal));
      };
      this.child.once('close', gone);
      // What it said last arrives before `close`, which a channel held open elsewhere keeps from coming.
      this.child.once('exit', (code, signal) => {
        late = setTimeout(() => gone(code, signal), graceMs);
      });
    });
    this.send({ type: 'start', spec });
  }

  get pid(): number | null {
    return this.child.pid ?? null;
  }

  /** Asks the process to stop at its next boundary, and ends it if it does not. */
  cancel(): void {
    this.cancelling = true;
    this.send({ type: 'cancel' });
    setTimeout(() => {
      if (this.child.exitCode !== null) return;
      this.end ??= { kind: 'cancelled' };
      this.child.kill('SIGKILL');
    }, graceMs).unref();
  }

  /** Asks a process that can go on later to stop at its next boundary; any other is cancelled. */
  pause(): void {
    if (progressOf[this.name].pauses) this.send({ type: 'pause' });
    else this.cancel();
  }

  send(message: object): void {
    if (this.child.connected) this.child.send(message, () => undefined);
  }

  private onMessage(message: ProcessTypes[Name]['says']): void {
    if (message.type === 'failed') {
      this.saidLast({ kind: 'failed', message: message.message, detail: message.detail });
      return;
    }
    if (message.type === 'finished') {
      const last = message as LastWord<Name>;
      const { stopped }: Finished = last;
      this.saidLast({ kind: stopped ?? 'done', last });
      return;
    }
    const mark = (progressOf[this.name].mark as (message: ProcessTypes[Name]['says']) => unknown)(message);
    if (mark !== undefined && (typeof mark === 'symbol' || mark !== this.lastMark))
      this.lastProgressMs = Date.now();
    if (mark !== undefined) this.lastMark = mark;
    this.options.onMessage(message as Exclude<ProcessTypes[Name]['says'], Finished | Failed>);
  }

  /** Nothing more is to come: it need not be waited for long. */
  private saidLast(end: ProcessEnd<Name>): void {
    this.end = end;
    setTimeout(() => {
      if (this.child.exitCode === null) this.child.kill('SIGKILL');
    }, graceMs).unref();
  }

  private checkProgress(watchdogMs: number): void {
    const idleMs = Date.now() - this.lastProgressMs;
    if (idleMs < watchdogMs || this.child.exitCode !== null) return;
    this.end ??= {
      kind: 'hung',
      message: `No ${progressOf[this.name].piece} moved for ${quantity(idleMs / 1000, 's', 0)}, so the trial process was ended.`,
      detail: this.child.pid === undefined ? '' : threadsInWords(this.child.pid),
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

/** Calls what is given for the type of a message; messages of other types go unheard. */
export function hear<Says extends { readonly type: string }>(handlers: {
  readonly [Type in Says['type']]?: (message: Extract<Says, { readonly type: Type }>) => unknown;
}): (message: Says) => void {
  const byType = new Map(Object.entries(handlers)) as Map<string, (message: Says) => unknown>;
  return (message) => void byType.get(message.type)?.(message);
}
