import { trialKinds, type TrialKind } from '@/core/kinds/kinds';
import { listPlans } from '@/db/queries/plans';
import { listRigs } from '@/db/queries/rigs';
import { listTrials, newestTrials } from '@/db/queries/trials';
import { currentRigId } from './rig';
import { namesOf } from './trialNames';

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

const mostSingle = 500;
/** Kinds whose rows are light: those of playback, which may be many, are read apart. */
const others = trialKinds.filter((kind) => kind !== 'playback' && kind !== 'self-check');

/** Series, matrices and single trials of all rigs, newest first. */
export async function readCompareChoices(): Promise<CompareChoice[]> {
  const here = await currentRigId();
  const rigs = await listRigs();
  const plans = (await listPlans(here)).map((plan): CompareChoice => ({
    token: `p.${plan.id}`,
    kind: plan.cells > 1 ? 'matrix' : 'series',
    name: plan.name,
    volume: '',
    simulated: false,
    rig: rigs.find(({ id }) => id === here)?.name ?? '',
    at: plan.createdAt.toISOString(),
    runs: plan.ended,
  }));
  const singles = await Promise.all(
    rigs.map(async ({ id: rigId, name: rig }): Promise<CompareChoice[]> => {
      const [played, rest] = await Promise.all([
        newestTrials(rigId, mostSingle),
        listTrials({ rigId, kinds: others, statuses: ['done'] }),
      ]);
      const base = (row: { readonly id: string; readonly createdAt: Date; readonly simulated: boolean }) => ({
        token: `t.${row.id}`,
        rig,
        at: row.createdAt.toISOString(),
        runs: 1,
        simulated: row.simulated,
      });
      return [
        ...played.map((row): CompareChoice => ({
          ...base(row),
          kind: 'playback',
          name: `${row.name}, ${row.scale} scale`,
          volume: row.volume,
        })),
        ...rest.map((row): CompareChoice => {
          const { subject, volumes, how } = namesOf(row);
          return {
            ...base(row),
            kind: row.kind,
            name: [subject, how].filter(Boolean).join(', '),
            volume: volumes.join(', '),
          };
        }),
      ];
    }),
  );
  return [...plans, ...singles.flat()].sort((a, b) => b.at.localeCompare(a.at));
}
