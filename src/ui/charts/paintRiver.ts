import type { TraceView } from '@/core/playback/traceView';
import type { SlotRange } from './slotAxis';

export interface RiverInk {
  readonly read: string;
  readonly decode: string;
  readonly process: string;
  readonly present: string;
  readonly line: string;
  readonly ink: string;
}

export function riverInk(): RiverInk {
  const style = getComputedStyle(document.documentElement);
  const colour = (name: string) => style.getPropertyValue(name).trim();
  return {
    read: colour('--cause-read'),
    decode: colour('--cause-decode'),
    process: colour('--cause-process'),
    present: colour('--cause-present'),
    line: colour('--edge'),
    ink: colour('--ink'),
  };
}

const layers = ['readMs', 'decodeMs', 'processMs', 'errorMs'] as const;
const inkOf = { readMs: 'read', decodeMs: 'decode', processMs: 'process', errorMs: 'present' } as const;

/** The part of each stage that is work on sound, on a thread of its own. */
const soundColumns = {
  readMs: 'soundReadMs',
  decodeMs: 'soundDecodeMs',
  processMs: 'soundMixMs',
  errorMs: null,
} as const;
/** How strongly that is drawn. */
const soundAlpha = 0.5;

/** A stage's work on sound in a slot. */
function soundMs(view: TraceView, layer: (typeof layers)[number], slot: number): number {
  const column = soundColumns[layer];
  const value = column === null ? 0 : (view[column][slot] ?? 0);
  return value > 0 ? value : 0;
}

/** All that was done for a slot, and by how much it was late. */
export const allMs = (view: TraceView, slot: number): number =>
  layers.reduce((sum, layer) => sum + stageMs(view, layer, slot) + soundMs(view, layer, slot), 0);

/** A stage's time in a slot; what never happened and what came early count as nothing. */
export function stageMs(view: TraceView, layer: (typeof layers)[number], slot: number): number {
  const value = view[layer][slot] ?? 0;
  return value > 0 ? value : 0;
}

/**
 * Paints the stages' times stacked per slot against the slot's length, which
 * stands at `slotY` pixels from the bottom. Where slots are narrower than a
 * pixel, each pixel shows its slowest slot.
 */
export function paintRiver(
  pen: CanvasRenderingContext2D,
  view: TraceView,
  range: SlotRange,
  width: number,
  height: number,
  topMs: number,
  ink: RiverInk,
): void {
  pen.clearRect(0, 0, width, height);
  const perSlot = width / (range.to - range.from);
  const columnWidth = Math.max(1, perSlot >= 1.5 ? perSlot - (perSlot > 5 ? 1 : 0) : 1);
  const columns = perSlot >= 1.5 ? Math.ceil(range.to) - Math.floor(range.from) : Math.ceil(width);
  for (let column = 0; column < columns; column++) {
    const from = perSlot >= 1.5 ? Math.floor(range.from) + column : Math.floor(range.from + column / perSlot);
    const to =
      perSlot >= 1.5 ? from + 1 : Math.max(from + 1, Math.floor(range.from + (column + 1) / perSlot));
    if (from >= view.slots) break;
    const slot = slowest(view, from, Math.min(view.slots, to));
    const x = perSlot >= 1.5 ? (from - range.from) * perSlot : column;
    let y = height;
    const stack = (ms: number, colour: string, alpha: number) => {
      const tall = Math.min(y, (ms / topMs) * height);
      if (tall < 0.3) return;
      pen.globalAlpha = alpha;
      pen.fillStyle = colour;
      pen.fillRect(x, y - tall, columnWidth, tall);
      y -= tall;
    };
    for (const layer of layers) {
      stack(stageMs(view, layer, slot), ink[inkOf[layer]], 1);
      stack(soundMs(view, layer, slot), ink[inkOf[layer]], soundAlpha);
    }
    pen.globalAlpha = 1;
  }
}

function slowest(view: TraceView, from: number, to: number): number {
  let worst = from;
  let most = -1;
  for (let slot = from; slot < to; slot++) {
    const total = allMs(view, slot);
    if (total > most) {
      most = total;
      worst = slot;
    }
  }
  return worst;
}
