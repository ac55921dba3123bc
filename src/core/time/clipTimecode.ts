import type { Rational } from './rational';
import {
  canDropFrames,
  countingFor,
  formatTimecode,
  hasTimecode,
  isDropFrameText,
  parseTimecode,
} from './timecode';

/**
 * A function that gives a clip's timecode at a slot. Counts from zero where the
 * clip has no timecode track, or one that its frame rate cannot have. Where frames
 * cannot be counted by label seconds, their numbers are given instead.
 */
export function clipTimecode(startTimecode: string | null, rate: Rational): (slot: number) => string {
  if (!hasTimecode(rate)) return (slot) => `frame ${slot}`;
  const dropFrame = canDropFrames(rate) && startTimecode !== null && isDropFrameText(startTimecode);
  const counting = countingFor(rate, dropFrame);
  let first = 0;
  try {
    if (startTimecode !== null) first = parseTimecode(startTimecode, counting);
  } catch {
    first = 0;
  }
  return (slot) => formatTimecode(first + slot, counting);
}
