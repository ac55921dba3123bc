import { boolean, object, string } from '../edge/strict';
import { taskSentence } from '../sentences/tasks';
import { intermediateIds, intermediateWords, type IntermediateId } from '../tasks/prerender';
import type { WorkedIn } from '../playback/settings';
import type { KindFacts } from './kind';
import { taskInput } from './shared/asked';
import { taskFacts, taskNames, type TaskShape } from './shared/task';
import { aside, cacheTold, threadsTold, workedTold } from './shared/told';

/** How a part of a timeline is rendered ahead of its playback. */
export interface PrerenderSettings extends WorkedIn {
  readonly intermediate: IntermediateId;
  /** Hold the pictures of the result against those handed to the encoder. */
  readonly likeness: boolean;
  /** Threads of decoders, effects and encoder; 0: one per core. */
  readonly threads: number;
  readonly warm: boolean;
}

export const prerenderInput = object({
  ...taskInput,
  intermediate: string()
    .oneOf(intermediateIds, 'Choose an intermediate.')
    .required('Choose an intermediate.'),
  likeness: boolean().default(false),
}).noUnknown();

/** A timeline, or a part of it, rendered into an intermediate that playback and exports can be told to use. */
export interface Prerender extends TaskShape {
  readonly settings: PrerenderSettings;
}

export const prerender: KindFacts<Prerender> = {
  ...taskFacts,
  name: 'Pre-render',
  names: ({ subject, settings }) => taskNames(subject, intermediateWords(settings.intermediate)),
  told: {
    intermediate: (id) => ({ Intermediate: intermediateWords(id) }),
    likeness: aside('looked at after the time is taken'),
    threads: threadsTold,
    ...workedTold,
    warm: cacheTold,
  },
  answer: ({ summary }) => taskSentence('Pre-rendered', summary),
};
