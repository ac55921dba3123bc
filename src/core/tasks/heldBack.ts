import { workOf, type TaskFacts, type TaskWindows } from './windows';
import { simulateTask, taskStages, type StageWork, type TaskStage, type TaskWork } from './pipeline';

/** What a task would have saved, shares of its time. */
export type Savings = Readonly<Record<TaskStage, number>>;

/** The least that something would have to be faster for nearly all that it can save: more would help no further. */
export interface LeastChange {
  readonly factor: number;
  readonly saved: number;
}

/** What held a task back, found by replaying it with one thing changed. */
export interface HeldBack {
  /** The stage that saves most when it takes nothing; null where none saves anything to speak of. */
  readonly stage: TaskStage | null;
  /** Stages that would have saved nearly as much: the task has no one bottleneck. */
  readonly alike: readonly TaskStage[];
  /** Saved if a stage took nothing. */
  readonly free: Savings;
  /** Saved if a stage were twice as fast. */
  readonly twice: Savings;
  readonly least: LeastChange | null;
  /** Time of the unchanged replay over the time measured: how far the rest can be believed. */
  readonly agreement: number;
}

/** Less than this is nothing to speak of. */
const leastSaved = 0.03;
/** Share of what a stage can save that counts as nearly all. */
export const nearlyAll = 0.8;
const factors = [1.1, 1.25, 1.5, 2, 2.5, 3, 4, 6, 8, 12, 16];

const faster = (work: TaskWork, stage: TaskStage, factor: number): TaskWork => {
  const { soloUs, cores } = work.stages[stage];
  const changed: StageWork = { soloUs: soloUs.map((us) => us / factor), cores };
  return { ...work, stages: { ...work.stages, [stage]: changed } };
};

/** Frames that a replay tells apart at most: of longer tasks it takes several as one, so that judging an hour takes no time. */
const mostFrames = 2_000;

/** The same work in fewer, larger pieces, with room for as many of them as hold as many frames. */
function coarse(work: TaskWork): TaskWork {
  const frames = work.stages.read.soloUs.length;
  const group = Math.ceil(frames / mostFrames);
  if (group <= 1) return work;
  const joined = (us: Float64Array) => {
    const sums = new Float64Array(Math.ceil(frames / group));
    us.forEach((value, frame) => {
      const at = Math.floor(frame / group);
      sums[at] = (sums[at] as number) + value;
    });
    return sums;
  };
  const mapped = <Key extends string, From, To>(
    record: Readonly<Record<Key, From>>,
    map: (value: From) => To,
  ) =>
    Object.fromEntries(Object.entries<From>(record).map(([key, value]) => [key, map(value)])) as Record<
      Key,
      To
    >;
  return {
    ...work,
    stages: mapped(work.stages, ({ soloUs, cores }: StageWork) => ({ soloUs: joined(soloUs), cores })),
    rooms: mapped(work.rooms, (room: number) => Math.max(1, Math.round(room / group))),
  };
}

/** Halvings in looking for what cannot be told from outside: to a hundredth. */
const halvings = 7;

/** Of its cores a task with many threads gets to use this share at least: threads wait for each other, and cores for memory. */
const leastUsed = 0.75;

/**
 * The work of a watched task such that its replay takes as long as the task did. Two things cannot be told from outside. Where the
 * cores were short, threads' waits are all for want of a core, and the cores gave a little less than they could: that share is found.
 * Where they were not, waits held nobody up but in part: that part is found. The replay adds the waiting for cores again.
 * @returns null where no frame came through
 */
export function replayedWork(windows: TaskWindows, facts: TaskFacts, measuredUs: number): TaskWork | null {
  const works = (heldUp: number, used: number) => {
    const work = workOf(windows, facts, heldUp);
    return work && coarse({ ...work, cores: work.cores * used });
  };
  const isLong = (work: TaskWork | null) => work !== null && simulateTask(work) > measuredUs;
  const withAll = works(1, 1);
  if (withAll === null || isLong(withAll)) return withAll;
  if (isLong(works(1, leastUsed))) {
    const used = halved((share) => isLong(works(1, 1 - share * (1 - leastUsed))));
    return works(1, 1 - used * (1 - leastUsed));
  }
  return works(1 - halved((share) => isLong(works(1 - share, 1))), 1);
}

/** The share, 0 to 1, from which on something holds, to a hundredth. */
function halved(holds: (share: number) => boolean): number {
  let [low, high] = [0, 1];
  for (let step = 0; step < halvings; step++) {
    const middle = (low + high) / 2;
    if (holds(middle)) high = middle;
    else low = middle;
  }
  return (low + high) / 2;
}

/**
 * @param work as `replayedWork` finds it
 * @param measuredUs time in which the frames came through, µs
 */
export function heldBack(work: TaskWork, measuredUs: number): HeldBack {
  const asItWas = simulateTask(work);
  const saved = (stage: TaskStage, factor: number) =>
    asItWas > 0 ? Math.max(0, 1 - simulateTask(faster(work, stage, factor)) / asItWas) : 0;
  const all = (factor: number) =>
    Object.fromEntries(taskStages.map((stage) => [stage, saved(stage, factor)])) as Record<TaskStage, number>;
  const [free, twice] = [all(Infinity), all(2)];
  const [most, ...others] = [...taskStages].sort((a, b) => free[b] - free[a]) as [TaskStage, ...TaskStage[]];
  const agreement = measuredUs > 0 ? asItWas / measuredUs : 1;
  if (free[most] < leastSaved) return { stage: null, alike: [], free, twice, least: null, agreement };
  const alike = others.filter((stage) => free[stage] >= free[most] * nearlyAll);
  const least = leastChange((factor) => saved(most, factor), free[most]);
  return { stage: most, alike, free, twice, least, agreement };
}

/**
 * @param saved by so many times the speed, share of the time
 * @param all that can be saved
 * @returns null where no speed that can be thought of does it
 */
export function leastChange(saved: (factor: number) => number, all: number): LeastChange | null {
  for (const factor of factors) {
    const gain = saved(factor);
    if (gain >= all * nearlyAll) return { factor, saved: gain };
  }
  return null;
}

/** Stages as sentences name them: what they do, and what does it. */
export const stageNouns: Readonly<Record<TaskStage, { readonly doing: string; readonly by: string }>> = {
  read: { doing: 'Reading', by: 'a source twice as fast' },
  decode: { doing: 'Decoding', by: 'a decoder twice as fast' },
  process: { doing: 'Processing', by: 'processing twice as fast' },
  encode: { doing: 'Encoding', by: 'an encoder twice as fast' },
  write: { doing: 'Writing', by: 'a target twice as fast' },
};
