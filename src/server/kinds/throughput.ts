import type { InferType } from '@/core/edge/strict';
import { throughputInput } from '@/core/kinds/throughput';
import { testFileBytes } from '@/engine/storage/spec';
import { assertRoom } from '@/engine/storage/testFile';
import { inspectVolume } from '@/engine/volume';
import { RequestError } from '../errors';
import { requireVolume } from '../library';
import { allowedRoots } from '../roots';
import { blocksCsv } from '../blocksCsv';
import { clipOf, storageTrial } from '../storage';
import { queueTrial } from '../trialQueue';
import type { KindServer } from './kind';

/** Queues a throughput trial. Returns its id. @throws RequestError, or EngineError where the volume cannot take its test files */
export async function startThroughput(input: InferType<typeof throughputInput>): Promise<string> {
  const { volumeId, clipId, ...figures } = input;
  const volume = await requireVolume(volumeId);
  const clip = clipId === null ? null : await clipOf(clipId, volume);
  const settings = {
    kind: 'throughput' as const,
    ...figures,
    streams: input.test === 'frame-paced' ? input.streams : 1,
    clipId,
    clipPath: clip?.path ?? null,
  };
  if (settings.test === 'frame-paced' && !clip)
    throw new RequestError('frame-paced-needs-clip', {}, 'clipId');
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
