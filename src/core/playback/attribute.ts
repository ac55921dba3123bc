import { simulate, type FreeStages, type Simulated } from './simulate';
import { causes, slotState, type Cause } from './slots';
import type { Trace } from './trace';
import type { ChosenWork } from './measuredWork';
import type { Work } from './work';

/** Bits of a charge: the causes of a drop. Several bits: only together. */
export const causeBit: Record<Cause, number> = { read: 1, decode: 2, process: 4, present: 8, media: 16 };

/** The causes of a charge, in order of work. */
export function causesOf(charge: number): Cause[] {
  return causes.filter((cause) => charge & causeBit[cause]);
}

/** Charges as bits with their drops, most drops first. */
export function chargesByDrops(
  countByCharge: Attribution['countByCharge'],
): { charge: number; drops: number }[] {
  return Object.entries(countByCharge)
    .map(([charge, drops]) => ({ charge: Number(charge), drops }))
    .sort((a, b) => b.drops - a.drops);
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
 * adds drops. A drop that only moves to another slot is not cured: to a set of stages, with all sets within
 * it, never more drops are charged than freeing it removes on balance; the rest is charged to more stages
 * together. What the decoder made no picture of is charged to the media: no stage would cure it.
 */
export function attribute(trace: Trace, measured: ChosenWork): Attribution {
  const { work, decisions } = measured;
  const recorded = simulate(work, { decisions });
  const chosen = simulate(work);
  const replays = new Map<number, Simulated>([[0, recorded]]);
  for (const bits of [1, 2, 4, 3, 5, 6, 7]) {
    const smaller = [0, ...[1, 2, 4, 3, 5, 6].filter((set) => set !== bits && (set & bits) === set)];
    replays.set(
      bits,
      bestReplay(
        work,
        freeOf(bits),
        smaller.map((set) => (replays.get(set) as Simulated).decisions),
      ),
    );
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
  return {
    charges,
    countByCharge,
    dropped,
    droppedWhenFree,
    agreement: agreement(trace, recorded),
    policyAgreement: agreement(trace, chosen),
  };
}

function freeOf(bits: number): FreeStages {
  return { read: (bits & 1) !== 0, decode: (bits & 2) !== 0, process: (bits & 4) !== 0 };
}

/** The replay with the fewest drops among the player's own choices and the given ones. */
function bestReplay(work: Work, free: FreeStages, choices: readonly Uint8Array[]): Simulated {
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
  const isRefused = (slot: number) => work.refused?.[slot] === 1;
  const cured = new Map(
    sets.map((bits) => [bits, curedOnBalance(trace, (replays.get(bits) as Simulated).dropped, isRefused)]),
  );
  const room = new Map([...cured].map(([bits, { count }]) => [bits, count]));
  const holds = (bits: number) => sets.every((set) => (set & bits) !== bits || (room.get(set) as number) > 0);
  const charge = (slot: number, bits: number) => {
    charges[slot] = bits;
    for (const set of sets) if ((set & bits) === bits) room.set(set, (room.get(set) as number) - 1);
  };
  let lastShown = -1;
  const left: number[] = [];
  for (let slot = 0; slot < trace.length; slot++) {
    if (trace.state[slot] !== slotState.dropped) {
      lastShown = slot;
      continue;
    }
    if (isRefused(slot)) {
      charges[slot] = causeBit.media;
      continue;
    }
    const would = ofEachSize.map((some) =>
      some.filter((bits) => cured.get(bits)?.slots[slot] === 1 && holds(bits)),
    );
    const fewest = would.find((some) => some.length > 0);
    if (fewest) charge(slot, busiest(work, fewest, lastShown + 1, slot));
    else left.push(slot);
  }
  // What moved from slot to slot with fewer stages free, and what nothing cures.
  for (const slot of left) {
    if (holds(7)) charge(slot, 7);
    else charges[slot] = causeBit.present;
  }
  return charges;
}

/** Sets of stages as bits, by how many they hold. */
const ofEachSize = [[1, 2, 4], [3, 5, 6], [7]] as const;
const sets = ofEachSize.flat();

/**
 * Slots dropped in a run and shown in a replay, less one for each slot that drops in the replay instead: of them those
 * nearest to such a slot.
 */
function curedOnBalance(
  trace: Trace,
  replayed: Uint8Array,
  isRefused: (slot: number) => boolean,
): { slots: Uint8Array; count: number } {
  const slots = new Uint8Array(trace.length);
  const changed: Changed[] = [];
  for (let slot = 0; slot < trace.length; slot++) {
    const wasDropped = trace.state[slot] === slotState.dropped;
    if (isRefused(slot) || wasDropped === (replayed[slot] === 1)) continue;
    slots[slot] = wasDropped ? 1 : 0;
    changed.push({ slot, isCured: wasDropped });
  }
  let rest = changed;
  for (let within = 1; rest.length > 1 && within < 2 * trace.length; within *= 2)
    rest = withoutMoved(rest, within);
  const isKept = new Set(rest.map(({ slot }) => slot));
  for (const { slot } of changed) if (!isKept.has(slot)) slots[slot] = 0;
  return { slots, count: rest.reduce((sum, { isCured }) => sum + (isCured ? 1 : 0), 0) };
}

interface Changed {
  readonly slot: number;
  readonly isCured: boolean;
}

/** Leaves out pairs of a cured slot and one that drops instead, at most so many slots apart. */
function withoutMoved(changed: readonly Changed[], within: number): Changed[] {
  const rest: Changed[] = [];
  for (const one of changed) {
    const last = rest.at(-1);
    if (last && last.isCured !== one.isCured && one.slot - last.slot <= within) rest.pop();
    else rest.push(one);
  }
  return rest;
}

/** Where several sets would have cured a drop alone: the one that worked longest since the last shown frame. */
function busiest(work: Work, some: readonly number[], from: number, to: number): number {
  if (some.length === 1) return some[0] as number;
  const timeOf = (bits: number) => {
    let sum = 0;
    for (let slot = from; slot <= to; slot++) {
      if (bits & 1) sum += work.read[slot] as number;
      if (bits & 2) sum += work.decode[slot] as number;
      if (bits & 4) sum += work.process[slot] as number;
    }
    return sum;
  };
  return some.reduce((best, bits) => (timeOf(bits) > timeOf(best) ? bits : best));
}
