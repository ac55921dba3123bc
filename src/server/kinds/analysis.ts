import type { InferType } from '@/core/edge/strict';
import { analysisInput } from '@/core/kinds/analysis';
import { analysisProblem, inUse } from '@/core/tasks/analysis';
import type { NewTrial } from '@/db/kinds';
import { RequestError } from '../platform/errors';
import { queueTrial } from '../platform/trialQueue';
import type { KindServer } from './kind';
import { askedApart, taskCsv, taskOn } from './shared/task';

/** An analysis of a timeline or clip, to be made. @throws RequestError when it lacks a value, or cannot be written there */
export async function analysisTrial(input: InferType<typeof analysisInput>): Promise<NewTrial<'analysis'>> {
  const { asked, settings: typed } = askedApart(input);
  const settings = { ...typed, ...inUse(typed) };
  const problem = analysisProblem(settings);
  if (problem) throw RequestError.of(problem);
  return { kind: 'analysis', ...(await taskOn(asked, 'none')), settings };
}

export const analysis: KindServer<'analysis'> = {
  start: async (input) => [await queueTrial(await analysisTrial(input))],
  csv: taskCsv,
};
