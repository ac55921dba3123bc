import { join } from 'node:path';
import type { VerificationResult } from '@/core/storage/heldAgainst';
import { listCheckedFiles } from '@/db/queries/storageRecords';
import type { StorageSpec } from '@/engine/storage/spec';
import { assertInside } from '@/engine/volume';
import { requireHashList } from '../../library/hashLists';
import { retryWhileAway } from '../shared/retryWhileAway';
import type { KindRunner } from '../trialRun';
import { accessOf, performStorage, plainConditions } from './shared/storage';

/** Holds a folder against a hash list; goes on where it was stopped. */
export const verification: KindRunner<'verification'> = {
  async prepare(trial) {
    const { settings, volumeIds, subject } = trial;
    const access = await accessOf(subject.volumeId);
    const path = join(access.path, settings.folder);
    await assertInside(access.path, path);
    const { list } = await retryWhileAway(() => requireHashList(settings.list.id));
    const spec: StorageSpec = {
      kind: 'verification',
      trialId: trial.id,
      volume: { ...access, path },
      list,
      listName: settings.list.name,
      finished: await retryWhileAway(() => listCheckedFiles(trial.id)),
    };
    return {
      volumeIds,
      conditions: plainConditions,
      measure: async (run) => {
        const end = await performStorage(run, spec, trial);
        const done: VerificationResult | null = end.last?.verification ?? null;
        return { end, judge: (_, { outcome }) => Promise.resolve({ summary: done, outcome }) };
      },
    };
  },
  judge: (_, { outcome }) => Promise.resolve({ summary: null, outcome }),
  interrupted: 'The runner stopped while this ran. Continue it: files that were read are not read again.',
};
