import { taskStages, type StageRooms, type StageWork, type TaskStage, type TaskWork } from './pipeline';

/** What one stage did in each window of a task, by column. */
export interface StageWindows {
  /** Frames that it was done with by the end of the window, from the beginning. */
  readonly frames: readonly number[];
  /** Time in which it had a frame in hand, µs. */
  readonly busyUs: readonly number[];
  /** Processor time of its threads, µs. */
  readonly coreUs: readonly number[];
  /** Time in which its threads were ready to run and had no core, µs. */
  readonly waitUs: readonly number[];
}

/** A task as it was watched, window by window, by column: the record that all its figures are made of. */
export interface TaskWindows {
  /** Ends of the windows, µs since the work began. */
  readonly endUs: readonly number[];
  /** Cores that other processes, or the host, took. */
  readonly othersCores: readonly number[];
  readonly bytesRead: readonly number[];
  readonly bytesWritten: readonly number[];
  readonly stages: Readonly<Record<TaskStage, StageWindows>>;
}

const noStage: StageWindows = { frames: [], busyUs: [], coreUs: [], waitUs: [] };
export const noWindows: TaskWindows = {
  endUs: [],
  othersCores: [],
  bytesRead: [],
  bytesWritten: [],
  stages: { read: noStage, decode: noStage, process: noStage, encode: noStage, write: noStage },
};

/** What is known of a task's pipeline besides its windows. */
export interface TaskFacts {
  readonly rooms: StageRooms;
  /** Cores of the rig. */
  readonly cores: number;
  /** Threads that work for each stage at most. */
  readonly threads: Readonly<Record<TaskStage, number>>;
}

export const sum = (values: readonly number[]) => values.reduce((total, value) => total + value, 0);

/**
 * What the stages of a watched task asked for. A stage's time alone is the time in which it had a frame in hand, without what it
 * was held up for lack of a core; but never less than its processor time over its threads, because codecs with threads work on while
 * nobody waits for them. The time of a window is spread evenly over the frames that were done in it.
 * @param heldUp share of its threads' waits for cores that held a stage up, 0 to 1: threads that wait in the background hold up nobody
 * @returns null where no frame came through
 */
export function workOf(
  windows: TaskWindows,
  { rooms, cores, threads }: TaskFacts,
  heldUp: number,
): TaskWork | null {
  const frames = windows.stages.write.frames.at(-1) ?? 0;
  if (frames === 0) return null;
  const stages = Object.fromEntries(
    taskStages.map((stage) => [
      stage,
      stageWork(windows.stages[stage], frames, Math.max(1, Math.min(cores, threads[stage])), heldUp),
    ]),
  ) as Record<TaskStage, StageWork>;
  return { stages, rooms, cores: Math.max(cores / 10, cores - othersCores(windows)) };
}

/** Cores that others took, over all windows by their length. */
function othersCores({ endUs, othersCores: others }: TaskWindows): number {
  const lengths = endUs.map((end, at) => end - (endUs[at - 1] ?? 0));
  return sum(lengths.map((us, at) => us * (others[at] ?? 0))) / Math.max(1, sum(lengths));
}

function stageWork(
  { frames: done, busyUs, coreUs, waitUs }: StageWindows,
  frames: number,
  most: number,
  heldUp: number,
): StageWork {
  const [busy, core, waited] = [sum(busyUs), sum(coreUs), sum(waitUs)];
  const side = Math.max(1, (core + waited) / Math.max(1, busy)); // threads that ran or wanted to at once
  const alone = busyUs.map((us, at) => {
    const lackedUs = (heldUp * (waitUs[at] ?? 0)) / side;
    return Math.max(us - lackedUs, (coreUs[at] ?? 0) / most, 0);
  });
  const total = sum(alone);
  return { soloUs: spread(alone, done, frames), cores: total > 0 ? Math.min(most, core / total) : 0 };
}

/** Gives each frame an even part of what its window took; what a window without a frame took goes to the next that has some. */
function spread(us: readonly number[], done: readonly number[], frames: number): Float64Array {
  const each = new Float64Array(frames);
  let kept = 0;
  let from = 0;
  us.forEach((took, at) => {
    kept += took;
    const to = Math.min(frames, done[at] ?? from);
    if (to <= from) return;
    each.fill(kept / (to - from), from, to);
    kept = 0;
    from = to;
  });
  if (kept > 0 && frames > 0) each[frames - 1] = (each[frames - 1] as number) + kept;
  return each;
}

/** Frames that came through all stages, a second, over time, window by window. */
export function ratesOf({
  endUs,
  stages,
}: TaskWindows): { readonly atS: number; readonly framesPerSecond: number }[] {
  return endUs.map((end, at) => {
    const begin = endUs[at - 1] ?? 0;
    const frames = (stages.write.frames[at] ?? 0) - (stages.write.frames[at - 1] ?? 0);
    return { atS: end / 1e6, framesPerSecond: end > begin ? (frames * 1e6) / (end - begin) : 0 };
  });
}
