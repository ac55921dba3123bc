import { normalize } from 'node:path';
import type { InferType } from '@/core/edge/strict';
import { copyInput } from '@/core/kinds/copy';
import { listCopyFiles } from '@/db/queries/storageRecords';
import { RequestError } from '../platform/errors';
import { requireVolume } from '../library/library';
import { plainFolder } from '../platform/paths';
import { storageTrial } from '../library/storage';
import { queueTrial } from '../platform/trialQueue';
import type { KindServer } from './kind';
import { linesCsv } from './shared/lines';

/** Queues a copy of a card's folder. Returns its id. */
export async function startCopy({
  volumeId,
  folder,
  destinations,
  verify,
}: InferType<typeof copyInput>): Promise<string> {
  const source = await requireVolume(volumeId);
  const from = plainFolder(folder, 'folder');
  const targets = await Promise.all(
    destinations.map(async (target, index) => {
      const volume = await requireVolume(target.volumeId);
      if (!volume.facts.writable)
        throw new RequestError(
          'destination-read-only',
          { name: volume.name },
          `destinations[${index}].volumeId`,
        );
      return {
        path: `${volume.path}/${plainFolder(target.folder, `destinations[${index}].folder`)}`,
        settings: {
          volumeId: volume.id,
          volumeName: volume.name,
          folder: plainFolder(target.folder, `destinations[${index}].folder`),
          simulated: volume.standIn !== null,
        },
      };
    }),
  );
  const paths = [`${source.path}/${from}`, ...targets.map(({ path }) => path)].map(
    (path) => `${normalize(path).replace(/\/$/, '')}/`,
  );
  if (paths.some((path, index) => paths.some((other, at) => at !== index && path.startsWith(other)))) {
    throw new RequestError('copy-into-itself', {}, 'destinations');
  }
  const settings = {
    kind: 'copy' as const,
    folder: from,
    destinations: targets.map((target) => target.settings),
    verify,
  };
  return queueTrial(storageTrial(source, settings, null));
}

export const copy: KindServer<'copy'> = {
  start: async (input) => [await startCopy(input)],
  csv: async ({ id }) => linesCsv((await listCopyFiles(id)).map((file) => ({ ...file }))),
  resumes: {
    from: ['paused', 'interrupted', 'crashed', 'hung', 'failed', 'cancelled'],
    hasMore: () => Promise.resolve(true),
  },
};
