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
  return nowUs + neededUs > deadlineUs(slot, slotUs);
}

/** The first slot that a frame begun now, needing `neededUs`, can still make. */
export function firstSlotInReach(nowUs: number, neededUs: number, slotUs: number): number {
  return Math.max(0, Math.ceil((nowUs + neededUs) / slotUs - 1));
}

/**
 * Where a reader of long-GOP media should go on, or null to read on in order.
 * A key frame the clock has passed is always nearer than decoding up to it; a
 * key frame ahead is taken when fewer slots are given up by waiting for it than
 * the player is behind.
 * @param nextSlot the slot in display order that playback needs next
 * @param reachable the first slot a frame begun now can make
 * @param unreadKeys slots of key frames not read yet, ascending
 */
export function keyFrameJump(nextSlot: number, reachable: number, unreadKeys: ArrayLike<number>, from = 0): number | null {
  const backlog = reachable - nextSlot;
  if (backlog <= 0) return null;
  let passed: number | null = null;
  for (let i = from; i < unreadKeys.length; i++) {
    const key = unreadKeys[i] as number;
    if (key <= nextSlot) continue;
    if (key <= reachable) { passed = key; continue; }
    return passed ?? (key - reachable < backlog ? key : null);
  }
  return passed;
}
