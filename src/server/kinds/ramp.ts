import type { InferType } from '@/core/edge/strict';
import { rampInput } from '@/core/kinds/ramp';
import { decodingOf } from '../library/decode';
import { queueTest, targetOf } from '../timelines/timelineTrials';
import type { KindServer } from './kind';
import { linesCsv } from './shared/lines';

export async function startRamp(input: InferType<typeof rampInput>): Promise<string> {
  const { family, most, seconds, scales, threads, warm, depth, fields } = input;
  // What may be refused comes before anything is kept.
  const decoded = await decodingOf(input.decodeOn);
  return queueTest(
    await targetOf(input),
    {
      kind: 'ramp',
      family,
      most,
      seconds,
      scales,
      threads,
      warm,
      depth,
      fields,
      ...decoded,
    },
    input,
    input,
  );
}

export const ramp: KindServer<'ramp'> = {
  start: async (input) => [await startRamp(input)],
  csv: ({ record }) => linesCsv((record?.probes ?? []).map((probe) => ({ ...probe }))),
};
