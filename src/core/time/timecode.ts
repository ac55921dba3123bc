import type { Rational } from './rational';

/** Counting of SMPTE ST 12-1 timecode: the whole-number frame base and whether frame labels are dropped. */
export interface TimecodeCounting {
  /** Frames that one label second counts: 24, 25, 30, 60, 120. */
  readonly framesPerSecond: number;
  /** Drop-frame: labels 00 and 01 (00 to 03 at 60, 00 to 07 at 120) are skipped each minute except every tenth. */
  readonly dropFrame: boolean;
}

/** True where label seconds keep step with the clock when labels are dropped: 30000/1001 and its multiples. */
export function canDropFrames(rate: Rational): boolean {
  return rate.den === 1001 && rate.num > 0 && rate.num % 30_000 === 0;
}

/** Most that a rate may lie off a whole number of frames a second to have timecode: 1000/1001 and a little. */
const mostOff = 0.002;
/** Timecode has three digits for frames at the most. */
const greatestBase = 999;

/** True for rates whose frames can be counted by label seconds: near a whole number, from 1 to 999 frames a second. */
export function hasTimecode(rate: Rational): boolean {
  const frames = rate.num / rate.den;
  const base = Math.round(frames);
  return base >= 1 && base <= greatestBase && Math.abs(frames - base) <= mostOff * base;
}

/**
 * Returns the counting for a frame rate.
 * @throws RangeError when drop-frame is asked for a rate that cannot have it.
 */
export function countingFor(rate: Rational, dropFrame = false): TimecodeCounting {
  const framesPerSecond = Math.max(1, Math.round(rate.num / rate.den) || 1);
  if (dropFrame && !canDropFrames(rate)) {
    throw new RangeError(
      `Drop-frame timecode exists only at 29.97 and its multiples, not at ${rate.num}/${rate.den}`,
    );
  }
  return { framesPerSecond, dropFrame };
}

/** Labels that drop-frame skips at the start of a minute: 2 at base 30, 4 at base 60, 8 at base 120 (SMPTE ST 12-3). */
function droppedPerMinute(counting: TimecodeCounting): number {
  return counting.dropFrame ? counting.framesPerSecond / 15 : 0;
}

/**
 * Formats a frame count since midnight as hh:mm:ss:ff, or hh:mm:ss;ff for drop-frame; above 100 frames a second with three digits of frames.
 * Counts wrap at 24 hours. Source: SMPTE ST 12-1, frame-count conversion.
 */
export function formatTimecode(frameCount: number, counting: TimecodeCounting): string {
  const { framesPerSecond: base, dropFrame } = counting;
  const skip = droppedPerMinute(counting);
  const perMinute = base * 60 - skip;
  const perTenMinutes = base * 600 - skip * 9;
  const perDay = perTenMinutes * 144;
  const count = ((Math.trunc(frameCount) % perDay) + perDay) % perDay;
  const tens = Math.floor(count / perTenMinutes);
  const rest = count % perTenMinutes;
  // The first minute of each ten keeps all its labels; the nine after it lose `skip` each.
  const minutesAfterFirst = rest < base * 60 ? 0 : 1 + Math.floor((rest - base * 60) / perMinute);
  const label = count + skip * (tens * 9 + minutesAfterFirst);
  const pad = (value: number) => String(value).padStart(2, '0');
  const seconds = Math.floor(label / base);
  const parts = [Math.floor(seconds / 3600), Math.floor(seconds / 60) % 60, seconds % 60].map(pad).join(':');
  return `${parts}${dropFrame ? ';' : ':'}${String(label % base).padStart(base > 100 ? 3 : 2, '0')}`;
}

/**
 * Parses hh:mm:ss:ff or hh:mm:ss;ff to a frame count since midnight.
 * @throws RangeError with the reason when the text is no timecode or the label does not exist.
 */
export function parseTimecode(text: string, counting: TimecodeCounting): number {
  const match = /^(\d{1,2}):(\d{2}):(\d{2})[:;.](\d{2,3})$/.exec(text.trim());
  if (!match) throw new RangeError(`"${text}" is no timecode; write hh:mm:ss:ff`);
  const [hours, minutes, seconds, frames] = match.slice(1).map(Number) as [number, number, number, number];
  const { framesPerSecond: base } = counting;
  if (hours > 23 || minutes > 59 || seconds > 59 || frames >= base) {
    throw new RangeError(`"${text}" does not exist at ${base} frames per second`);
  }
  const skip = droppedPerMinute(counting);
  if (skip > 0 && seconds === 0 && frames < skip && minutes % 10 !== 0) {
    throw new RangeError(`"${text}" is a label that drop-frame timecode skips`);
  }
  const label = (hours * 3600 + minutes * 60 + seconds) * base + frames;
  const totalMinutes = hours * 60 + minutes;
  return label - skip * (totalMinutes - Math.floor(totalMinutes / 10));
}

/** Reads whether a timecode text is drop-frame: its last separator is a semicolon. */
export function isDropFrameText(text: string): boolean {
  return /;\d{2,3}$/.test(text.trim());
}

/**
 * Reads a timecode whose label drop-frame may skip, as lists of other writers have: the next label that there is stands for
 * it. @throws RangeError when the text is no timecode or its label exists in no counting
 */
export function nearestTimecode(
  text: string,
  counting: TimecodeCounting,
): { readonly frame: number; readonly isSkipped: boolean } {
  try {
    return { frame: parseTimecode(text, counting), isSkipped: false };
  } catch (error) {
    if (!counting.dropFrame) throw error;
    // It exists without drop-frame, or not at all.
    parseTimecode(text, { ...counting, dropFrame: false });
    const next = text.trim().replace(/\d{2,3}$/, String(droppedPerMinute(counting)).padStart(2, '0'));
    return { frame: parseTimecode(next, counting), isSkipped: true };
  }
}

/**
 * The frame of another counting that bears the same label: hours, minutes and seconds stay, frames of a second are taken by
 * their share of it, rounded down.
 */
export function frameOfSameLabel(frame: number, from: TimecodeCounting, to: TimecodeCounting): number {
  const [clock = '', frames = ''] = formatTimecode(frame, from).split(/[:;](?=\d+$)/);
  const share = Math.floor((Number(frames) * to.framesPerSecond) / from.framesPerSecond);
  return nearestTimecode(`${clock}:${String(share).padStart(2, '0')}`, to).frame;
}
