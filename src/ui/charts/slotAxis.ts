/** The part of a timeline in sight: fractional slots from `from` to before `to`. */
export interface SlotRange {
  readonly from: number;
  readonly to: number;
}

const fewestVisible = 8;

/** Moves and sizes a range so that it lies within the timeline and shows at least a few slots. */
export function clampRange(range: SlotRange, slots: number): SlotRange {
  const span = Math.min(slots, Math.max(Math.min(fewestVisible, slots), range.to - range.from));
  const from = Math.min(Math.max(0, range.from), slots - span);
  return { from, to: from + span };
}

/** Zooms by a factor (above 1: closer) round a slot that stays where it is. */
export function zoomRange(range: SlotRange, factor: number, around: number, slots: number): SlotRange {
  const span = (range.to - range.from) / factor;
  const share = (around - range.from) / (range.to - range.from);
  return clampRange({ from: around - span * share, to: around + span * (1 - share) }, slots);
}

/** The range of the same span that has the slot in sight, moved no more than needed. */
export function revealSlot(range: SlotRange, slot: number, slots: number): SlotRange {
  const span = range.to - range.from;
  const margin = span * 0.1;
  if (slot < range.from + margin) return clampRange({ from: slot - margin, to: slot - margin + span }, slots);
  if (slot + 1 > range.to - margin)
    return clampRange({ from: slot + 1 + margin - span, to: slot + 1 + margin }, slots);
  return range;
}

/** The next or previous slot for which `wanted` holds, or null. Used to go from drop to drop. */
export function findSlot(
  from: number,
  direction: 1 | -1,
  slots: number,
  wanted: (slot: number) => boolean,
): number | null {
  for (let slot = from + direction; slot >= 0 && slot < slots; slot += direction)
    if (wanted(slot)) return slot;
  return null;
}
