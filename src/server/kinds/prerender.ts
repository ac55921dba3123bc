import type { InferType } from 'yup';
import { prerenderInput } from '@/core/kinds/prerender';
import type { NewTrial } from '@/db/kinds';
import { checked } from '../http';
import { queueTrial } from '../trialQueue';
import type { KindServer } from './kind';
import { taskCsv, taskOn } from './shared/task';

/** A part of a timeline to be rendered ahead. @throws RequestError when it cannot be written there */
export async function prerenderTrial(
  input: InferType<typeof prerenderInput>,
): Promise<NewTrial<'pre-render'>> {
  const { timelineId, clipId, from, to, read, volumeId, targetVolumeId, ...settings } = input;
  // All of it is worked out anew: a pre-render of a pre-render would only lose more.
  const asked = { timelineId, clipId, from, to, read, volumeId, targetVolumeId };
  return { kind: 'pre-render', ...(await taskOn(asked, false)), settings };
}

export const prerender: KindServer<'pre-render'> = {
  start: async (body) => [await queueTrial(await prerenderTrial(await checked(body, prerenderInput)))],
  csv: taskCsv,
};
