import type { Rational } from './rational';

/** Counting of SMPTE ST 12-1 timecode: the whole-number frame base and whether frame labels are dropped. */
export interface TimecodeCounting {
  /** Frames that one label second counts: 24, 25, 30, 60. */
  readonly framesPerSecond: number;
  /** Drop-frame: labels 00 and 01 (00 to 03 at 60) are skipped each minute except every tenth. */
  readonly dropFrame: boolean;
}

/**
 * Returns the counting for a frame rate. Only 30000/1001 and 60000/1001 can drop labels.
 * @throws RangeError when drop-frame is asked for another rate.
 */
export function countingFor(rate: Rational, dropFrame = false): TimecodeCounting {
  const framesPerSecond = Math.max(1, Math.round(rate.num / rate.den));
  const canDrop = rate.den === 1001 && (framesPerSecond === 30 || framesPerSecond === 60);
  if (dropFrame && !canDrop) {
    throw new RangeError(`Drop-frame timecode exists only at 29.97 and 59.94, not at ${rate.num}/${rate.den}`);
  }
  return { framesPerSecond, dropFrame };
}

/** Labels that drop-frame skips at the start of a minute: 2 at base 30, 4 at base 60. */
function droppedPerMinute(counting: TimecodeCounting): number {
  return counting.dropFrame ? counting.framesPerSecond / 15 : 0;
}

/**
 * Formats a frame count since midnight as hh:mm:ss:ff, or hh:mm:ss;ff for drop-frame.
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
  return `${parts}${dropFrame ? ';' : ':'}${pad(label % base)}`;
}

/**
 * Parses hh:mm:ss:ff or hh:mm:ss;ff to a frame count since midnight.
 * @throws RangeError with the reason when the text is no timecode or the label does not exist.
 */
export function parseTimecode(text: string, counting: TimecodeCounting): number {
  const match = /^(\d{1,2}):(\d{2}):(\d{2})[:;.](\d{2})$/.exec(text.trim());
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
  return /;\d{2}$/.test(text.trim());
}
