import { causesOf } from '@/core/playback/attribute';
import { slotState } from '@/core/playback/slots';
import { causeStyles, hatchTile } from './causes';
import type { SlotRange } from './slotAxis';

export interface RibbonData {
  readonly slots: number;
  readonly state: Uint8Array;
  readonly charge: Uint8Array;
  /** 1 where the picture shown is concealed, or built on one that is; absent where it is not known. */
  readonly doubtful?: Uint8Array;
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
  const perSlot = width / (range.to - range.from);
  if (perSlot >= 1.5) {
    const gap = perSlot > 5 ? 1 : 0;
    for (let slot = Math.floor(range.from); slot < Math.min(data.slots, Math.ceil(range.to)); slot++) {
      paintSlot(pen, data, slot, (slot - range.from) * perSlot, Math.max(1, perSlot - gap), height, ink);
    }
    return;
  }
  for (let x = 0; x < width; x++) {
    const from = Math.floor(range.from + x / perSlot);
    const to = Math.min(data.slots, Math.max(from + 1, Math.floor(range.from + (x + 1) / perSlot)));
    const worst = worstSlot(data, from, to);
    if (worst < data.slots) paintSlot(pen, data, worst, x, 1, height, ink);
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
