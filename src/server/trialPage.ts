import type { TrialKind } from '@/core/kinds/kinds';
import { listRenditionItems } from '@/db/queries/renditions';
import { getRig } from '@/db/queries/rigs';
import { listCopyFiles } from '@/db/queries/storageRecords';
import { readAround } from './around';
import { requireTrial } from './trialControls';

/**
 * What a trial's page shows besides what it draws of its record.
 * @throws RequestError where there is no such trial, or it is none of these kinds
 */
export async function readTrialPage<Kind extends TrialKind = TrialKind>(
  id: string,
  kinds: readonly Kind[] | null = null,
) {
  const trial = await requireTrial(id, kinds);
  const [around, rig, files, items] = await Promise.all([
    readAround(id),
    getRig(trial.rigId),
    trial.kind === 'copy' ? listCopyFiles(id) : [],
    trial.kind === 'renditions' ? listRenditionItems(id) : [],
  ]);
  return {
    trial,
    ...around,
    rig: { name: rig?.name ?? 'unknown rig', imported: rig?.imported ?? null },
    files,
    items,
  };
}

export type TrialPage<Kind extends TrialKind = TrialKind> = Awaited<ReturnType<typeof readTrialPage<Kind>>>;
