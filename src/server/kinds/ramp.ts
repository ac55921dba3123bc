import type { InferType } from 'yup';
import { rampInput } from '@/core/kinds/ramp';
import { checked } from '../http';
import { queueTest, targetOf } from '../timelineTrials';
import type { KindServer } from './kind';
import { linesCsv } from './lines';

export async function startRamp(input: InferType<typeof rampInput>): Promise<string> {
  const { family, most, seconds, scales, threads, warm } = input;
  return queueTest(
    await targetOf(input),
    { kind: 'ramp', family, most, seconds, scales, threads, warm },
    input,
  );
}

export const ramp: KindServer<'ramp'> = {
  start: async (body) => [await startRamp(await checked(body, rampInput))],
  csv: ({ record }) => linesCsv((record?.probes ?? []).map((probe) => ({ ...probe }))),
};
