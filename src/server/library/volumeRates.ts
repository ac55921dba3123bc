import type { KnownRate } from '@/core/choose/judge';
import { expectedRate, type StorageModel } from '@/core/storage/model';
import type { TrialListRow } from '@/db/kinds';

/** Requests that a model's rate is asked for with. */
const blockBytes = 2 ** 20;
const tests = { read: 'sequential-read', write: 'sequential-write' } as const;

/**
 * What a volume sustains: as it was last measured, else by the model of a simulated one; null where neither is known.
 * @param latest the newest finished throughput trials of its rig
 * @param streams files that are read or written side by side; a model says what all get together, a measurement is of one
 */
export function sustainedRate(
  volumeId: string,
  standIn: StorageModel | null,
  latest: readonly TrialListRow<'throughput'>[],
  direction: keyof typeof tests,
  streams = 1,
): KnownRate | null {
  const trial = latest.find(
    ({ subject, settings }) => subject.volumeId === volumeId && settings.test === tests[direction],
  );
  const figures = trial?.summary?.[direction];
  if (trial && figures) return { value: figures.sustained, from: 'measured', trialId: trial.id };
  return (
    standIn && {
      value: expectedRate(standIn, direction === 'write', blockBytes, true, streams).bytesPerSecond,
      from: 'model',
      trialId: null,
      ...(streams > 1 ? { streams } : {}),
    }
  );
}
