import type { InferType } from '@/core/edge/strict';
import { openingInput } from '@/core/kinds/opening';
import type { NewTrial } from '@/db/kinds';
import { openingParts } from '@/core/tasks/opening';
import { targetOf, timelineOfVolume, trialOnTimeline } from '../timelines/timelineTrials';
import { queueTrial } from '../platform/trialQueue';
import type { KindServer } from './kind';
import { linesCsv } from './shared/lines';

/** An opening that is to be measured. @throws RequestError when nothing of it is at hand */
export async function openingTrial(input: InferType<typeof openingInput>): Promise<NewTrial<'opening'>> {
  const { clipsOfVolume, clips, lanes, each, threads, warm, depth, fields, read, volumeId } = input;
  const timelineId =
    clipsOfVolume === null ? await targetOf(input) : await timelineOfVolume(clipsOfVolume, clips);
  const trial = await trialOnTimeline(
    timelineId,
    { kind: 'opening', lanes, each, threads, warm, depth, fields },
    { read, volumeId },
  );
  return trial as NewTrial<'opening'>;
}

export const opening: KindServer<'opening'> = {
  start: async (input) => [await queueTrial(await openingTrial(input))],
  csv: ({ record }) => {
    const { first, clips } = record?.opening ?? { first: null, clips: [] };
    const steps = clips.flatMap((clip) =>
      openingParts.flatMap((part) => {
        const step = clip[part];
        if (!step) return [];
        const { firstByteMs = '', ...took } = step;
        return [{ part, clip: clip.name, lane: clip.lane, ...took, firstByteMs, problem: clip.problem }];
      }),
    );
    return linesCsv([
      ...(first ? [{ part: 'first', clip: '', lane: '', ...first, firstByteMs: '', problem: '' }] : []),
      ...steps,
    ]);
  },
};
