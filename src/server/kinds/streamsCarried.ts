import type { InferType } from '@/core/edge/strict';
import { streamsInput } from '@/core/kinds/streamsCarried';
import { requireVolume } from '../library/library';
import { blocksCsv } from '../trials/blocksCsv';
import { clipOf, storageTrial } from '../library/storage';
import { queueTrial } from '../platform/trialQueue';
import type { KindServer } from './kind';

/** Queues a search for the number of streams of a clip that its volume carries. Returns its id. */
export async function startStreams({
  clipId,
  seconds,
  mostStreams,
}: InferType<typeof streamsInput>): Promise<string> {
  const clip = await clipOf(clipId, null);
  return queueTrial(
    storageTrial(
      await requireVolume(clip.volumeId),
      { kind: 'streams-carried', clipId, clipPath: clip.path, seconds, mostStreams },
      clip,
    ),
  );
}

export const streamsCarried: KindServer<'streams-carried'> = {
  start: async (input) => [await startStreams(input)],
  csv: ({ id }) => blocksCsv(id),
};
