import type { Rational } from '../time/rational';
import type { PacketTable } from './packetTable';

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
  const window = Math.min(bytes.length, Math.ceil(framesPerSecond));
  let total = 0;
  let inWindow = 0;
  let peak = 0;
  for (let i = 0; i < bytes.length; i++) {
    total += bytes[i] ?? 0;
    inWindow += bytes[i] ?? 0;
    if (i >= window) inWindow -= bytes[i - window] ?? 0;
    if (i >= window - 1) peak = Math.max(peak, inWindow);
  }
  const bitsPerSlotToRate = 8 * framesPerSecond;
  return {
    meanBitsPerSecond: (total / bytes.length) * bitsPerSlotToRate,
    peakBitsPerSecond: (peak / window) * bitsPerSlotToRate,
  };
}
