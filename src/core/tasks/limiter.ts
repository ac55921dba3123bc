/** Stages that work at the same time, and how long each was at work, µs. */
export type StageTimes<Stage extends string> = Readonly<Record<Stage, number>>;

/** Which stage held a pipeline back. */
export interface Limiter<Stage extends string> {
  readonly stage: Stage;
  /** Share of the time in which that stage was at work, 0 to 1. */
  readonly share: number;
}

/**
 * The limiting stage of a pipeline with bounded buffers: the one that is at work
 * for most of the time, since the others wait for it.
 * @param wallUs duration of the whole
 */
export function limiterOf<Stage extends string>(
  times: StageTimes<Stage>,
  wallUs: number,
): Limiter<Stage> | null {
  const [first] = (Object.entries(times) as [Stage, number][]).sort(([, a], [, b]) => b - a);
  return first && wallUs > 0 ? { stage: first[0], share: Math.min(1, first[1] / wallUs) } : null;
}

/**
 * The number of lanes with the highest measured rate; a larger number must gain
 * at least `leastGain` to be taken, because every lane takes memory.
 * @param rates units per second with 1, 2, 3 ... lanes
 */
export function bestLanes(rates: readonly number[], leastGain = 0.03): number {
  let best = 0;
  rates.forEach((rate, index) => {
    if (rate > (rates[best] ?? 0) * (1 + leastGain)) best = index;
  });
  return best + 1;
}
