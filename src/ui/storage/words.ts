import { quantity, size } from '@/core/format';
import {
  streamsSentence,
  copySentence,
  throughputSentence,
  verificationSentence,
} from '@/core/sentences/storage';
import type { StorageKind } from '@/core/kinds/kinds';
import { hasUnderWay, type ThroughputTest } from '@/core/kinds/throughput';
import { mostUnderWay } from '@/core/storage/underWay';
import type { StorageSettings } from '@/core/kinds/shared/storage';
import type { TrialListRow } from '../pages';

export const testWords: Record<ThroughputTest, string> = {
  'sequential-read': 'Sequential read',
  'sequential-write': 'Sequential write',
  'frame-paced': 'Frame-paced read',
  'random-read': 'Random small reads',
  mixed: 'Read while writing',
  staircase: 'Requests under way',
};

/** A block size in binary units: 64 KiB, 4 MiB. */
export function blockWords(bytes: number): string {
  return bytes >= 2 ** 20 ? quantity(bytes / 2 ** 20, 'MiB') : quantity(bytes / 1024, 'KiB');
}

/** What a storage trial does, in short. */
export function settingsWords(settings: StorageSettings): string {
  switch (settings.kind) {
    case 'throughput': {
      const streams =
        settings.test === 'frame-paced'
          ? `, ${settings.streams} ${settings.streams === 1 ? 'stream' : 'streams'}`
          : `, ${blockWords(settings.blockBytes)} blocks`;
      const way = `${hasUnderWay(settings.test) && (settings.underWay ?? 1) > 1 ? `, ${settings.underWay} requests under way` : ''}${settings.cache === 'through' ? ', through the system’s cache' : ''}`;
      if (settings.test === 'staircase')
        return `${testWords[settings.test]}, 1 to ${mostUnderWay}${streams}${way}, ${size(settings.bytes)} in all or ${quantity(settings.seconds, 's')} each`;
      return `${testWords[settings.test]}${streams}${way}, ${settings.repeats} ${settings.repeats === 1 ? 'repeat' : 'repeats'} of ${size(settings.bytes)} or ${quantity(settings.seconds, 's')}`;
    }
    case 'streams-carried':
      return `Streams carried, ${quantity(settings.seconds, 's')} for each number, up to ${settings.mostStreams}`;
    case 'verification':
      return `Verification of ${settings.folder || 'all of it'} against ${settings.list.name}`;
    case 'copy':
      return `Copy to ${settings.destinations.map(({ volumeName, folder }) => `${volumeName}/${folder}`).join(' and ')}${settings.verify ? ', verified' : ', not verified'}`;
  }
}

/** The answer of an ended storage trial, or null where there is none. */
export function storageAnswer(trial: TrialListRow<StorageKind>): string | null {
  switch (trial.kind) {
    case 'throughput':
      return (
        trial.summary &&
        throughputSentence(trial.summary, trial.settings.test === 'frame-paced' ? trial.settings : null)
      );
    case 'streams-carried':
      return trial.summary && streamsSentence(trial.summary);
    case 'verification':
      return trial.summary && verificationSentence(trial.summary);
    case 'copy':
      return trial.summary && copySentence(trial.summary, trial.settings.verify);
  }
}
