import 'server-only';
import { together } from '@/core/together';
import type { TrialKind } from '@/core/kinds/kinds';
import type { TrialRow } from '@/db/kinds';
import { listAttempts, type Attempt } from '@/db/queries/trials';
import { listRenditionItems, type RenditionItemRow } from '@/db/queries/renditions';
import { getRig } from '@/db/queries/rigs';
import { listCheckedFiles, listCopyFiles } from '@/db/queries/storageRecords';
import type { ImportedRig } from '@/db/schema';
import { readAround, type Around } from './around';
import type { CheckedFile, CopiedFile } from '@/core/storage/copiedFile';
import { requireTrial } from '../platform/trialQueue';

/** A trial with all that is kept of it, but for traces and requests, which are told apart. */
export interface TrialPage<Kind extends TrialKind = TrialKind> extends Around {
  readonly trial: TrialRow<Kind>;
  readonly rig: { readonly name: string; readonly imported: ImportedRig | null };
  /** All attempts at the same, this one among them, the first first. */
  readonly attempts: readonly Attempt[];
  /** Files of a verification; empty for other kinds. */
  readonly checked: CheckedFile[];
  /** Files of a copy; empty for other kinds. */
  readonly files: CopiedFile[];
  /** Clips of a batch of renditions; empty for other kinds. */
  readonly items: RenditionItemRow[];
}

/**
 * What a trial's page shows besides what it draws of its record.
 * @throws RequestError where there is no such trial, or it is none of these kinds
 */
export async function readTrialPage<Kind extends TrialKind = TrialKind>(
  id: string,
  kinds: readonly Kind[] | null = null,
): Promise<TrialPage<Kind>> {
  const trial = await requireTrial(id, kinds);
  const { around, attempts, rig, files, checked, items } = await together({
    around: readAround(id),
    attempts: listAttempts(trial),
    rig: getRig(trial.rigId),
    files: trial.kind === 'copy' ? listCopyFiles(id) : [],
    checked: trial.kind === 'verification' ? listCheckedFiles(id) : [],
    items: trial.kind === 'renditions' ? listRenditionItems(id) : [],
  });
  return {
    trial,
    ...around,
    attempts,
    rig: { name: rig?.name ?? 'unknown rig', imported: rig?.imported ?? null },
    files,
    checked,
    items,
  };
}
