import type { InferType } from '@/core/edge/strict';
import { verificationInput } from '@/core/kinds/verification';
import { listCheckedFiles } from '@/db/queries/storageRecords';
import { requireHashList } from '../library/hashLists';
import { requireVolume } from '../library/library';
import { storageTrial } from '../library/storage';
import { plainFolder } from '../platform/paths';
import { queueTrial } from '../platform/trialQueue';
import type { KindServer } from './kind';
import { linesCsv } from './shared/lines';

/** Queues holding a folder against a hash list. Returns its id. */
async function startVerification({
  volumeId,
  folder,
  listId,
}: InferType<typeof verificationInput>): Promise<string> {
  const volume = await requireVolume(volumeId);
  const { name, list } = await requireHashList(listId);
  const settings = {
    kind: 'verification' as const,
    folder: folder === '' ? '' : plainFolder(folder, 'folder'),
    list: {
      id: listId,
      name,
      form: list.form,
      files: list.files.length,
      createdAt: list.createdAt,
      by: list.by,
    },
  };
  return queueTrial(storageTrial(volume, settings, null));
}

export const verification: KindServer<'verification'> = {
  start: async (input) => [await startVerification(input)],
  csv: async ({ id }) => linesCsv((await listCheckedFiles(id)).map((file) => ({ ...file }))),
  resumes: {
    from: ['paused', 'interrupted', 'crashed', 'hung', 'failed', 'cancelled'],
    hasMore: () => Promise.resolve(true),
  },
};
