import type { InferType } from '@/core/edge/strict';
import { decodeRateInput } from '@/core/kinds/decodeRate';
import { playable, queueAll } from '../library/decode';
import type { KindServer } from './kind';
import { linesCsv } from './shared/lines';

/** Queues a decode rate for each clip. Returns the trials' ids in the clips' order. */
export async function startDecodeRates({
  clipIds,
  passSeconds,
  passes,
}: InferType<typeof decodeRateInput>): Promise<string[]> {
  return queueAll(
    (await playable(clipIds)).map((clip) => ({
      clip,
      settings: { kind: 'decode-rate', passSeconds, passes },
      device: null,
    })),
  );
}

export const decodeRate: KindServer<'decode-rate'> = {
  start: async (input) => startDecodeRates(input),
  csv: ({ record }) => linesCsv((record?.passes ?? []).map((pass) => ({ ...pass }))),
};
