import { trialKinds, type TrialKind } from '@/core/kinds/kinds';
import { listPlans } from '@/db/queries/plans';
import { listRigNames } from '@/db/queries/rigs';
import { listTrialLines } from '@/db/queries/trialList';
import { currentRigId } from '../platform/rig';

/** Something that can be laid beside another: a series, a matrix, or a single trial. */
export interface CompareChoice {
  readonly token: string;
  readonly kind: 'series' | 'matrix' | TrialKind;
  readonly name: string;
  readonly volume: string;
  readonly simulated: boolean;
  readonly rig: string;
  readonly at: string;
  readonly runs: number;
}

/** A self-check is of the rig, not of what was played. */
const compared = trialKinds.filter((kind) => kind !== 'self-check');
/** Newest results that can be chosen by themselves; older ones are found under Trials. */
const mostSingle = 1_000;

/** Series, matrices and single trials of all rigs, newest first. */
export async function readCompareChoices(): Promise<CompareChoice[]> {
  const here = await currentRigId();
  const [rigs, plans, singles] = await Promise.all([
    listRigNames(),
    listPlans(here),
    listTrialLines({ kinds: compared, statuses: ['done'] }, mostSingle),
  ]);
  const rigName = (id: string) => rigs.find((rig) => rig.id === id)?.name ?? '';
  return [
    ...plans.map((plan): CompareChoice => ({
      token: `p.${plan.id}`,
      kind: plan.cells > 1 ? 'matrix' : 'series',
      name: plan.name,
      volume: '',
      simulated: false,
      rig: plan.rigName,
      at: plan.createdAt.toISOString(),
      runs: plan.ended,
    })),
    ...singles.map((line): CompareChoice => ({
      token: `t.${line.id}`,
      kind: line.kind,
      name: [line.name, line.how].filter(Boolean).join(', '),
      volume: line.volumeNames.join(', '),
      simulated: line.simulated,
      rig: rigName(line.rigId),
      at: line.createdAt.toISOString(),
      runs: 1,
    })),
  ].sort((a, b) => b.at.localeCompare(a.at));
}
