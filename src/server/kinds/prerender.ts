import type { InferType } from '@/core/edge/strict';
import { prerenderInput } from '@/core/kinds/prerender';
import type { NewTrial } from '@/db/kinds';
import { queueTrial } from '../platform/trialQueue';
import type { KindServer } from './kind';
import { askedApart, taskCsv, taskOn } from './shared/task';

/** A part of a timeline to be rendered ahead. @throws RequestError when it cannot be written there */
export async function prerenderTrial(
  input: InferType<typeof prerenderInput>,
): Promise<NewTrial<'pre-render'>> {
  // It cannot be asked for from pre-rendered: a pre-render of a pre-render would only lose more.
  const { asked, settings } = askedApart(input);
  return { kind: 'pre-render', ...(await taskOn(asked, 'none')), settings };
}

export const prerender: KindServer<'pre-render'> = {
  start: async (input) => [await queueTrial(await prerenderTrial(input))],
  csv: taskCsv,
};
