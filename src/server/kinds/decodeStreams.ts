import type { InferType } from '@/core/edge/strict';
import { decodeStreamsInput } from '@/core/kinds/decodeStreams';
import { decodingOf, playable, queueAll } from '../library/decode';
import { RequestError } from '../platform/errors';
import type { KindServer } from './kind';
import { linesCsv } from './shared/lines';

/** Queues a ramp of decoded streams. Returns its id. */
export async function startDecodeStreams({
  clipId,
  rate,
  decodeOn,
  ...figures
}: InferType<typeof decodeStreamsInput>): Promise<string> {
  const [clip] = await playable([clipId]);
  if (!clip?.format) throw new RequestError('clip-gone', {}, 'clipId');
  const [id = ''] = await queueAll([
    {
      clip,
      device: null,
      settings: {
        kind: 'decode-streams',
        rate: rate ?? clip.format.rate,
        ...figures,
        ...(await decodingOf(decodeOn)),
      },
    },
  ]);
  return id;
}

export const decodeStreams: KindServer<'decode-streams'> = {
  start: async (input) => [await startDecodeStreams(input)],
  csv: ({ record }) => linesCsv((record?.steps ?? []).map((step) => ({ ...step }))),
};
