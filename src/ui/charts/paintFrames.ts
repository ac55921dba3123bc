import { ratesBySecond } from '@/core/media/dataRate';
import type { SlotRange } from './slotAxis';

/** Sizes and types of frames in display order. */
export interface FrameColumns {
  readonly bytes: readonly number[];
  /** One letter a frame: I, P, B or ?, small for key frames. */
  readonly types: string;
}

const variables: Record<string, string> = { I: '--frame-i', P: '--frame-p', B: '--frame-b', '?': '--slot' };

export interface FrameBand {
  readonly top: number;
  readonly height: number;
}

/** Draws one bar a frame: I with a flat cap, P with a round head, B hollow; key frames are marked below. Beyond a frame a pixel, the largest of each column. */
export function paintFrames(
  pen: CanvasRenderingContext2D,
  width: number,
  { top, height }: FrameBand,
  { bytes, types }: FrameColumns,
  range: SlotRange,
  most: number,
  style: CSSStyleDeclaration,
): void {
  const perFrame = width / (range.to - range.from);
  const first = Math.max(0, Math.floor(range.from));
  const last = Math.min(bytes.length, Math.ceil(range.to));
  const step = Math.max(1, Math.floor(1 / perFrame));
  for (let at = first - (first % step); at < last; at += step) {
    let frame = at;
    for (let other = at; other < Math.min(last, at + step); other++)
      if ((bytes[other] ?? 0) > (bytes[frame] ?? 0)) frame = other;
    const letter = types[frame] ?? '?';
    const barHeight = Math.max(1, ((bytes[frame] ?? 0) / most) * (height - 10));
    const left = (at - range.from) * perFrame;
    const bar = Math.max(1, perFrame * step - (perFrame > 4 ? 1.5 : 0));
    drawBar(pen, letter.toUpperCase(), left, top + height - 6 - barHeight, bar, barHeight, style);
    if (letter !== letter.toUpperCase() && perFrame > 0.4) {
      pen.fillStyle = style.getPropertyValue('--muted');
      pen.fillRect(left, top + height - 4, Math.max(1, Math.min(bar, 6)), 3);
    }
  }
}

function drawBar(
  pen: CanvasRenderingContext2D,
  type: string,
  left: number,
  top: number,
  width: number,
  height: number,
  style: CSSStyleDeclaration,
): void {
  const colour = style.getPropertyValue(variables[type] ?? '--slot');
  pen.fillStyle = colour;
  if (type === 'B' && width > 3) {
    pen.strokeStyle = colour;
    pen.lineWidth = 1.2;
    pen.strokeRect(left + 0.6, top + 0.6, width - 1.2, Math.max(1, height - 1.2));
  } else if (type === 'P' && width > 3) {
    const radius = Math.min(width / 2, height / 2, 5);
    pen.beginPath();
    pen.roundRect(left, top, width, height, [radius, radius, 0, 0]);
    pen.fill();
  } else pen.fillRect(left, top, width, height);
}

/** Data rate of every second that ends at a frame, Mb/s. Shorter clips have one value: their mean. */
export function secondRates(bytes: readonly number[], framesPerSecond: number): number[] {
  return Array.from(ratesBySecond(bytes, framesPerSecond), (bits) => bits / 1e6);
}

/** Draws the rate of every second as a line over the frames it ends at. */
export function paintRates(
  pen: CanvasRenderingContext2D,
  width: number,
  { top, height }: FrameBand,
  rates: readonly number[],
  offset: number,
  range: SlotRange,
  most: number,
  style: CSSStyleDeclaration,
): void {
  const perFrame = width / (range.to - range.from);
  pen.beginPath();
  pen.strokeStyle = style.getPropertyValue('--ink');
  pen.lineWidth = 1.5;
  const step = Math.max(1, Math.floor(0.5 / perFrame));
  let begun = false;
  for (let at = 0; at < rates.length; at += step) {
    const x = (at + offset + 0.5 - range.from) * perFrame;
    if (x < -perFrame * step - 2 || x > width + perFrame * step + 2) continue;
    const y = top + height - ((rates[at] ?? 0) / most) * (height - 4);
    if (begun) pen.lineTo(x, y);
    else pen.moveTo(x, y);
    begun = true;
  }
  pen.stroke();
}
