import { analysisFrames } from '@/core/tasks/analysis';
import { intermediateChoice } from '@/core/tasks/prerender';
import type { AnalysisSettings } from '@/core/kinds/analysis';
import { taskKind, type TaskWork } from './shared/task';

/** Folder below the target volume for results that are kept. */
const keptFolder = 'analyses';

/** How an analysis is made. */
export const workOfAnalysis = ({
  intermediate,
  keep,
  threads,
  warm,
  depth,
  fields,
  ...choice
}: AnalysisSettings): TaskWork => ({
  analysis: choice,
  output: intermediateChoice(intermediate),
  likeness: false,
  threads,
  warm,
  depth,
  fields,
  keepIn: keep ? keptFolder : null,
  suffix: choice.work,
});

export const analysis = taskKind<'analysis'>({
  work: ({ settings }) => workOfAnalysis(settings),
  frames: ({ subject, settings }) => analysisFrames(subject.timeline.course.slots, settings),
});
