import { boolean, number, object, string } from '../edge/strict';
import { taskSentence, foundSentence } from '../sentences/tasks';
import {
  analysisFacts,
  analysisWords,
  analysisWorks,
  slowFactors,
  type AnalysisChoice,
} from '../tasks/analysis';
import { intermediateIds, intermediateWords, type IntermediateId } from '../tasks/prerender';
import type { WorkedIn } from '../playback/settings';
import type { KindFacts } from './kind';
import { prerendered, taskInput, whole } from './shared/asked';
import { taskFacts, taskNames, type TaskShape } from './shared/task';
import { aside, cacheTold, threadsTold, workedTold } from './shared/told';

/** How every picture of a timeline or clip is worked on, and what the result is written as. */
export interface AnalysisSettings extends AnalysisChoice, WorkedIn {
  readonly intermediate: IntermediateId;
  readonly keep: boolean;
  /** Threads of decoders, effects and encoder; 0: one per core. */
  readonly threads: number;
  readonly warm: boolean;
}

export const analysisInput = object({
  ...taskInput,
  prerendered,
  work: string().oneOf(analysisWorks, 'Choose what to work out.').required('Choose what to work out.'),
  factor: number().oneOf(slowFactors, 'Choose 2, 4 or 8 times.').nullable().default(null),
  points: whole('Points')
    .min(1, 'At least 1 point.')
    .max(2_000, 'At most 2 000 points.')
    .nullable()
    .default(null),
  colour: string()
    .matches(/^#[0-9a-f]{6}$/i, 'Give the colour as #rrggbb.')
    .nullable()
    .default(null),
  tolerance: number()
    .typeError('Tolerance must be a number.')
    .min(0.01, 'Tolerance lies from 0.01 to 1.')
    .max(1, 'Tolerance lies from 0.01 to 1.')
    .nullable()
    .default(null),
  intermediate: string().oneOf(intermediateIds, 'Choose an intermediate.').default('prores-lt'),
  keep: boolean().default(false),
}).noUnknown();

/** Every picture of a timeline or clip worked on: slow motion, stabilising, tracking, a matte. */
export interface Analysis extends TaskShape {
  readonly settings: AnalysisSettings;
}

export const analysis: KindFacts<Analysis> = {
  ...taskFacts,
  name: 'Analysis',
  names: ({ subject, settings }) => taskNames(subject, analysisWords(settings)),
  under: (trial) => ({
    ...taskFacts.under(trial),
    // Its filters take no more; what is only looked at is written as deep as it came.
    ...(trial.settings.work === 'track' ? {} : { 'Processed in': '8 bits a channel' }),
  }),
  test: ({ work }) => analysisFacts[work].name.toLowerCase(),
  told: {
    work: aside('told as the test'),
    factor: (factor) => ({ Slower: factor === null ? 'no' : `${factor} times` }),
    points: (points) => ({ 'Points followed': points === null ? 'none' : String(points) }),
    colour: (colour) => ({ 'Colour left out': colour ?? 'none' }),
    tolerance: (tolerance) => ({ Tolerance: tolerance === null ? 'none' : String(tolerance) }),
    intermediate: (id) => ({ Intermediate: intermediateWords(id) }),
    keep: aside('what becomes of the file afterwards changes no figure'),
    threads: threadsTold,
    ...workedTold,
    warm: cacheTold,
  },
  answer: ({ summary }) => {
    const { did, of } = analysisFacts[summary.found?.work ?? 'track'];
    return [taskSentence(did, summary, of), foundSentence(summary.found ?? null)].filter(Boolean).join(' ');
  },
};
