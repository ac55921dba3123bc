import { intermediateWords } from '@/core/tasks/prerender';
import { taskView, writtenWords } from './shared/task';

export const prerender = taskView<'pre-render'>({
  noun: 'pre-render',
  title: ({ settings }) => `Pre-render, ${intermediateWords(settings.intermediate)}`,
  conditions: (trial) => [
    ['As', `${intermediateWords(trial.settings.intermediate)}${writtenWords(trial)}`],
    ['Sound', 'none: it is mixed of the clips where the pre-render is used'],
  ],
  goes: 'The result and its record are removed. What was rendered stays with its timeline, and is removed there. This cannot be undone.',
});
