import type { FrameIndex } from '../media/frameIndex';
import { isDisposable } from '../media/packetTable';

/**
 * What one decoder is fed when every step (a slot that uses it) is made in order: the packets to
 * hand over, in decode order. Going forward no frame is decoded twice. Where steps are given up,
 * `Backlog` finds out of this what still has to be fed.
 */
export interface FeedPlan {
  readonly index: FrameIndex;
  /** Frame wanted at each step. */
  readonly frames: Int32Array;
  /** Rows of the packet table, all steps one after the other; step i has rows[from[i]] to rows[from[i + 1] - 1]. */
  readonly rows: Uint32Array;
  readonly from: Uint32Array;
  /** 1 where the decoder is emptied first, since what follows does not go on from what was. */
  readonly reset: Uint8Array;
  /** 1 where no packet follows that would push out what the decoder still holds. */
  readonly drain: Uint8Array;
  readonly uses: FrameUses;
}

/** At which steps the frames of a medium are wanted. */
export class FrameUses {
  private readonly steps = new Map<number, number | number[]>();

  /** @param reach steps for which a decoded frame is kept for its next use */
  constructor(
    frames: Int32Array,
    private readonly reach: number,
  ) {
    frames.forEach((frame, step) => {
      const known = this.steps.get(frame);
      if (known === undefined) this.steps.set(frame, step);
      else if (typeof known === 'number') this.steps.set(frame, [known, step]);
      else known.push(step);
    });
  }

  /** True when a frame that is there at `step` is wanted then, or so soon afterwards that it is kept. */
  isWanted(frame: number, step: number): boolean {
    const known = this.steps.get(frame);
    if (known === undefined) return false;
    const next = typeof known === 'number' ? (known >= step ? known : Infinity) : nextOf(known, step);
    return next <= step + this.reach;
  }
}

/** The first of ascending steps that is not below one; Infinity without. */
function nextOf(steps: readonly number[], step: number): number {
  let low = 0;
  let high = steps.length;
  while (low < high) {
    const middle = (low + high) >> 1;
    if ((steps[middle] as number) < step) low = middle + 1;
    else high = middle;
  }
  return steps[low] ?? Infinity;
}

/**
 * Plans the feeding of a decoder for the frames that a run wants of a clip, step by step.
 * @param mostKept frames that may be kept, for going backwards through a group of pictures or for their next use
 */
export function planFeed(index: FrameIndex, frames: Int32Array, mostKept = 48): FeedPlan {
  const { table, intra, row, lastRow, keyRow } = index;
  const steps = frames.length;
  const uses = new FrameUses(frames, mostKept * longestRepeat(frames));
  const rows: number[] = [];
  const from = new Uint32Array(steps + 1);
  const reset = new Uint8Array(steps);
  const drain = new Uint8Array(steps);
  /** Frames that are or will be decoded and are still to be used. */
  let held = new Set<number>();
  /** First row that has not been fed since the last beginning; -1 before the first. */
  let cursor = -1;
  for (let step = 0; step < steps; step++) {
    from[step] = rows.length;
    const frame = frames[step] as number;
    const again = uses.isWanted(frame, step + 1);
    if (held.has(frame)) {
      if (!again) held.delete(frame);
      continue;
    }
    if (intra) {
      rows.push(row[frame] as number);
      if (again) held.add(frame);
      continue;
    }
    const key = keyRow[frame] as number;
    const until = lastRow[frame] as number;
    const goesOn = cursor >= 0 && key <= cursor && (row[frame] as number) >= cursor;
    if (!goesOn) {
      // Going on past the last row into the next group is no break, but a place to begin all the same.
      reset[step] = cursor >= 0 && key !== cursor ? 1 : 0;
      held = new Set();
      cursor = key;
    }
    const backwards = step + 1 < steps && (frames[step + 1] as number) < frame;
    const first = backwards ? frame - mostKept + 1 : frame;
    for (let at = cursor; at <= until; at++) {
      const shown = table.slot[at] as number;
      const wanted = uses.isWanted(shown, step) && (!backwards || shown >= first);
      if (isDisposable(table, at) && !wanted) continue;
      rows.push(at);
      if (wanted && (shown !== frame || again)) held.add(shown);
    }
    cursor = until + 1;
  }
  from[steps] = rows.length;
  markDrains({ from, reset, drain }, steps);
  return { index, frames, rows: Uint32Array.from(rows), from, reset, drain, uses };
}

/** Steps that a frame is shown for, at slow speeds: the most, up to 16. */
function longestRepeat(frames: Int32Array): number {
  let longest = 1;
  for (let step = 1, run = 1; step < frames.length && longest < 16; step++) {
    run = frames[step] === frames[step - 1] ? run + 1 : 1;
    longest = Math.max(longest, run);
  }
  return longest;
}

/** A step that feeds, and is followed by no feeding before the next reset or the end, takes out all that is left. */
function markDrains({ from, reset, drain }: Pick<FeedPlan, 'from' | 'reset' | 'drain'>, steps: number): void {
  let last = true;
  for (let step = steps - 1; step >= 0; step--) {
    if ((from[step + 1] as number) > (from[step] as number)) {
      drain[step] = last ? 1 : 0;
      last = reset[step] === 1;
    }
  }
}
