import { causesOf } from '@/core/playback/attribute';
import { hasSound, soundState } from '@/core/playback/sound';
import { slotState } from '@/core/playback/slots';
import { causeStyles, hatchTile } from './causes';
import type { SlotRange } from './slotAxis';

export interface RibbonData {
  readonly slots: number;
  readonly state: Uint8Array;
  readonly charge: Uint8Array;
  /** 1 where the picture shown is concealed, or built on one that is; absent where it is not known. */
  readonly doubtful?: Uint8Array;
  /** Values of `soundState`; absent where it is not known. */
  readonly sound?: Uint8Array;
}

/** Colours and patterns of the present theme, made once per theme. */
export interface RibbonInk {
  readonly slot: string;
  readonly late: string;
  readonly empty: string;
  readonly ground: string;
  readonly ink: string;
  readonly causes: Readonly<Record<string, CanvasPattern | string>>;
  readonly unknown: CanvasPattern | string;
}

export function ribbonInk(pen: CanvasRenderingContext2D, scale: number): RibbonInk {
  const style = getComputedStyle(document.documentElement);
  const colour = (name: string) => style.getPropertyValue(name).trim();
  const ground = colour('--surface');
  const pattern = (hatch: Parameters<typeof hatchTile>[0], base: string) =>
    pen.createPattern(hatchTile(hatch, base, ground, scale), 'repeat') ?? base;
  const causes = Object.fromEntries(
    Object.entries(causeStyles).map(([stage, { hatch, variable }]) => [
      stage,
      pattern(hatch, colour(variable)),
    ]),
  );
  return {
    slot: colour('--slot'),
    late: colour('--muted'),
    empty: colour('--line'),
    ground,
    ink: colour('--ink'),
    causes,
    unknown: colour('--signal-text'),
  };
}

/** How bad a state is, so that a pixel that covers many slots shows the worst of them. */
const severity: Record<number, number> = {
  [slotState.pending]: 0,
  [slotState.shown]: 1,
  [slotState.late]: 2,
  [slotState.dropped]: 3,
  [slotState.wrong]: 4,
};

/** Share of the ribbon's height per state: what is worse stands taller. */
export const heights: Record<number, number> = {
  [slotState.pending]: 0.06,
  [slotState.shown]: 0.3,
  [slotState.late]: 0.55,
  [slotState.dropped]: 1,
  [slotState.wrong]: 1,
};

/** Paints one cell per slot, or per pixel where slots are narrower than that. Linear in the width and the slots in sight. */
export function paintRibbon(
  pen: CanvasRenderingContext2D,
  data: RibbonData,
  range: SlotRange,
  width: number,
  height: number,
  ink: RibbonInk,
): void {
  pen.clearRect(0, 0, width, height);
  const lane = hasSound(data.sound) ? height * soundLane : 0;
  const tall = height - lane;
  const perSlot = width / (range.to - range.from);
  if (perSlot >= 1.5) {
    const gap = perSlot > 5 ? 1 : 0;
    for (let slot = Math.floor(range.from); slot < Math.min(data.slots, Math.ceil(range.to)); slot++) {
      const [x, wide] = [(slot - range.from) * perSlot, Math.max(1, perSlot - gap)];
      paintSlot(pen, data, slot, x, wide, tall, ink);
      paintSound(pen, worstSound(data, slot, slot + 1), x, wide, height, lane, ink);
    }
    return;
  }
  for (let x = 0; x < width; x++) {
    const from = Math.floor(range.from + x / perSlot);
    const to = Math.min(data.slots, Math.max(from + 1, Math.floor(range.from + (x + 1) / perSlot)));
    const worst = worstSlot(data, from, to);
    if (worst >= data.slots) continue;
    paintSlot(pen, data, worst, x, 1, tall, ink);
    paintSound(pen, worstSound(data, from, to), x, 1, height, lane, ink);
  }
}

/** The slot of a stretch that went worst; the first of equals. */
export function worstSlot(
  { state, doubtful }: Pick<RibbonData, 'state' | 'doubtful'>,
  from: number,
  to: number,
): number {
  const gravity = (slot: number) => (severity[state[slot] ?? 0] ?? 0) + (doubtful?.[slot] ? 0.5 : 0);
  let worst = from;
  for (let slot = from + 1; slot < to; slot++) if (gravity(slot) > gravity(worst)) worst = slot;
  return worst;
}

/** Share of the ribbon's height at its foot that belongs to sound, where some went along. */
export const soundLane = 0.16;

/** Share of that lane that each state takes: what is not ready stands tall. */
export const soundHeights: Readonly<Record<number, number>> = {
  [soundState.silent]: 0,
  [soundState.ready]: 0.25,
  [soundState.broken]: 0.85,
  [soundState.underRun]: 0.85,
};

/** The worse of two states of sound. */
export const worseSound = (one: number, other: number): number =>
  (soundHeights[other] ?? 0) > (soundHeights[one] ?? 0) || other === soundState.underRun ? other : one;

/** What became of the sound of a stretch: the worst of it. */
export function worstSound({ sound }: Pick<RibbonData, 'sound'>, from: number, to: number): number {
  let worst: number = soundState.silent;
  for (let slot = from; slot < to; slot++) worst = worseSound(worst, sound?.[slot] ?? soundState.silent);
  return worst;
}

function paintSound(
  pen: CanvasRenderingContext2D,
  state: number,
  x: number,
  width: number,
  height: number,
  lane: number,
  ink: RibbonInk,
): void {
  const tall = lane * (soundHeights[state] ?? 0);
  if (tall === 0) return;
  pen.fillStyle =
    state === soundState.ready
      ? ink.slot
      : state === soundState.broken
        ? (ink.causes.media ?? ink.unknown)
        : ink.ink;
  pen.fillRect(x, height - tall, width, tall);
}

/** Height of the cap on a slot whose picture is not to be trusted, as a share of the ribbon's. */
export const doubtfulCap = 0.2;

/** Where it begins from the top; null for slots that show nothing. */
export function capTop(state: number): number | null {
  return state === slotState.dropped || state === slotState.pending
    ? null
    : Math.max(0, 1 - (heights[state] ?? 0) - doubtfulCap);
}

function paintSlot(
  pen: CanvasRenderingContext2D,
  { state, charge, doubtful }: RibbonData,
  slot: number,
  x: number,
  width: number,
  height: number,
  ink: RibbonInk,
): void {
  const is = state[slot] ?? 0;
  paintCell(pen, is, charge[slot] ?? 0, x, width, height, ink);
  const top = doubtful?.[slot] ? capTop(is) : null;
  if (top === null) return;
  pen.fillStyle = ink.causes.media ?? ink.unknown;
  pen.fillRect(x, height * top, width, height * doubtfulCap);
}

function paintCell(
  pen: CanvasRenderingContext2D,
  state: number,
  charge: number,
  x: number,
  width: number,
  height: number,
  ink: RibbonInk,
): void {
  const cellHeight = height * (heights[state] ?? 0);
  const top = height - cellHeight;
  if (state === slotState.dropped && charge !== 0) {
    // Causes that only together made a drop share its cell, one above the other.
    const causes = causesOf(charge);
    const share = cellHeight / causes.length;
    causes.forEach((cause, index) => {
      pen.fillStyle = ink.causes[cause] ?? ink.unknown;
      pen.fillRect(x, top + index * share, width, share);
    });
    return;
  }
  pen.fillStyle =
    state === slotState.dropped
      ? ink.unknown
      : state === slotState.pending
        ? ink.empty
        : state === slotState.wrong
          ? ink.ink
          : state === slotState.late
            ? ink.late
            : ink.slot;
  pen.fillRect(x, top, width, cellHeight);
  if (state === slotState.wrong && width >= 4) {
    pen.strokeStyle = ink.ground;
    pen.lineWidth = 1.5;
    pen.strokeRect(x + 1, top + 1, width - 2, cellHeight - 2);
  }
}
