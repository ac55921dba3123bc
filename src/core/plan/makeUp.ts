import { groupBy } from '../groups';

/** A run of a plan as making up for it needs it. */
export interface EndedStep {
  readonly cell: number;
  readonly status: 'waiting' | 'running' | 'done' | 'failed' | 'cancelled' | 'skipped';
  /** Others disturbed it, or the machine was unsteady. */
  readonly inDoubt: boolean;
  /** Its result was marked as one that does not count. */
  readonly excluded: boolean;
}

/** What is made up for: runs in doubt, or runs that left no result that counts. */
export type MakeUp = 'in-doubt' | 'missing';

const isOpen = ({ status }: EndedStep) => status === 'waiting' || status === 'running';
const isMissing = ({ status, excluded }: EndedStep) =>
  status === 'failed' || status === 'cancelled' || status === 'skipped' || (status === 'done' && excluded);
const isInDoubt = ({ status, inDoubt, excluded }: EndedStep) => status === 'done' && inDoubt && !excluded;

/**
 * The cells that runs are added to, one entry for each run, in the order of cells:
 * no more than a cell lacks of its repeats, and no more than it has of what is made up for.
 * A result in doubt serves until its own repeat is asked for.
 * @param repeats runs that each cell was to have
 * @param most runs that a cell may have beyond these
 */
export function runsToMakeUp(
  steps: readonly EndedStep[],
  repeats: number,
  what: MakeUp,
  most = Infinity,
): number[] {
  return [...groupBy(steps, ({ cell }) => cell)]
    .sort(([a], [b]) => a - b)
    .flatMap(([cell, own]) => {
      const bad = own.filter(what === 'missing' ? isMissing : isInDoubt).length;
      const serving = own.filter(
        (step) =>
          isOpen(step) || (step.status === 'done' && !step.excluded && (what === 'missing' || !step.inDoubt)),
      ).length;
      return Array.from(
        {
          length: Math.min(
            bad,
            Math.max(0, repeats - serving),
            Math.max(0, most - Math.max(0, own.length - repeats)),
          ),
        },
        () => cell,
      );
    });
}
