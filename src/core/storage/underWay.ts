import type { CombinedFigures, RateFigures } from './throughput';

/** Requests that one reader may have under way. */
export const mostUnderWay = 64;

/** Numbers of requests under way that a staircase tries, in order. */
export const stairs: readonly number[] = [1, 2, 4, 8, 16, 32, mostUnderWay];

/** Of the best rate, so much counts as all of it: steps that differ by less are alike from run to run. */
const nearlyAll = 0.95;

/** What a volume gave with so many requests under way. */
export interface StairStep {
  readonly underWay: number;
  readonly figures: RateFigures;
}

/** How a volume's rate grows with the requests that are under way. */
export interface Staircase {
  readonly steps: readonly StairStep[];
  /** The fewest requests under way that give nearly all that any number gave. */
  readonly needed: number;
}

/** @returns null where nothing was read */
export function staircaseOf(steps: readonly StairStep[]): Staircase | null {
  const best = steps.reduce((most, { figures }) => Math.max(most, figures.sustained), 0);
  const enough = steps.find(({ figures }) => figures.sustained >= nearlyAll * best);
  return enough && best > 0 ? { steps, needed: enough.underWay } : null;
}

/** The figures that a staircase stands for in lists: those of the step that is needed. */
export function figuresOfStaircase({ steps, needed }: Staircase): CombinedFigures | null {
  const step = steps.find(({ underWay }) => underWay === needed);
  return step ? { ...step.figures, spread: null } : null;
}
