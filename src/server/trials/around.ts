import 'server-only';
import { thinned } from '@/core/rig/thinned';
import { planOfTrial, type PlanOfTrial } from '@/db/queries/plans';
import { getAnnotations } from '@/db/queries/results';
import { listSamples, type SampleRow } from '@/db/queries/trials';

export interface Around {
  /** In the order of time; of hours, neighbours are taken together. */
  readonly samples: readonly SampleRow[];
  readonly plan: PlanOfTrial | null;
  readonly annotation: { readonly note: string; readonly excluded: string | null } | null;
}

/** Samples that a page draws at most. */
const mostSamples = 2_000;

/** What stands around a result of any kind: what the rig did meanwhile, the series or matrix it belongs to, and what people noted. */
export async function readAround(trialId: string): Promise<Around> {
  const [samples, plan, notes] = await Promise.all([
    listSamples(trialId),
    planOfTrial(trialId),
    getAnnotations([trialId]),
  ]);
  const note = notes.get(trialId);
  return {
    samples: thinned(samples, mostSamples),
    plan,
    annotation: note ? { note: note.note, excluded: note.excluded } : null,
  };
}
