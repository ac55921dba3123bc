import type { StepStatus } from '@/core/plan/timeLeft';
import type { PlanStatus } from '@/core/plan/plan';

export const planStatusWords: Record<PlanStatus, string> = {
  queued: 'waiting',
  running: 'running',
  paused: 'paused',
  done: 'done',
  cancelled: 'cancelled',
};

/** Runs in doubt that each condition may have repeated, unless another number is set. */
export const usualMostMadeUp = 2;

/** A run's state: a letter-sized shape and its word. */
export const stepMarks: Record<StepStatus, { readonly mark: string; readonly word: string }> = {
  waiting: { mark: '□', word: 'waiting' },
  running: { mark: '▸', word: 'running' },
  done: { mark: '■', word: 'done' },
  failed: { mark: '×', word: 'failed' },
  skipped: { mark: '–', word: 'skipped' },
  cancelled: { mark: '–', word: 'cancelled' },
};
