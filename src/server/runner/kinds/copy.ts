import { join } from 'node:path';
import type { CopyResult } from '@/core/storage/copy';
import { getVolume } from '@/db/queries/volumes';
import { listCopyFiles } from '@/db/queries/storageRecords';
import { removePartials } from '@/engine/storage/copyFiles';
import type { StorageSpec, VolumeAccess } from '@/engine/storage/spec';
import { removeTestFiles } from '@/engine/storage/testFile';
import { assertInside } from '@/engine/volume';
import { softwareVersion } from '../../platform/version';
import { retryWhileAway } from '../shared/retryWhileAway';
import type { KindRunner } from '../trialRun';
import { accessOf, performStorage, plainConditions } from './shared/storage';

/** A folder of a volume, that no link leads out of. */
async function below(volume: VolumeAccess, folder: string): Promise<VolumeAccess> {
  const path = join(volume.path, folder);
  await assertInside(volume.path, path);
  return { ...volume, path };
}

/** Copies a card's folder to one or several volumes; goes on where it was stopped. */
export const copy: KindRunner<'copy'> = {
  async prepare(trial) {
    const { settings, volumeIds, subject } = trial;
    const spec: StorageSpec = {
      kind: 'copy',
      trialId: trial.id,
      source: await below(await accessOf(subject.volumeId), settings.folder),
      destinations: await Promise.all(
        settings.destinations.map(async ({ volumeId, folder }) => below(await accessOf(volumeId), folder)),
      ),
      verify: settings.verify,
      softwareVersion: softwareVersion(),
      finished: await retryWhileAway(() => listCopyFiles(trial.id)),
    };
    return {
      volumeIds,
      conditions: plainConditions,
      measure: async (run) => {
        const end = await performStorage(run, spec, trial);
        // What a cancelled or paused copy had done.
        const done: CopyResult | null = end.last?.copy ?? null;
        return { end, judge: (_, { outcome }) => Promise.resolve({ summary: done, outcome }) };
      },
    };
  },
  judge: (_, { outcome }) => Promise.resolve({ summary: null, outcome }),
  interrupted:
    'The runner stopped while this ran. Continue it: files that are whole stay, and it goes on after them.',
  async clearAway({ id, settings, subject }) {
    await removeTestFiles(subject.volumePath, id);
    for (const { volumeId, folder } of settings.destinations) {
      const volume = await retryWhileAway(() => getVolume(volumeId));
      if (volume) await removePartials(join(volume.path, folder), id);
    }
  },
};
