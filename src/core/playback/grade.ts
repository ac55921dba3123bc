import { slotState } from './slots';

export const grades = ['solid', 'workable', 'rough', 'stalled'] as const;
export type Grade = (typeof grades)[number];

/** Longest run of slots in which no frame was presented. */
export function longestGapSlots(state: Uint8Array): number {
  return longestRun(state, (value) => value === slotState.dropped);
}

const isLost = (value: number) => value === slotState.dropped || value === slotState.wrong;

function longestRun(state: Uint8Array, counts: (value: number) => boolean): number {
  let longest = 0;
  let current = 0;
  for (const value of state) {
    current = counts(value) ? current + 1 : 0;
    if (current > longest) longest = current;
  }
  return longest;
}

/**
 * Grades playback after start-up: `solid` no drop; `workable` at most 1 %
 * dropped and never more than 2 in a row; `rough` at most 10 %; `stalled` beyond.
 * A wrong frame counts as dropped.
 * @returns null when no slot was finished
 */
export function gradeOf(state: Uint8Array): Grade | null {
  let finished = 0;
  let dropped = 0;
  for (const value of state) {
    if (value === slotState.pending) continue;
    finished++;
    if (isLost(value)) dropped++;
  }
  if (finished === 0) return null;
  if (dropped === 0) return 'solid';
  const share = dropped / finished;
  if (share <= 0.01 && longestRun(state, isLost) <= 2) return 'workable';
  return share <= 0.1 ? 'rough' : 'stalled';
}
