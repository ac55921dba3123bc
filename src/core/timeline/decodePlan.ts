import type { FrameIndex } from '../media/frameIndex';
import { isDisposable } from '../media/packetTable';

/**
 * What one decoder is fed in a run: for every step (a slot that uses it) the
 * packets to hand over, in decode order. Going forward no frame is decoded twice.
 */
export interface FeedPlan {
  /** Frame wanted at each step. */
  readonly frames: Int32Array;
  /** Rows of the packet table, all steps one after the other; step i has rows[from[i]] to rows[from[i + 1] - 1]. */
  readonly rows: Uint32Array;
  readonly from: Uint32Array;
  /** 1 where the decoder is emptied first, since what follows does not go on from what was. */
  readonly reset: Uint8Array;
  /** 1 where no packet follows that would push out what the decoder still holds. */
  readonly drain: Uint8Array;
  /** 1 where the step needs nothing that was decoded before it: playback may jump there. */
  readonly fresh: Uint8Array;
  /** 1 where the step's packets serve only itself, so that it may be given up alone. */
  readonly alone: Uint8Array;
  /** Last step that wants a frame: until then it is kept. */
  readonly lastUse: ReadonlyMap<number, number>;
}

/**
 * Plans the feeding of a decoder for the frames that a run wants of a clip, step by step.
 * @param mostKept frames that may be kept for going backwards through a group of pictures
 */
export function planFeed(index: FrameIndex, frames: Int32Array, mostKept: number): FeedPlan {
  const { table, intra, row, lastRow, keyRow } = index;
  const steps = frames.length;
  const lastUse = new Map<number, number>();
  frames.forEach((frame, step) => lastUse.set(frame, step));
  const rows: number[] = [];
  const from = new Uint32Array(steps + 1);
  const reset = new Uint8Array(steps);
  const drain = new Uint8Array(steps);
  const fresh = new Uint8Array(steps);
  const alone = new Uint8Array(steps);
  /** Frames that are or will be decoded and are still to be used. */
  let held = new Set<number>();
  /** First row that has not been fed since the last beginning; -1 before the first. */
  let cursor = -1;
  for (let step = 0; step < steps; step++) {
    from[step] = rows.length;
    const frame = frames[step] as number;
    if (held.has(frame)) {
      // It shows what is there already: nothing is lost if it is passed over.
      alone[step] = 1;
      if (lastUse.get(frame) === step) held.delete(frame);
      continue;
    }
    if (intra) {
      rows.push(row[frame] as number);
      fresh[step] = 1;
      alone[step] = lastUse.get(frame) === step ? 1 : 0;
      if (lastUse.get(frame) !== step) held.add(frame);
      continue;
    }
    const key = keyRow[frame] as number;
    const until = lastRow[frame] as number;
    const goesOn = cursor >= 0 && key <= cursor && (row[frame] as number) >= cursor;
    if (!goesOn) {
      // Going on past the last row into the next group is no break, but a place to begin all the same.
      reset[step] = cursor >= 0 && key !== cursor ? 1 : 0;
      fresh[step] = 1;
      held = new Set();
      cursor = key;
    } else if (key === cursor) fresh[step] = 1;
    const backwards = step + 1 < steps && (frames[step + 1] as number) < frame;
    const first = backwards ? frame - mostKept + 1 : frame;
    let serves = 0;
    for (let at = cursor; at <= until; at++) {
      const shown = table.slot[at] as number;
      const wanted = (lastUse.get(shown) ?? -1) >= step && (!backwards || shown >= first);
      if (isDisposable(table, at) && !wanted) continue;
      rows.push(at);
      if (!isDisposable(table, at)) serves = 2;
      else serves = Math.max(serves, shown === frame ? 1 : 2);
      if (wanted && !(shown === frame && lastUse.get(shown) === step)) held.add(shown);
    }
    alone[step] = serves === 1 && lastUse.get(frame) === step ? 1 : 0;
    cursor = until + 1;
  }
  from[steps] = rows.length;
  markDrains({ from, reset, drain }, steps);
  return { frames, rows: Uint32Array.from(rows), from, reset, drain, fresh, alone, lastUse };
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
