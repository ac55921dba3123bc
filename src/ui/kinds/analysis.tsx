import { analysisFacts, analysisWords } from '@/core/tasks/analysis';
import { intermediateWords } from '@/core/tasks/prerender';
import { taskView, writtenWords } from './shared/task';

export const analysis = taskView<'analysis'>({
  noun: 'analysis',
  title: ({ settings }) => `Analysis, ${analysisWords(settings)}`,
  conditions: (trial) => {
    const { settings } = trial;
    return [
      ['Work', `${analysisWords(settings)}. ${analysisFacts[settings.work].about}`],
      [
        'Processed in',
        settings.work === 'track' ? 'luma of 8 bits; the picture keeps its depth' : '8 bits a channel',
      ],
      ['As', `${intermediateWords(settings.intermediate)}${writtenWords(trial)}`],
    ];
  },
  goes: 'The result and its record are removed. A file that was kept stays. This cannot be undone.',
});
