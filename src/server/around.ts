import { planOfTrial } from '@/db/queries/plans';
import { getAnnotations } from '@/db/queries/results';
import { listSamples } from '@/db/queries/trials';

/** What stands around a result of any kind: what the rig did meanwhile, the series or matrix it belongs to, and what people noted. */
export async function readAround(trialId: string) {
  const [samples, plan, notes] = await Promise.all([
    listSamples(trialId),
    planOfTrial(trialId),
    getAnnotations([trialId]),
  ]);
  const note = notes.get(trialId);
  return { samples, plan, annotation: note ? { note: note.note, excluded: note.excluded } : null };
}
export type Around = Awaited<ReturnType<typeof readAround>>;
