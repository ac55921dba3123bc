import { throughputSentence } from '@/core/storage/sentence';
import { streamsSentence } from '@/core/storage/streams';
import type { StorageTrialRow } from '@/db/queries/storageTrials';
import type { CopyResult, StorageSettings, ThroughputTest } from '@/engine/storage/spec';
import { count, size } from '../format';

export const testWords: Record<ThroughputTest, string> = {
  'sequential-read': 'Sequential read',
  'sequential-write': 'Sequential write',
  'frame-paced': 'Frame-paced read',
  'random-read': 'Random small reads',
  mixed: 'Read while writing',
};

/** A block size in binary units: 64 KiB, 4 MiB. */
export function blockWords(bytes: number): string {
  return bytes >= 2 ** 20 ? `${bytes / 2 ** 20} MiB` : `${bytes / 1024} KiB`;
}

/** What a storage trial does, in short. */
export function settingsWords(settings: StorageSettings): string {
  switch (settings.kind) {
    case 'throughput': {
      const streams =
        settings.test === 'frame-paced'
          ? `, ${settings.streams} ${settings.streams === 1 ? 'stream' : 'streams'}`
          : `, ${blockWords(settings.blockBytes)} blocks`;
      return `${testWords[settings.test]}${streams}, ${settings.repeats} ${settings.repeats === 1 ? 'repeat' : 'repeats'} of ${size(settings.bytes)} or ${settings.seconds} s`;
    }
    case 'streams':
      return `Streams carried, ${settings.seconds} s for each number, up to ${settings.mostStreams}`;
    case 'copy':
      return `Copy to ${settings.destinations.map(({ volumeName, folder }) => `${volumeName}/${folder}`).join(' and ')}${settings.verify ? ', verified' : ', not verified'}`;
  }
}

/** A copy's result in a sentence. */
export function copySentence(
  { files, copied, present, conflicts, damaged, bytes }: CopyResult,
  verified: boolean,
): string {
  const problems = [
    damaged > 0 && `${count(damaged)} read back differently`,
    conflicts > 0 && `${count(conflicts)} had other content there and were left`,
  ].filter((part) => typeof part === 'string');
  const done = copied + present;
  const what = `${count(done)} of ${count(files)} files, ${size(bytes)} in all, ${verified ? 'copied and verified' : 'copied, not verified'}`;
  return `${what}${present > 0 ? `; ${count(present)} were there already` : ''}${problems.length > 0 ? `; ${problems.join('; ')}` : ''}.`;
}

/** The answer of an ended storage trial, or null where there is none. */
export function storageAnswer({
  result,
  settings,
}: Pick<StorageTrialRow, 'result' | 'settings'>): string | null {
  switch (result?.kind) {
    case 'throughput':
      return throughputSentence(
        result.summary,
        settings.kind === 'throughput' && settings.test === 'frame-paced' ? settings : null,
      );
    case 'streams':
      return streamsSentence(result.summary);
    case 'copy':
      return copySentence(result.summary, settings.kind === 'copy' && settings.verify);
    case undefined:
      return null;
  }
}
