import type { InferType } from '@/core/edge/strict';
import { size } from '@/core/format';
import { mostUnderWay, stairs } from '@/core/storage/underWay';
import { hasUnderWay, readsThrough, throughputInput } from '@/core/kinds/throughput';
import { testFileBytes } from '@/engine/storage/spec';
import { assertRoom } from '@/engine/storage/testFile';
import { inspectVolume } from '@/engine/volume';
import { neededByVolume, neededOf } from '../library/readAs';
import { hasFiles } from '@/engine/media/joinedFiles';
import { RequestError } from '../platform/errors';
import { requireVolume } from '../library/library';
import { allowedRoots } from '../library/roots';
import { blocksCsv } from '../trials/blocksCsv';
import { clipOf, storageTrial } from '../library/storage';
import { queueTrial } from '../platform/trialQueue';
import type { KindServer } from './kind';

/** Memory for the requests that are under way at once. */
const mostBytesUnderWay = 2 ** 30;

/** Queues a throughput trial. Returns its id. @throws RequestError, or EngineError where the volume cannot take its test files */
export async function startThroughput(input: InferType<typeof throughputInput>): Promise<string> {
  const { volumeId, clipId, ...figures } = input;
  const volume = await requireVolume(volumeId);
  const clip = clipId === null ? null : await clipOf(clipId, volume);
  const settings = {
    kind: 'throughput' as const,
    ...figures,
    streams: input.test === 'frame-paced' ? input.streams : 1,
    underWay: hasUnderWay(input.test) ? (input.underWay ?? neededOf([volumeId], await neededByVolume())) : 1,
    cache: readsThrough(input.test) ? input.cache : ('past' as const),
    clipId,
    clipPath: clip?.path ?? null,
  };
  if (settings.test !== 'frame-paced' && clip?.setup && hasFiles(clip.setup))
    throw new RequestError('clip-of-files-frame-paced', { path: clip.path }, 'test');
  if (settings.test === 'frame-paced' && !clip)
    throw new RequestError('frame-paced-needs-clip', {}, 'clipId');
  const most = settings.test === 'staircase' ? mostUnderWay : settings.underWay;
  if (most * settings.blockBytes > mostBytesUnderWay)
    throw new RequestError(
      'too-much-under-way',
      { requests: most, block: size(settings.blockBytes), most: size(mostBytesUnderWay) },
      settings.test === 'staircase' ? 'blockBytes' : 'underWay',
    );
  if (settings.test === 'staircase' && settings.bytes < stairs.length * settings.blockBytes)
    throw new RequestError(
      'staircase-too-short',
      { bytes: size(stairs.length * settings.blockBytes) },
      'bytes',
    );
  if (settings.test === 'sequential-write' && clip)
    throw new RequestError('write-test-takes-no-clip', {}, 'clipId');
  const { path, facts } = await inspectVolume(volume.path, allowedRoots());
  const written = testFileBytes(settings);
  if (written > 0 && !facts.writable) throw new RequestError('write-on-read-only', { path }, 'test');
  if (written > 0) await assertRoom(path, written);
  return queueTrial(storageTrial(volume, settings, clip));
}

export const throughput: KindServer<'throughput'> = {
  start: async (input) => [await startThroughput(input)],
  csv: ({ id }) => blocksCsv(id),
};
