import type { ScaleEffectCosts } from '@/core/timeline/effectCosts';
import type { InferType } from '@/core/edge/strict';
import { costsInput } from '@/core/kinds/calibration';
import { queueTest, targetOf } from '../timelines/timelineTrials';
import type { KindServer } from './kind';
import { linesCsv } from './shared/lines';

export async function startCosts(input: InferType<typeof costsInput>): Promise<string> {
  return queueTest(
    await targetOf(input),
    { kind: 'calibration', threads: input.threads, warm: true },
    { read: 'originals', volumeId: null },
  );
}

/** @param bits a channel that they were worked in */
const linesOf = (bits: number, scales: readonly ScaleEffectCosts[] = []) =>
  scales.map(({ effects, ...scale }) => ({ bits, ...scale, ...effects }));

export const calibration: KindServer<'calibration'> = {
  start: async (input) => [await startCosts(input)],
  csv: ({ record }) => linesCsv([...linesOf(8, record?.costs?.scales), ...linesOf(16, record?.costs?.deep)]),
};
