import type { Rational } from '../time/rational';
import type { PacketTable } from './packetTable';
import { greatest } from '../stats/extremes';

/** Data rate of a clip in bits per second. */
export interface DataRate {
  readonly meanBitsPerSecond: number;
  /** The largest 1 s window: what a volume must deliver without a pause. */
  readonly peakBitsPerSecond: number;
}

/** Bytes per slot in display order. */
export function bytesPerSlot(table: PacketTable): Float64Array {
  const bytes = new Float64Array(table.length);
  for (let i = 0; i < table.length; i++) bytes[table.slot[i] ?? 0] = table.size[i] ?? 0;
  return bytes;
}

/**
 * Mean over the whole clip, and peak over a sliding window of one second (the
 * frame rate rounded up to whole slots, scaled back to exactly one second). A
 * clip shorter than a second has the peak of its mean.
 * @param bytes per slot in display order
 */
export function dataRate(bytes: Float64Array, rate: Rational): DataRate {
  const framesPerSecond = rate.num / rate.den;
  if (bytes.length === 0) return { meanBitsPerSecond: 0, peakBitsPerSecond: 0 };
  const total = bytes.reduce((sum, size) => sum + size, 0);
  return {
    meanBitsPerSecond: (total / bytes.length) * 8 * framesPerSecond,
    peakBitsPerSecond: greatest(ratesBySecond(bytes, framesPerSecond), 0),
  };
}

/** Bits per second of every second that ends at a slot. Fewer slots than a second have one value: their mean. */
export function ratesBySecond(bytes: ArrayLike<number>, framesPerSecond: number): Float64Array {
  const window = Math.min(bytes.length, Math.ceil(framesPerSecond));
  const rates = new Float64Array(bytes.length - window + Math.min(1, window));
  let inWindow = 0;
  for (let i = 0; i < bytes.length; i++) {
    inWindow += bytes[i] ?? 0;
    if (i >= window) inWindow -= bytes[i - window] ?? 0;
    if (i >= window - 1) rates[i - window + 1] = (inWindow / window) * 8 * framesPerSecond;
  }
  return rates;
}
