import type { TrialKind } from '@/core/kinds/kinds';
import { getTrial, saveRecord, updateTrial } from '@/db/queries/trials';
import type { TrialChange, TrialRow, TrialStatus } from '@/db/kinds';
import { EngineError } from '@/engine/errors';
import type { ProcessName, ProcessTypes } from '@/engine/processes';
import { announce, type LiveProgress } from '../platform/events';
import { kindRunners } from './kinds';
import type { LoadMeter, LoadSample } from './shared/loadMeter';
import { beginMeasuring, noteLoad, sampleIntervalMs } from './shared/measuring';
import type { MediaReader } from './shared/mediaReader';
import { retryWhileAway } from './shared/retryWhileAway';
import type { PictureServer } from './pictureServer';
import { WatchedProcess, type BadEnd, type ProcessEnd, type WatchedOptions } from './shared/watchedProcess';
import type { RigConditions } from '@/core/kinds/shared/conditions';

/** What runs need of the runner. */
export interface RunParts {
  readonly processPath: (name: ProcessName) => string;
  readonly pictures: PictureServer;
  readonly reader: MediaReader;
  readonly watchdogMs: number;
  /** Told the process id of the running trial, null when it ended. */
  readonly onTrialPid: (pid: number | null) => void;
}

/** How a trial ended. */
export type TrialEnd =
  | { readonly kind: 'done' | 'paused' }
  | BadEnd
  | { readonly kind: 'interrupted'; readonly message: string };

/** What a kind makes of what was saved. `outcome` is the answer, or why there is none. */
export interface Judged<Kind extends TrialKind> {
  readonly summary: TrialRow<Kind>['summary'];
  readonly outcome: string | null;
}

/** The end of a trial as its kind judges it: its status, and what is said of an end that is no success. */
export interface Ending {
  readonly status: TrialStatus;
  readonly outcome: string | null;
  readonly load: TrialRow['load'];
}

/** How the runner takes a kind of trial to its end. */
export interface KindRunner<Kind extends TrialKind> {
  /** @throws EngineError saying why it cannot begin */
  prepare(trial: TrialRow<Kind>): Promise<PreparedRun<Kind>>;
  /** Judges what was saved: of finished runs and, after a restart, of orphaned ones. */
  judge(trial: TrialRow<Kind>, ending: Ending): Promise<Judged<Kind>>;
  /** Removes what it may have left, however it ended. */
  clearAway?(trial: TrialRow<Kind>): Promise<void>;
  /** What is said of a trial whose runner died. */
  readonly interrupted?: string;
}

export interface PreparedRun<Kind extends TrialKind> {
  /** What it reads from and writes to. */
  readonly volumeIds: readonly (string | null | undefined)[];
  /** Its conditions besides those of the rig. */
  readonly conditions?: Omit<NonNullable<TrialRow<Kind>['conditions']>, keyof RigConditions>;
  /** What has to be made before, of which nothing is measured. Null: it can begin. @throws EngineError saying why it cannot */
  before?(run: TrialRun<Kind>): Promise<TrialEnd | null>;
  /** @throws EngineError saying why it cannot go on */
  measure(run: TrialRun<Kind>): Promise<Measured<Kind>>;
}

export interface Measured<Kind extends TrialKind> {
  readonly end: TrialEnd;
  readonly peakMemoryBytes?: number;
  /** Judges with what is known only now and is not kept. */
  judge?(trial: TrialRow<Kind>, ending: Ending): Promise<Judged<Kind>>;
}

/** Takes one queued trial to its end: measures in processes of its own, saves as it goes, then judges. */
export class TrialRun<Kind extends TrialKind = TrialKind> {
  private readonly processes = new Set<WatchedProcess<ProcessName>>();
  private trial: TrialRow<Kind> | null = null;
  private saving: Promise<void> = Promise.resolve();
  private progress: TrialRow<Kind>['progress'] = null;
  private savedProgress: TrialRow<Kind>['progress'] = null;
  private wished: 'cancel' | 'pause' | null = null;
  private meter: LoadMeter | null = null;
  /** Told every sample of the rig's load, null where none could be taken. */
  onSample: (sample: LoadSample | null) => void = () => undefined;

  constructor(
    readonly trialId: string,
    readonly parts: RunParts,
  ) {}

  /** What it was asked to do before its end. */
  get wish(): 'cancel' | 'pause' | null {
    return this.wished;
  }

  /** Null before it has begun. */
  get kind(): TrialKind | null {
    return this.trial?.kind ?? null;
  }

  get load(): LoadMeter | null {
    return this.meter;
  }

  get conditions(): TrialRow<Kind>['conditions'] {
    return this.trial?.conditions ?? null;
  }

  cancel(): void {
    this.wished = 'cancel';
    for (const process of this.processes) process.cancel();
  }

  pause(): void {
    this.wished ??= 'pause';
    for (const process of this.processes) process.pause();
  }

  setViewers(count: number): void {
    for (const process of this.processes) process.send({ type: 'viewers', count });
  }

  async run(): Promise<void> {
    const trial = await retryWhileAway(() => getTrial(this.trialId));
    const begun = {
      status: 'running',
      startedAt: trial?.startedAt ?? new Date(),
      outcome: null,
      detail: null,
    } as const;
    if (!trial || !(await retryWhileAway(() => updateTrial(trial.id, ['queued'], begun)))) return;
    this.trial = { ...trial, ...begun } as unknown as TrialRow<Kind>;
    announce({ type: 'trial-status', ...namedIn(trial), status: 'running' });
    const runner = kindRunners[trial.kind] as unknown as KindRunner<Kind>;
    const measured = await this.measure(runner, this.trial).catch(failed<Kind>);
    await closeTrial(
      { ...this.trial, progress: this.progress ?? this.trial.progress },
      measured.end,
      this.meter?.summary(measured.peakMemoryBytes ?? null) ?? null,
      measured,
    );
  }

  private async measure(runner: KindRunner<Kind>, trial: TrialRow<Kind>): Promise<Measured<Kind>> {
    const prepared = await retryWhileAway(() => runner.prepare(trial));
    const end = (await prepared.before?.(this)) ?? null;
    if (end) return { end };
    const { conditions, load } = await beginMeasuring(
      trial.rigId,
      () => [...this.processes].flatMap(({ pid }) => pid ?? []),
      prepared.volumeIds,
    );
    this.meter = load;
    // Saved before anything is measured: a trial that ends badly still says under what.
    this.condition({ ...conditions, ...prepared.conditions });
    await this.saving;
    const sampler = setInterval(() => this.sample(load), sampleIntervalMs);
    try {
      const measured = await prepared.measure(this);
      await this.saving;
      return measured;
    } finally {
      clearInterval(sampler);
      // None is left but where something failed beside it.
      for (const process of this.processes) process.cancel();
      this.parts.onTrialPid(null);
    }
  }

  /** Starts a process that measures, under watch, and waits for its end. */
  async perform<Name extends ProcessName>(
    name: Name,
    spec: ProcessTypes[Name]['spec'],
    options: Partial<WatchedOptions<Name>> & Pick<WatchedOptions<Name>, 'onMessage'>,
  ): Promise<ProcessEnd<Name>> {
    const { processPath, watchdogMs, onTrialPid } = this.parts;
    const process = new WatchedProcess(name, processPath(name), spec, { watchdogMs, ...options });
    const known = process as unknown as WatchedProcess<ProcessName>;
    this.processes.add(known);
    onTrialPid(process.pid);
    if (this.wished === 'cancel') process.cancel();
    else if (this.wished === 'pause') process.pause();
    try {
      return await process.ended;
    } finally {
      this.processes.delete(known);
    }
  }

  /** Saves in order, one after the other; a database that is away holds the row back, not the trial. */
  save(step: () => Promise<unknown>): void {
    this.saving = this.saving.then(() => retryWhileAway(step)).then(() => undefined);
    this.saving.catch(() => this.cancel());
  }

  /** Changes what is known of the conditions, and saves it. */
  condition(change: Partial<NonNullable<TrialRow<Kind>['conditions']>>): void {
    if (!this.trial) return;
    const conditions = { ...this.trial.conditions, ...change } as TrialRow<Kind>['conditions'];
    this.trial = { ...this.trial, conditions };
    this.save(() => updateTrial(this.trialId, ['running'], { conditions }));
  }

  /** Adds to what was measured, and saves it. */
  keep(record: NonNullable<TrialRow<Kind>['record']>): void {
    if (!this.trial) return;
    this.trial = { ...this.trial, record };
    this.save(() => saveRecord(this.trialId, record));
  }

  /** Tells pages how far it is. */
  tell(progress: LiveProgress): void {
    announce({ type: 'trial-progress', trialId: this.trialId, progress });
  }

  /** What pages that come back find of how far it is; saved with the next sample. */
  reach(progress: NonNullable<TrialRow<Kind>['progress']>): void {
    this.progress = progress;
  }

  private sample(load: LoadMeter): void {
    this.onSample(noteLoad(this.trialId, load));
    const { progress } = this;
    if (progress === this.savedProgress || !progress) return;
    this.savedProgress = progress;
    updateTrial(this.trialId, ['running'], { progress }).catch(() => undefined);
  }
}

/** What could not begin or go on, with why; what is unforeseen fails that trial and no other. */
function failed<Kind extends TrialKind>(error: unknown): Measured<Kind> {
  if (error instanceof EngineError) return { end: { kind: 'failed', message: error.message, detail: '' } };
  const detail = error instanceof Error ? (error.stack ?? error.message) : String(error);
  process.stderr.write(`${detail}\n`);
  return {
    end: { kind: 'failed', message: 'Something failed inside Navvy. Start the trial again.', detail },
  };
}

const namedIn = ({ id, kind, volumeIds }: Pick<TrialRow, 'id' | 'kind' | 'volumeIds'>) => ({
  trialId: id,
  kind,
  volumeIds,
});

/** Writes a trial's end: judges what was saved, and clears away what lies about. Serves finished runs and, after a restart, orphaned ones. Returns whether this call ended it. */
export async function closeTrial<Kind extends TrialKind>(
  trial: TrialRow<Kind>,
  end: TrialEnd,
  load: TrialRow['load'],
  { judge }: Pick<Measured<Kind>, 'judge'> = {},
): Promise<boolean> {
  const runner = kindRunners[trial.kind] as unknown as KindRunner<Kind>;
  await runner.clearAway?.(trial);
  const status: TrialStatus = end.kind;
  const said =
    'message' in end ? end.message : { cancelled: 'Cancelled.', paused: 'Paused.', done: null }[end.kind];
  const ending = { status, outcome: said, load };
  const judged = judge ? await judge(trial, ending) : await runner.judge(trial, ending);
  const change: TrialChange = {
    status,
    ...judged,
    detail: 'detail' in end ? end.detail : null,
    load,
    conditions: trial.conditions,
    progress: trial.progress,
    endedAt: new Date(),
  };
  const reached = await retryWhileAway(() => updateTrial(trial.id, ['queued', 'running'], change));
  if (reached) announce({ type: 'trial-status', ...namedIn(trial), status });
  return reached;
}

/** Closes a trial that was running when its runner died, with what it saved. */
export async function closeOrphan(id: string): Promise<void> {
  const trial = await retryWhileAway(() => getTrial(id));
  if (!trial) return;
  const { interrupted } = kindRunners[trial.kind];
  await closeTrial(
    trial,
    { kind: 'interrupted', message: interrupted ?? 'The runner stopped while this trial ran.' },
    trial.load,
  );
}
