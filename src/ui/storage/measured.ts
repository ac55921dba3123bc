import { arrayFigures } from '@/core/storage/array';
import { expectedRate } from '@/core/storage/model';
import { doubtOf, type Doubt } from '@/core/rig/doubt';
import type { CombinedFigures } from '@/core/storage/throughput';
import type { ThroughputTest } from '@/core/kinds/throughput';
import type { VolumeRow, TrialListRow } from '../pages';

/** A volume's rates in one direction, with what they rest on. Bytes per second. */
export interface VolumeRates {
  readonly p5: number;
  readonly p95: number;
  readonly sustained: number;
  readonly from: 'measured' | 'forecast';
  readonly doubt: Doubt['word'] | null;
  readonly trialId: string | null;
}

const blockBytes = 2 ** 20;

/** The newest figures of a test on a volume; a stand-in without any has its model's; null when nothing is known. */
export function ratesOf(
  volume: Pick<VolumeRow, 'id' | 'standIn'>,
  latest: readonly TrialListRow<'throughput'>[],
  test: Extract<ThroughputTest, 'sequential-read' | 'sequential-write'>,
): VolumeRates | null {
  const trial = latest.find(
    ({ subject, settings }) => subject.volumeId === volume.id && settings.test === test,
  );
  const figures = trial && figuresOf(trial, test);
  if (trial && figures)
    return {
      p5: figures.p5,
      p95: figures.p95,
      sustained: figures.sustained,
      from: 'measured',
      doubt: doubtOf(trial.load)?.word ?? null,
      trialId: trial.id,
    };
  if (!volume.standIn) return null;
  const { bytesPerSecond } = expectedRate(volume.standIn, test === 'sequential-write', blockBytes);
  return {
    p5: bytesPerSecond,
    p95: bytesPerSecond,
    sustained: bytesPerSecond,
    from: 'forecast',
    doubt: null,
    trialId: null,
  };
}

/** The figures that a test is about: writing for a write test, else reading. */
export function figuresOf(
  { summary }: Pick<TrialListRow<'throughput'>, 'summary'>,
  test: ThroughputTest,
): CombinedFigures | null {
  if (!summary) return null;
  return test === 'sequential-write' ? summary.write : summary.read;
}

/** Usable bytes of a stand-in's array. */
export function usableBytes(model: NonNullable<VolumeRow['standIn']>): number {
  return arrayFigures(model, model.drive).usableBytes;
}
