import type { InferType } from 'yup';
import { exportInput } from '@/core/kinds/export';
import { volumesOfTrial } from '@/core/kinds/volumes';
import { volumesOf } from '@/core/playback/subject';
import { choiceProblem } from '@/core/tasks/exportCodecs';
import { taskStages } from '@/core/tasks/pipeline';
import { ratesOf } from '@/core/tasks/windows';
import { lengthOf } from '@/core/timeline/model';
import type { NewTrial } from '@/db/kinds';
import { RequestError } from '../errors';
import { checked } from '../http';
import { requireVolume } from '../library';
import { courseOf, requireTimeline, subjectFor } from '../timelines';
import { targetOf } from '../timelineTrials';
import { queueTrial } from '../trialQueue';
import type { KindServer } from './kind';
import { linesCsv } from './lines';

/** An export of a timeline or clip, to be made. @throws RequestError when it cannot be written so, or there */
export async function exportTrial(input: InferType<typeof exportInput>): Promise<NewTrial<'export'>> {
  const {
    from,
    to,
    read,
    volumeId,
    targetVolumeId,
    timelineId: _timeline,
    clipId: _clip,
    ...settings
  } = input;
  const problem = choiceProblem(settings);
  if (problem) throw new RequestError(problem.message, 400, problem.field);
  const target = await requireVolume(targetVolumeId);
  if (!target.facts.writable)
    throw new RequestError(`${target.name} is read-only. Choose another volume.`, 409, 'targetVolumeId');
  const timelineId = await targetOf(input);
  const { document, demo } = await requireTimeline(timelineId);
  const course = courseOf({ from, to, speed: 1, loops: 1 }, lengthOf(document));
  const subject = await subjectFor(timelineId, course, { read, volumeId });
  const { missing } = subject.timeline;
  if (missing.length > 0)
    throw new RequestError(
      `Not all of this is at hand: ${missing.slice(0, 3).join(', ')}. Relink its media first, so that nothing is left out of the export.`,
      409,
      'timelineId',
    );
  return {
    kind: 'export',
    timelineId,
    volumeIds: [...new Set([...volumesOfTrial(subject), target.id])],
    simulated: volumesOf(subject).simulated || target.standIn !== null,
    demo,
    subject: {
      ...subject,
      target: { volumeId: target.id, volumeName: target.name, standIn: target.standIn },
    },
    settings,
  };
}

export const exporting: KindServer<'export'> = {
  start: async (body) => [await queueTrial(await exportTrial(await checked(body, exportInput)))],
  csv: ({ record }) => {
    if (!record) return linesCsv([]);
    const { windows } = record;
    return linesCsv(
      ratesOf(windows).map(({ atS, framesPerSecond }, at) => ({
        endS: atS,
        framesPerSecond,
        othersCores: windows.othersCores[at],
        bytesRead: windows.bytesRead[at],
        bytesWritten: windows.bytesWritten[at],
        ...Object.fromEntries(
          taskStages.flatMap((stage) => {
            const { frames, busyUs, coreUs, waitUs } = windows.stages[stage];
            return [
              [`${stage}Frames`, frames[at]],
              [`${stage}BusyUs`, busyUs[at]],
              [`${stage}CoreUs`, coreUs[at]],
              [`${stage}WaitUs`, waitUs[at]],
            ];
          }),
        ),
      })),
    );
  },
};
