import { exportWords } from '@/core/kinds/export';
import { exportCodecs } from '@/core/tasks/exportCodecs';
import { taskView, writtenWords } from './shared/task';

export const exporting = taskView<'export'>({
  noun: 'export',
  title: ({ settings }) => `Export, ${exportWords(settings)}`,
  conditions: (trial) => {
    const { codec, keyDistance, sound } = trial.settings;
    const made = trial.record?.made;
    return [
      ['As', `${exportWords(trial.settings)}${writtenWords(trial)}`],
      [
        'Key frames',
        keyDistance !== null
          ? `every ${keyDistance} frames`
          : exportCodecs[codec].longGop
            ? 'every two seconds'
            : 'every frame is a key frame',
      ],
      [
        'Sound',
        sound === 'none'
          ? 'none'
          : `${sound.toUpperCase()}, mixed of ${made ? `${made.soundSources} clips` : 'the clips that have it'}`,
      ],
    ];
  },
  goes: 'The result and its record are removed. A file that was kept stays. This cannot be undone.',
});
