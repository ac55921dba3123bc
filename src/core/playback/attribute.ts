import { simulate, type FreeStages, type Simulated } from './simulate';
import { causes, slotState, type Cause } from './slots';
import type { Trace } from './trace';
import type { MeasuredWork } from './measuredWork';
import type { Work } from './work';

/** Bits of a charge: the causes of a drop. Several bits: only together. */
export const causeBit: Record<Cause, number> = { read: 1, decode: 2, process: 4, present: 8, media: 16 };

/** The causes of a charge, in order of work. */
export function causesOf(charge: number): Cause[] {
  return causes.filter((cause) => charge & causeBit[cause]);
}

/** Charges as bits with their drops, most drops first. */
export function chargesByDrops(countByCharge: Attribution['countByCharge']): { charge: number; drops: number }[] {
  return Object.entries(countByCharge).map(([charge, drops]) => ({ charge: Number(charge), drops })).sort((a, b) => b.drops - a.drops);
}

export interface Attribution {
  /** Bits of `causeBit` per slot; 0 where nothing was dropped. */
  readonly charges: Uint8Array;
  /** Number of drops per charge, as bits; sums to `dropped`. */
  readonly countByCharge: Readonly<Record<number, number>>;
  readonly dropped: number;
  /** Share of slots for which the replay with recorded choices gives the measured outcome, 0 to 1. */
  readonly agreement: number;
  /** The same when the simulator makes the player's choices itself. */
  readonly policyAgreement: number;
  /** Drops left in the best replay with each set of stages free, by bits. */
  readonly droppedWhenFree: Readonly<Record<number, number>>;
}

/**
 * Charges every dropped slot of a run to the stage whose absence would have
 * cured it. The measured services are replayed with each set of stages free.
 * For every set the player may choose anew or keep the choices of any smaller
 * set, whichever drops less: with kept choices all times can only become
 * earlier (the recursion is monotone in its services), so freeing a stage never
 * adds drops. What the decoder made no picture of is charged to the media: no stage would cure it.
 */
export function attribute(trace: Trace, measured: MeasuredWork): Attribution {
  const { work, decisions } = measured;
  const recorded = simulate(work, { decisions });
  const chosen = simulate(work);
  const replays = new Map<number, Simulated>([[0, recorded]]);
  for (const bits of [1, 2, 4, 3, 5, 6, 7]) {
    const smaller = [0, ...[1, 2, 4, 3, 5, 6].filter((set) => set !== bits && (set & bits) === set)];
    replays.set(bits, bestReplay(work, freeOf(bits), smaller.map((set) => (replays.get(set) as Simulated).decisions)));
  }
  const charges = chargeDrops(trace, work, replays);
  const countByCharge: Record<number, number> = {};
  let dropped = 0;
  for (const charge of charges) {
    if (charge === 0) continue;
    dropped++;
    countByCharge[charge] = (countByCharge[charge] ?? 0) + 1;
  }
  const droppedWhenFree: Record<number, number> = {};
  for (const [bits, replay] of replays) droppedWhenFree[bits] = replay.droppedCount;
  return { charges, countByCharge, dropped, droppedWhenFree, agreement: agreement(trace, recorded), policyAgreement: agreement(trace, chosen) };
}

function freeOf(bits: number): FreeStages {
  return { read: (bits & 1) !== 0, decode: (bits & 2) !== 0, process: (bits & 4) !== 0 };
}

/** The replay with the fewest drops among the player's own choices and the given ones. */
export function bestReplay(work: Work, free: FreeStages, choices: readonly Uint8Array[]): Simulated {
  let best = simulate(work, { free });
  for (const decisions of choices) {
    if (best.droppedCount === 0) break;
    const replay = simulate(work, { free, decisions });
    if (replay.droppedCount < best.droppedCount) best = replay;
  }
  return best;
}

function agreement(trace: Trace, replay: Simulated): number {
  if (trace.length === 0) return 1;
  let same = 0;
  for (let slot = 0; slot < trace.length; slot++) {
    if ((trace.state[slot] === slotState.dropped) === (replay.dropped[slot] === 1)) same++;
  }
  return same / trace.length;
}

function chargeDrops(trace: Trace, work: Work, replays: Map<number, Simulated>): Uint8Array {
  const charges = new Uint8Array(trace.length);
  const cures = (bits: number, slot: number) => replays.get(bits)?.dropped[slot] === 0;
  let lastShown = -1;
  for (let slot = 0; slot < trace.length; slot++) {
    if (trace.state[slot] !== slotState.dropped) { lastShown = slot; continue; }
    if (work.refused?.[slot]) { charges[slot] = causeBit.media; continue; }
    const single = [1, 2, 4].filter((bits) => cures(bits, slot));
    const pair = [3, 5, 6].filter((bits) => cures(bits, slot));
    if (single.length > 0) charges[slot] = busiest(work, single, lastShown + 1, slot);
    else if (pair.length > 0) charges[slot] = busiest(work, pair, lastShown + 1, slot);
    else charges[slot] = cures(7, slot) ? 7 : causeBit.present;
  }
  return charges;
}

/** Where several sets would have cured a drop alone: the one that worked longest since the last shown frame. */
function busiest(work: Work, sets: readonly number[], from: number, to: number): number {
  if (sets.length === 1) return sets[0] as number;
  const timeOf = (bits: number) => {
    let sum = 0;
    for (let slot = from; slot <= to; slot++) {
      if (bits & 1) sum += work.read[slot] as number;
      if (bits & 2) sum += work.decode[slot] as number;
      if (bits & 4) sum += work.process[slot] as number;
    }
    return sum;
  };
  return sets.reduce((best, bits) => (timeOf(bits) > timeOf(best) ? bits : best));
}
