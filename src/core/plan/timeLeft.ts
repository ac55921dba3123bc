import { median } from '../stats/quantiles';

export const stepStatuses = ['waiting', 'running', 'done', 'failed', 'skipped', 'cancelled'] as const;
export type StepStatus = (typeof stepStatuses)[number];

/** One run of a plan with what it was expected to take and, once it ended, took; ms. */
export interface TimedStep {
  readonly status: StepStatus;
  readonly expectedMs: number;
  readonly tookMs: number | null;
  /** ms that a running step has run. */
  readonly runningMs?: number | null;
}

/**
 * Time a plan still needs: what its waiting runs were expected to take, corrected
 * by the median of took over expected among those that ended. The median keeps
 * one odd run from making the figure jump; ended runs count, not the clock.
 */
export function planMsLeft(steps: readonly TimedStep[]): number {
  const ratios = steps.flatMap(({ status, tookMs, expectedMs }) =>
    status === 'done' && tookMs !== null && expectedMs > 0 ? [tookMs / expectedMs] : [],
  );
  const correction = ratios.length > 0 ? median(ratios) : 1;
  let left = 0;
  for (const { status, expectedMs, runningMs } of steps) {
    if (status === 'waiting') left += expectedMs * correction;
    if (status === 'running') left += Math.max(0, expectedMs * correction - (runningMs ?? 0));
  }
  return left;
}
