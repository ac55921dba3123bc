import { runsToMakeUp, type MakeUp } from '@/core/plan/makeUp';
import { addPlanSteps, listPlanSteps, type PlanRow } from '@/db/queries/plans';
import { getAnnotations } from '@/db/queries/results';

/**
 * Adds runs at a plan's end for those that are in doubt or missing. What they left stays.
 * @param mostPerCell runs that a cell may have beyond its repeats
 * @returns how many it added
 */
export async function addMadeUpRuns(
  { id, settings }: PlanRow,
  what: MakeUp,
  mostPerCell = Infinity,
): Promise<number> {
  const steps = await listPlanSteps(id);
  const notes = await getAnnotations(steps.flatMap(({ trialId }) => trialId ?? []));
  const cells = runsToMakeUp(
    steps.map((step) => ({ ...step, excluded: (notes.get(step.trialId ?? '')?.excluded ?? null) !== null })),
    settings.repeats,
    what,
    mostPerCell,
  );
  const repeats = new Map<number, number>();
  for (const { cell } of steps) repeats.set(cell, (repeats.get(cell) ?? 0) + 1);
  await addPlanSteps(
    cells.map((cell, index) => {
      const repeat = repeats.get(cell) ?? 0;
      repeats.set(cell, repeat + 1);
      return { planId: id, position: steps.length + index, status: 'waiting' as const, cell, repeat };
    }),
  );
  return cells.length;
}
