import type { InferType } from '@/core/edge/strict';
import { costsInput } from '@/core/kinds/calibration';
import { queueTest, targetOf } from '../timelineTrials';
import type { KindServer } from './kind';
import { linesCsv } from './lines';

export async function startCosts(input: InferType<typeof costsInput>): Promise<string> {
  return queueTest(
    await targetOf(input),
    { kind: 'calibration', threads: input.threads, warm: true },
    { read: 'originals', volumeId: null },
  );
}

export const calibration: KindServer<'calibration'> = {
  start: async (input) => [await startCosts(input)],
  csv: ({ record }) =>
    linesCsv(
      ([8, 16] as const).flatMap((bits) =>
        ((bits === 8 ? record?.costs?.scales : record?.costs?.deep) ?? []).map(({ effects, ...scale }) => ({
          bits,
          ...scale,
          ...effects,
        })),
      ),
    ),
};
