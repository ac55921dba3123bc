import { fileName } from '@/core/media/fileName';
import { nameOf, volumesOf } from '@/core/playback/subject';
import { listDecodeTrials } from '@/db/queries/decodeTrials';
import { listPlans } from '@/db/queries/plans';
import { listRigs } from '@/db/queries/rigs';
import { listStorageTrials } from '@/db/queries/storageTrials';
import { listTimelineTests } from '@/db/queries/timelines';
import { newestTrials } from '@/db/queries/trials';
import { currentRigId } from './rig';

/** Something that can be laid beside another: a series, a matrix, or a single trial. */
export interface CompareChoice {
  readonly token: string;
  readonly kind: 'series' | 'matrix' | 'playback' | 'storage' | 'decode' | 'scrub';
  readonly name: string;
  readonly volume: string;
  readonly simulated: boolean;
  readonly rig: string;
  readonly at: string;
  readonly runs: number;
}

const mostSingle = 500;

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
    rigs.map(async ({ id: rigId, name: rig, imported }): Promise<CompareChoice[]> => {
      const [trials, storage, decode, tests] = await Promise.all([
        newestTrials(rigId, mostSingle),
        listStorageTrials(rigId, ['throughput', 'streams']),
        listDecodeTrials(rigId, ['rate']),
        listTimelineTests(rigId, ['scrub']),
      ]);
      const model = imported?.simulated ?? false;
      const base = (row: { readonly id: string; readonly createdAt: Date }) => ({
        token: `t.${row.id}`,
        rig,
        at: row.createdAt.toISOString(),
        runs: 1,
      });
      return [
        ...trials.map((row): CompareChoice => ({
          ...base(row),
          kind: 'playback',
          name: `${row.name}, ${row.scale} scale`,
          volume: row.volume,
          simulated: model || row.simulated,
        })),
        ...storage
          .filter(({ status }) => status === 'done')
          .map((row): CompareChoice => ({
            ...base(row),
            kind: 'storage',
            name:
              row.settings.kind === 'throughput' ? row.settings.test.replace('-', ' ') : 'streams carried',
            volume: row.subject.volumeName,
            simulated: model || row.subject.standIn !== null,
          })),
        ...decode
          .filter(({ status }) => status === 'done')
          .map((row): CompareChoice => ({
            ...base(row),
            kind: 'decode',
            name: fileName(row.subject.clipPath),
            volume: '',
            simulated: model,
          })),
        ...tests
          .filter(({ status }) => status === 'done')
          .map((row): CompareChoice => ({
            ...base(row),
            kind: 'scrub',
            name: `${nameOf(row.subject)}, ${row.settings.kind === 'scrub' ? row.settings.gesture.kind : ''}`,
            volume: volumesOf(row.subject).names.join(', '),
            simulated: model || volumesOf(row.subject).simulated,
          })),
      ];
    }),
  );
  return [...plans, ...singles.flat()].sort((a, b) => b.at.localeCompare(a.at));
}
