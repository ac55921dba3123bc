import type { Rational } from '../time/rational';
import type { PacketTable } from './packetTable';

/** What the time stamps of a clip tell. Durations in milliseconds. */
export interface Timing {
  /** Every frame stays as long as the others, to within one tick of the time base or a hundredth of a frame. */
  readonly constant: boolean;
  readonly shortestMs: number;
  readonly longestMs: number;
  /** Frames without a presentation time. */
  readonly missing: number;
  /** Frames whose presentation time another frame has too. */
  readonly duplicate: number;
}

/**
 * Reads timing off the presentation times. A container may round times to its
 * ticks: frame lengths that differ by no more than one tick count as the same.
 * @param timeBase seconds per unit of the table's times
 */
export function timingOf(table: PacketTable, timeBase: Rational): Timing {
  const times: number[] = [];
  let missing = 0;
  for (let i = 0; i < table.length; i++) {
    const pts = table.pts[i] ?? Number.NaN;
    if (Number.isFinite(pts) && pts > -(2 ** 62)) times.push(pts);
    else missing++;
  }
  times.sort((a, b) => a - b);
  const toMs = (1000 * timeBase.num) / timeBase.den;
  let shortest = Infinity;
  let longest = 0;
  let duplicate = 0;
  for (let i = 1; i < times.length; i++) {
    const length = (times[i] ?? 0) - (times[i - 1] ?? 0);
    if (length === 0) {
      duplicate++;
      continue;
    }
    shortest = Math.min(shortest, length);
    longest = Math.max(longest, length);
  }
  if (longest === 0) return { constant: true, shortestMs: 0, longestMs: 0, missing, duplicate };
  return {
    constant: longest - shortest <= Math.max(1, longest * 0.01),
    shortestMs: shortest * toMs,
    longestMs: longest * toMs,
    missing,
    duplicate,
  };
}
