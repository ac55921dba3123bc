/** What every frame of a task goes through, in this order. */
export const taskStages = ['read', 'decode', 'process', 'encode', 'write'] as const;
export type TaskStage = (typeof taskStages)[number];

/** Frames that may wait behind each stage but the last. */
export type StageRooms = Readonly<Record<Exclude<TaskStage, 'write'>, number>>;

/** What one stage asks for. */
export interface StageWork {
  /** Time of each frame with nothing else at work, µs. */
  readonly soloUs: Float64Array;
  /** Cores that it uses while it works so. */
  readonly cores: number;
}

/** What a task asks for, and what it gets. */
export interface TaskWork {
  readonly stages: Readonly<Record<TaskStage, StageWork>>;
  readonly rooms: StageRooms;
  /** Cores that others leave it. */
  readonly cores: number;
}

/** A stage is done with a frame where this little is left of it, µs. */
const leastLeftUs = 1e-6;

/**
 * How long a task takes, µs: stages in a row, each with one frame in hand and room for some behind it, a full one holding
 * back the stage before. Stages that together want more cores than there are share them max-min fairly (Bertsekas and
 * Gallager, Data Networks, 6.5.2) and slow down by what they lack.
 */
export function simulateTask({ stages, rooms, cores }: TaskWork): number {
  const rows = taskStages.map((stage) => stages[stage]);
  const room = taskStages.map((stage) => (stage === 'write' ? Infinity : rooms[stage]));
  const frames = rows[0]?.soloUs.length ?? 0;
  const next = rows.map(() => 0);
  const left = rows.map(() => 0);
  const waiting = rows.map(() => 0);
  const state: ('idle' | 'busy' | 'full')[] = rows.map(() => 'idle');
  let nowUs = 0;

  /** Lets stages put away and take what they can; from the last on, so that room that is made is used. */
  const settle = () => {
    for (let moved = true; moved;) {
      moved = false;
      for (let at = rows.length - 1; at >= 0; at--) {
        if (state[at] === 'full' && (waiting[at] as number) < (room[at] as number)) {
          waiting[at] = (waiting[at] as number) + 1;
          state[at] = 'idle';
          moved = true;
        }
        const isThere = at === 0 || (waiting[at - 1] as number) > 0;
        if (state[at] !== 'idle' || !isThere || (next[at] as number) >= frames) continue;
        if (at > 0) waiting[at - 1] = (waiting[at - 1] as number) - 1;
        left[at] = rows[at]?.soloUs[next[at] as number] ?? 0;
        next[at] = (next[at] as number) + 1;
        state[at] = 'busy';
        moved = true;
      }
    }
  };

  for (;;) {
    settle();
    const wanted = rows.map((row, at) => (state[at] === 'busy' ? row.cores : 0));
    const speeds = fairSpeeds(wanted, cores);
    let stepUs = Infinity;
    for (let at = 0; at < rows.length; at++)
      if (state[at] === 'busy') stepUs = Math.min(stepUs, (left[at] as number) / (speeds[at] as number));
    if (stepUs === Infinity) return nowUs;
    nowUs += stepUs;
    for (let at = 0; at < rows.length; at++) {
      if (state[at] !== 'busy') continue;
      left[at] = (left[at] as number) - stepUs * (speeds[at] as number);
      if ((left[at] as number) <= leastLeftUs) state[at] = 'full';
    }
  }
}

/** The speed of each stage, 0 to 1, where all together want more cores than there are: who wants less than an even share gets all of it. */
function fairSpeeds(wanted: readonly number[], cores: number): number[] {
  const total = wanted.reduce((sum, one) => sum + one, 0);
  if (total <= cores) return wanted.map(() => 1);
  const speeds = wanted.map(() => 1);
  let free = cores;
  const open = wanted.map((_, at) => at).filter((at) => (wanted[at] as number) > 0);
  open.sort((a, b) => (wanted[a] as number) - (wanted[b] as number));
  open.forEach((at, done) => {
    const share = Math.min(wanted[at] as number, free / (open.length - done));
    speeds[at] = share / (wanted[at] as number);
    free -= share;
  });
  return speeds;
}
