import {
  fitOf,
  headroom,
  requiredRate,
  streamsByArithmetic,
  type Fit,
  type FormatDemand,
  type RequiredRate,
  type Usage,
} from './required';
import { greatest, least } from '../stats/extremes';

/** A format on the ladder. */
export interface Rung {
  readonly id: string;
  readonly name: string;
  /** Raster, rate, codec: what stands beside the name. */
  readonly detail: string;
  readonly demand: FormatDemand;
}

/** A volume on the ladder. Bytes per second. */
export interface Band {
  readonly id: string;
  readonly name: string;
  readonly p5: number;
  readonly p95: number;
  /** The foot: what stands below it plays. */
  readonly sustained: number;
}

/** Where a rung meets a band. */
export interface LadderCell {
  readonly fit: Fit;
  /** Sustained rate over the peak, without the margin, minus one. */
  readonly headroom: number;
  /** Streams that fit with the margin. */
  readonly streams: number;
}

export function ladderCell(
  { demand }: Rung,
  { sustained }: Pick<Band, 'sustained'>,
  usage: Usage,
): LadderCell {
  const rate = requiredRate(demand, usage);
  return {
    fit: fitOf(sustained, rate),
    headroom: headroom(sustained, rate.peak),
    streams: streamsByArithmetic(sustained, demand, usage),
  };
}

/** Lowest and highest rate that a ladder shows, bytes per second, with room around; a decade when there is nothing to show. */
export function ladderDomain(rates: readonly RequiredRate[], bands: readonly Band[]): [number, number] {
  const values = [
    ...rates.flatMap(({ mean, required }) => [mean, required]),
    ...bands.flatMap(({ p5, p95, sustained }) => [p5, p95, sustained]),
  ].filter((value) => value > 0);
  if (values.length === 0) return [10e6, 100e6];
  return [least(values) / 1.3, greatest(values) * 1.3];
}

/**
 * Moves labels apart that would overlap, as little as is needed and in their
 * order: neighbours that are too close share their middle (pool adjacent violators).
 * @param wanted places in ascending order
 * @param gap least distance between two
 */
export function spreadLabels(wanted: readonly number[], gap: number, from: number, to: number): number[] {
  const groups: { sum: number; count: number }[] = [];
  const startOf = ({ sum, count }: { sum: number; count: number }) =>
    Math.min(Math.max(sum / count, from), to - (count - 1) * gap);
  for (const place of wanted) {
    // Each label is noted as the place its group's first would have.
    let group = { sum: place, count: 1 };
    for (
      let before = groups.at(-1);
      before && startOf(before) + before.count * gap > startOf(group);
      before = groups.at(-1)
    ) {
      groups.pop();
      group = {
        sum: before.sum + group.sum - group.count * before.count * gap,
        count: before.count + group.count,
      };
    }
    groups.push(group);
  }
  return groups.flatMap((group) =>
    Array.from({ length: group.count }, (_, index) => startOf(group) + index * gap),
  );
}
