import { greatest } from '../stats/extremes';
/** What is known when a late player looks for the slot to go on at. Times in µs on the caller's clock. */
export interface TargetSearch {
  readonly from: number;
  /** Slots are looked through until before this one. */
  readonly end: number;
  readonly slotUs: number;
  /** Slots between two places at which a feed can begin: the most, of all feeds. */
  readonly keyInterval: number;
  /** What decoded and finished frames can wait for their slots, at most. */
  readonly bufferUs: number;
  /** By how much what was expected was too early lately. */
  readonly delayUs: number;
  /** True for slots that are given up already. */
  readonly isGivenUp: (slot: number) => boolean;
  /** When a slot would be finished if all before it were given up; asked for in order. */
  readonly finishUs: (slot: number) => number;
  /** End of a slot. */
  readonly deadlineOf: (slot: number) => number;
  /** True when a slot that is finished at a time makes its deadline. */
  readonly makes: (slot: number, finishUs: number) => boolean;
  /** What a slot takes when all are made. */
  readonly unitUs: (slot: number) => number;
  /** What a slot takes that is passed on the way to later ones. */
  readonly passUs: (slot: number) => number;
}

/** Slots that may be lost beyond those that must be, to allow for delays: at least, and for each slot of delay. */
const leastDetour = 2;
const detour = 4;
/** How much more work a farther target must save for each slot it loses. */
const clearlyMore = 1.4;
/** Where none can be made: slots that are passed at once towards the one that is least late. */
const longestBlindStep = 12;
/** What a player arrives later than it expected where all feeds have to get to a place first, in slots. */
const lateArrival = 3;
/** How much more slots a leap must show than going on in order, and how much less than the best leap a nearer one may. */
const worthALeap = 1.15;
const asGood = 1.1;

interface Found {
  readonly slot: number;
  /** What it would be finished before its deadline, µs. */ readonly leadUs: number;
  /** Work saved for each slot lost, µs. */ readonly savedUs: number;
}

/**
 * The slot to go on at: the first that can be made. Where making every slot takes longer than the slots
 * last, a later one is better if it saves clearly more work for each slot it loses, as it does where
 * several feeds come to their key frames; as far as the buffers can hold what is saved. And where what
 * must be decoded on the way to later slots leaves little time to show any, it is better to leap: to a
 * place that is cheap to get to, and far enough for the buffers to fill, and to make every slot from
 * there until that lead is used up. Without a slot that can be made: a few on, towards the one that is least late.
 */
export function targetFrom(search: TargetSearch): number {
  const {
    from,
    end,
    slotUs,
    keyInterval,
    bufferUs,
    delayUs,
    isGivenUp,
    finishUs,
    deadlineOf,
    makes,
    unitUs,
    passUs,
  } = search;
  const leastLate = { slot: from, late: Infinity };
  const found: Found[] = [];
  let inOrder = 0;
  let passing = 0;
  let before = 0;
  let last = end;
  let hopeful = -1;
  for (let slot = from; slot < last; slot++) {
    const finish = finishUs(slot);
    if (slot === from) inOrder = before = finish;
    else {
      inOrder += unitUs(slot);
      passing += passUs(slot);
    }
    if (isGivenUp(slot)) continue;
    const late = finish - deadlineOf(slot);
    if (late < leastLate.late) Object.assign(leastLate, { slot, late });
    if (hopeful < 0 && makes(slot, finish)) hopeful = slot;
    if (!makes(slot, finish + delayUs)) continue;
    if (slot === from) return from;
    if (found.length === 0) {
      // What is only expected from what went before is no reason to lose many slots.
      if (hopeful >= 0 && slot - hopeful > Math.max(leastDetour, (detour * delayUs) / slotUs)) return hopeful;
      if ((inOrder - before) / (slot - from) <= slotUs) return slot;
      last = Math.min(end, from + Math.max(Math.round(1e6 / slotUs), keyInterval) + 1);
    }
    const unusable = Math.max(0, -late - bufferUs);
    found.push({
      slot,
      leadUs: Math.min(-late, bufferUs),
      savedUs: (inOrder - finish - unusable) / (slot - from),
    });
  }
  if (found.length === 0) return hopeful >= 0 ? hopeful : Math.min(leastLate.slot, from + longestBlindStep);
  const passed = Math.max(1, last - 1 - from);
  return leap(search, found, (inOrder - before) / passed, passing / passed) ?? thriftiest(found);
}

/** The first target that none after it beats clearly by the work it saves. */
function thriftiest(found: readonly Found[]): number {
  return found.reduce((best, one) => (one.savedUs > clearlyMore * best.savedUs ? one : best)).slot;
}

/**
 * A target from which more slots are shown until the player is late again than by passing slots in order; null where there is none.
 * @param paceUs what a slot takes when all are made, more than it lasts @param passUs what one takes that is passed
 */
function leap(
  { from, slotUs, delayUs }: TargetSearch,
  found: readonly Found[],
  paceUs: number,
  passUs: number,
): number | null {
  // Of slots in order so many can be shown: each takes its whole work, each other what is passed.
  const inOrder = paceUs > passUs ? (slotUs - passUs) / (paceUs - passUs) : 1;
  const over = Math.max(1, paceUs - slotUs);
  const shares = found.map(({ slot, leadUs }) => {
    const shown = 1 + Math.max(0, leadUs - delayUs - lateArrival * slotUs) / over;
    return shown / (slot - from + shown);
  });
  // The first is where going on in order leads to.
  const most = greatest(shares.slice(1), 0);
  if (most <= worthALeap * inOrder) return null;
  return (found[shares.findIndex((share) => share * asGood >= most)] as Found).slot;
}
