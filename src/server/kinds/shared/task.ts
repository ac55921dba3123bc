import type { TaskKind } from '@/core/kinds/kinds';
import { volumesOfTrial } from '@/core/kinds/volumes';
import { volumesOf } from '@/core/timeline/subject';
import { taskStages } from '@/core/tasks/pipeline';
import { ratesOf } from '@/core/tasks/windows';
import type { TaskSubject } from '@/core/kinds/shared/task';
import { lengthOf } from '@/core/timeline/model';
import type { TrialRow } from '@/db/kinds';
import { RequestError } from '../../platform/errors';
import { requireVolume } from '../../library/library';
import type { MediaChoice } from '../../timelines/timelineMedia';
import { courseOf, subjectFor, type SoundUse } from '../../timelines/trialSubjects';
import { requireTimeline } from '../../timelines/timelines';
import { targetOf } from '../../timelines/timelineTrials';
import { linesCsv } from './lines';

/** What every task is asked for by. */
export interface TaskAsked extends MediaChoice {
  readonly timelineId: string | null;
  readonly clipId: string | null;
  readonly from: number;
  readonly to: number | null;
  readonly targetVolumeId: string;
}

/** What a task is asked for by, apart from its own settings. */
export function askedApart<Input extends TaskAsked>(input: Input) {
  const { timelineId, clipId, from, to, read, volumeId, prerendered, targetVolumeId, ...settings } = input;
  return {
    asked: {
      timelineId,
      clipId,
      from,
      to,
      read,
      volumeId,
      prerendered: prerendered ?? false,
      targetVolumeId,
    },
    settings,
  };
}

/** What a task works on and where it writes. @throws RequestError when it cannot write there, or not all of its media is at hand */
export async function taskOn(asked: TaskAsked, sound: SoundUse) {
  const target = await requireVolume(asked.targetVolumeId);
  if (!target.facts.writable)
    throw new RequestError('chosen-volume-read-only', { name: target.name }, 'targetVolumeId');
  const timelineId = await targetOf(asked);
  const { document, demo } = await requireTimeline(timelineId);
  const course = courseOf({ ...asked, speed: 1, loops: 1 }, lengthOf(document));
  const played = await subjectFor(timelineId, course, asked, sound);
  const { missing } = played.timeline;
  if (missing.length > 0)
    throw new RequestError('media-missing', { names: missing.slice(0, 3).join(', ') }, 'timelineId');
  const subject: TaskSubject = {
    ...played,
    target: { volumeId: target.id, volumeName: target.name, standIn: target.standIn },
  };
  return {
    timelineId,
    volumeIds: [...new Set([...volumesOfTrial(subject), target.id])],
    simulated: volumesOf(subject).simulated || target.standIn !== null,
    demo,
    subject,
  };
}

/** A task's windows, a line each. */
export function taskCsv({ record }: TrialRow<TaskKind>): string {
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
}
