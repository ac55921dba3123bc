import type { InferType } from '@/core/edge/strict';
import { exportInput } from '@/core/kinds/export';
import { deviceProblem, isStandInEncoder } from '@/core/tasks/encodeDevices';
import { choiceProblem } from '@/core/tasks/exportCodecs';
import type { NewTrial } from '@/db/kinds';
import { encodeDevicesOfRig } from '../library/decode';
import { RequestError } from '../platform/errors';
import { queueTrial } from '../platform/trialQueue';
import type { KindServer } from './kind';
import { askedApart, taskCsv, taskOn } from './shared/task';

/** An export of a timeline or clip, to be made. @throws RequestError when it cannot be written so, or there */
export async function exportTrial(input: InferType<typeof exportInput>): Promise<NewTrial<'export'>> {
  const { asked, settings } = askedApart(input);
  const problem = choiceProblem(settings);
  if (problem) throw RequestError.of(problem);
  const task = await taskOn(asked, settings.sound === 'none' ? 'none' : 'exported');
  const { device: id } = settings;
  if (id === null) return { kind: 'export', ...task, settings };
  const device = (await encodeDevicesOfRig()).find((one) => one.id === id);
  const refusal = deviceProblem(device, settings, task.subject.timeline);
  if (refusal) throw RequestError.of(refusal);
  return { kind: 'export', ...task, simulated: task.simulated || isStandInEncoder(id), settings };
}

export const exporting: KindServer<'export'> = {
  start: async (input) => [await queueTrial(await exportTrial(input))],
  csv: taskCsv,
};
