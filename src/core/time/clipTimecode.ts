import type { Rational } from './rational';
import { countingFor, formatTimecode, isDropFrameText, parseTimecode } from './timecode';

/**
 * A function that gives a clip's timecode at a slot. Counts from zero where the
 * clip has no timecode track, or one that its frame rate cannot have.
 */
export function clipTimecode(startTimecode: string | null, rate: Rational): (slot: number) => string {
  const canDrop = rate.den === 1001 && Math.round(rate.num / rate.den) % 30 === 0;
  const dropFrame = canDrop && startTimecode !== null && isDropFrameText(startTimecode);
  const counting = countingFor(rate, dropFrame);
  let first = 0;
  try {
    if (startTimecode !== null) first = parseTimecode(startTimecode, counting);
  } catch {
    first = 0;
  }
  return (slot) => formatTimecode(first + slot, counting);
}
