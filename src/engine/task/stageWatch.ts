import { taskStages, type TaskStage } from '@/core/tasks/pipeline';
import { shareTimes } from '@/core/tasks/shareTimes';
import type { StageWindows, TaskWindows } from '@/core/tasks/windows';
import { monotonicUs } from '../clock';
import { processorTimes } from '../rig';
import type { ThreadOwners } from './threadOwners';

/** Length of the windows of a short task. */
export const shortestWindowMs = 500;
/** Windows that a task keeps at most: of longer ones two become one, and those that follow are as long. */
const mostWindows = 600;

type Growing<Columns> = { -readonly [Key in keyof Columns]: number[] };

/** Watches what the stages of a task do, window by window. Each stage has one frame in hand at a time. */
export class StageWatch {
  private readonly columns = {
    endUs: [] as number[],
    othersCores: [] as number[],
    bytesRead: [] as number[],
    bytesWritten: [] as number[],
  };
  private readonly stages = Object.fromEntries(
    taskStages.map((stage) => [stage, { frames: [], busyUs: [], coreUs: [], waitUs: [] }]),
  ) as unknown as Record<TaskStage, Growing<StageWindows>>;
  private readonly frames: Record<TaskStage, number> = {
    read: 0,
    decode: 0,
    process: 0,
    encode: 0,
    write: 0,
  };
  private readonly busyUs: Record<TaskStage, number> = {
    read: 0,
    decode: 0,
    process: 0,
    encode: 0,
    write: 0,
  };
  /** Of that, what a stand-in only waited: no thread worked for it. */
  private readonly sleptUs = new Map<TaskStage, number>();
  /** Since when a stage has been at work; absent while it waits. */
  private readonly since = new Map<TaskStage, number>();
  private startUs = monotonicUs();
  private lastUs = this.startUs;
  private lastTimes: ReturnType<ThreadOwners['times']>;
  private lastRig = processorTimes();
  private lastOwn = process.cpuUsage();
  private bytes = { read: 0, written: 0 };
  private windowUs = shortestWindowMs * 1000;
  /** The stage with most to do in the last window. */
  busiest: TaskStage | null = null;

  constructor(private readonly owners: ThreadOwners) {
    this.lastTimes = owners.times();
  }

  /** What comes before is not counted. */
  begin(): void {
    this.startUs = this.lastUs = monotonicUs();
    this.lastTimes = this.owners.times();
    this.lastRig = processorTimes();
    this.lastOwn = process.cpuUsage();
  }

  /** Work that a stage does. */
  async busy<Value>(stage: TaskStage, work: () => Promise<Value>): Promise<Value> {
    this.since.set(stage, monotonicUs());
    try {
      return await work();
    } finally {
      this.settle(stage, monotonicUs());
      this.since.delete(stage);
    }
  }

  private settle(stage: TaskStage, nowUs: number): void {
    const since = this.since.get(stage);
    if (since === undefined) return;
    this.busyUs[stage] += nowUs - since;
    this.since.set(stage, nowUs);
  }

  /** A stage is done with a frame, or with one of which so many are made later. */
  passed(stage: TaskStage, bytes = 0, frames = 1): void {
    this.frames[stage] += frames;
    if (stage === 'read') this.bytes.read += bytes;
  }

  /** A stage had a frame in hand for so long, and nothing worked on it. */
  slept(stage: TaskStage, us: number): void {
    this.sleptUs.set(stage, (this.sleptUs.get(stage) ?? 0) + us);
  }

  wrote(bytes: number): void {
    this.bytes.written += bytes;
  }

  done(stage: TaskStage): number {
    return this.frames[stage];
  }

  /** Ends the window that runs if it is as long as it should be. Returns whether it was. @param isLast it ends whatever its length */
  next(isLast = false): boolean {
    const nowUs = monotonicUs();
    if (!isLast && nowUs - this.lastUs < 0.9 * this.windowUs) return false;
    for (const stage of taskStages) this.settle(stage, nowUs);
    const times = this.owners.times();
    const shared = shareTimes(times, this.lastTimes, this.calledUs());
    this.sleptUs.clear();
    this.columns.endUs.push(Math.round(nowUs - this.startUs));
    this.columns.othersCores.push(this.othersCores(nowUs));
    this.columns.bytesRead.push(this.bytes.read);
    this.columns.bytesWritten.push(this.bytes.written);
    for (const stage of taskStages) {
      const column = this.stages[stage];
      column.frames.push(this.frames[stage]);
      column.busyUs.push(Math.round(this.busyUs[stage]));
      column.coreUs.push(Math.round(shared[stage].coreUs));
      column.waitUs.push(Math.round(shared[stage].waitUs));
    }
    this.busiest = taskStages.reduce((most, stage) =>
      this.busyUs[stage] > this.busyUs[most] ? stage : most,
    );
    for (const stage of taskStages) this.busyUs[stage] = 0;
    this.bytes = { read: 0, written: 0 };
    this.lastUs = nowUs;
    this.lastTimes = times;
    if (this.columns.endUs.length >= mostWindows) this.join();
    return true;
  }

  /** Time in which each stage had a frame in hand that something worked on. */
  private calledUs(): Record<TaskStage, number> {
    const called = { ...this.busyUs };
    for (const [stage, us] of this.sleptUs) called[stage] = Math.max(0, called[stage] - us);
    return called;
  }

  /** Makes one window of every two. */
  private join(): void {
    const { endUs, othersCores, bytesRead, bytesWritten } = this.columns;
    const lengths = endUs.map((end, at) => end - (endUs[at - 1] ?? 0));
    const taken = othersCores.map((cores, at) => cores * (lengths[at] ?? 0));
    keepSums(taken);
    keepSums(bytesRead);
    keepSums(bytesWritten);
    keepEnds(endUs);
    othersCores.splice(
      0,
      othersCores.length,
      ...taken.map((coreUs, at) => coreUs / Math.max(1, (endUs[at] ?? 0) - (endUs[at - 1] ?? 0))),
    );
    for (const stage of taskStages) {
      const { frames, busyUs, coreUs, waitUs } = this.stages[stage];
      keepEnds(frames);
      for (const column of [busyUs, coreUs, waitUs]) keepSums(column);
    }
    this.windowUs *= 2;
  }

  private othersCores(nowUs: number): number {
    const [rig, own] = [processorTimes(), process.cpuUsage()];
    const ownUs = own.user + own.system - this.lastOwn.user - this.lastOwn.system;
    const othersUs = (rig.busyMs - this.lastRig.busyMs) * 1000 - ownUs;
    this.lastRig = rig;
    this.lastOwn = own;
    return Math.max(0, Math.round((othersUs / Math.max(1, nowUs - this.lastUs)) * 1000) / 1000);
  }

  get windows(): TaskWindows {
    return { ...this.columns, stages: this.stages };
  }
}

/** Every two values become their sum. */
function keepSums(column: number[]): void {
  for (let at = 0; at < column.length; at += 2) column[at / 2] = (column[at] ?? 0) + (column[at + 1] ?? 0);
  column.length = Math.ceil(column.length / 2);
}

/** Of every two values the later one stays. */
function keepEnds(column: number[]): void {
  for (let at = 0; at < column.length; at += 2) column[at / 2] = column[at + 1] ?? column[at] ?? 0;
  column.length = Math.ceil(column.length / 2);
}
