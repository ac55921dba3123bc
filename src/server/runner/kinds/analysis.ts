import { analysisFrames } from '@/core/tasks/analysis';
import { intermediateChoice } from '@/core/tasks/prerender';
import { taskKind } from './shared/task';

/** Folder below the target volume for results that are kept. */
const keptFolder = 'analyses';

export const analysis = taskKind<'analysis'>({
  work: ({ settings: { intermediate, keep, threads, warm, ...choice } }) => ({
    analysis: choice,
    output: intermediateChoice(intermediate),
    likeness: false,
    threads,
    warm,
    keepIn: keep ? keptFolder : null,
    suffix: choice.work,
  }),
  frames: ({ subject, settings }) => analysisFrames(subject.timeline.course.slots, settings),
});
