/**
 * The choices of a player under hold time. Engine and simulator call the same
 * functions, so that a replay decides as the measured run did.
 */

/** Start of a slot in µs after t0. */
export function dueUs(slot: number, slotUs: number): number {
  return slot * slotUs;
}

/** End of a slot in µs after t0: a frame presented at or after it has missed. */
export function deadlineUs(slot: number, slotUs: number): number {
  return (slot + 1) * slotUs;
}

/** True when a frame that still needs `neededUs` of work can no longer make its slot. */
export function cannotMakeSlot(slot: number, nowUs: number, neededUs: number, slotUs: number): boolean {
  return nowUs + neededUs >= deadlineUs(slot, slotUs);
}

/** The first slot that a frame begun now, needing `neededUs`, can still make. */
export function firstSlotInReach(nowUs: number, neededUs: number, slotUs: number): number {
  return Math.max(0, Math.floor((nowUs + neededUs) / slotUs));
}

/**
 * Slots that pass until a player that is `behind` slots late, and needs `pace`
 * slots of time per frame, is on time again: it gains 1 - pace of a slot with
 * every `pace` slots that pass. Infinite when it is no faster than the clock.
 */
export function slotsToCatchUp(behind: number, pace: number): number {
  if (behind <= 0) return 0;
  return pace < 1 ? (behind * pace) / (1 - pace) : Infinity;
}

/**
 * The key frame at which a late player of long-GOP media should go on, or null
 * to go on in order. Three ways are compared by the slots they lose: decoding
 * all of the backlog; decoding from the last key frame that the clock has
 * passed; waiting for the next key frame ahead. In order wins a tie.
 * @param nextSlot the slot in display order that playback needs next
 * @param reachable the first slot a frame begun now can make
 * @param keys slots of key frames not begun yet, ascending, from index `from`
 * @param pace time per frame of the slowest stage, in slots
 */
export function keyFrameJump(nextSlot: number, reachable: number, keys: ArrayLike<number>, pace: number, from = 0): number | null {
  const backlog = reachable - nextSlot;
  if (backlog <= 0) return null;
  let passed: number | null = null;
  let ahead: number | null = null;
  for (let i = from; i < keys.length && ahead === null; i++) {
    const key = keys[i] as number;
    if (key <= nextSlot) continue;
    if (key <= reachable) passed = key;
    else ahead = key;
  }
  let target: number | null = null;
  let loss = slotsToCatchUp(backlog, pace);
  if (passed !== null && slotsToCatchUp(reachable - passed, pace) < loss) {
    target = passed;
    loss = slotsToCatchUp(reachable - passed, pace);
  }
  return ahead !== null && ahead - reachable < loss ? ahead : target;
}
