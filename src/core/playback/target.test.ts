import fc from 'fast-check';
import { targetFrom, type TargetSearch } from './target';

const slotUs = 40_000;

/** A search over slots that end one after the other; what is asked is given in slots. */
function search(change: {
  readonly finish: (slot: number) => number;
  readonly unit?: number;
  readonly pass?: number;
  readonly delay?: number;
  readonly givenUp?: readonly number[];
  readonly from?: number;
  readonly keyInterval?: number;
}): TargetSearch {
  const { finish, unit = 1.8, pass = 0, delay = 0, givenUp = [], from = 0, keyInterval = 24 } = change;
  return {
    from,
    end: from + 250,
    slotUs,
    keyInterval,
    bufferUs: 10 * slotUs,
    delayUs: delay * slotUs,
    isGivenUp: (slot) => givenUp.includes(slot),
    finishUs: (slot) => finish(slot) * slotUs,
    deadlineOf: (slot) => (slot + 1) * slotUs,
    makes: (slot, finishUs) => finishUs < (slot + 1) * slotUs,
    unitUs: () => unit * slotUs,
    passUs: () => pass * slotUs,
  };
}

test('a slot that can be made is gone on at; a late player goes to the first that can', () => {
  expect(targetFrom(search({ finish: () => 0.5 }))).toBe(0);
  expect(targetFrom(search({ from: 30, finish: () => 30.5 }))).toBe(30);
  // 1.5 slots late, and each slot that is passed costs nothing.
  expect(targetFrom(search({ finish: () => 2.5, unit: 0.9 }))).toBe(2);
  // What is given up already is no target.
  expect(targetFrom(search({ finish: () => 2.5, unit: 0.9, givenUp: [2, 3] }))).toBe(4);
});

test('where nothing can be made it goes a few slots on, towards the one that is least late', () => {
  expect(targetFrom(search({ finish: (slot) => slot + 5 }))).toBe(0);
  expect(targetFrom(search({ finish: (slot) => slot + 5 + Math.abs(slot - 8) / 10 }))).toBe(8);
  expect(targetFrom(search({ finish: (slot) => slot + 5 + Math.abs(slot - 90) / 10 }))).toBe(12);
});

test('a delay of late is allowed for, but is no reason to lose many slots', () => {
  expect(targetFrom(search({ finish: () => 2.5, unit: 0.9, delay: 1 }))).toBe(3);
  // Each slot gains a tenth: with the delay it would be 20 slots on.
  expect(targetFrom(search({ finish: (slot) => slot * 0.9 + 1.05, unit: 0.9, delay: 2 }))).toBe(1);
});

/** Late by a third of a slot; two slots on there is a lead of 2.5, and from there it grows until the buffers are full, 16 slots on. */
const growing = (slot: number) => slot + 1 - (slot < 2 ? -0.3 : Math.min(10, 2.5 + (slot - 2) * 0.54));

test('where slots in order take longer than they last but passing them is cheap, the nearest is gone on at', () => {
  // Of 1.8 slots' work a slot, 0.3 is passed: in order half of the slots can be shown, which no leap beats.
  expect(targetFrom(search({ finish: growing, pass: 0.3 }))).toBe(2);
});

test('where passing takes nearly all the time, it leaps to where the buffers fill and makes every slot from there', () => {
  // In order a quarter of the slots could be shown; a leap of 16 buys a lead of ten, which lasts for nearly as many slots as it lost.
  expect(targetFrom(search({ finish: growing, pass: 0.73 }))).toBeGreaterThan(5);
  expect(targetFrom(search({ finish: growing, pass: 0.73 }))).toBeLessThanOrEqual(16);
  // What it lately arrived late by is taken off every lead: then even that is not worth it.
  expect(targetFrom(search({ finish: growing, pass: 0.73, delay: 2.4 }))).toBe(2);
});

test('a later target is better where it saves clearly more work for each slot it loses', () => {
  // 18 slots on all feeds come to key frames: 8 slots' time to get there, where 1.8 a slot would be 32.
  expect(
    targetFrom(search({ pass: 0.9, finish: (slot) => (slot < 18 ? 2 + slot * 0.9 : 8 + (slot - 18) * 0.9) })),
  ).toBe(18);
  // No farther than a second or a key-frame interval.
  expect(
    targetFrom(search({ pass: 0.9, finish: (slot) => (slot < 230 ? 2 + slot * 0.9 : 150) })),
  ).toBeLessThan(60);
});

test('whatever it takes, a target is a slot ahead that is not given up, and the first one where all can be made from there', () => {
  fc.assert(
    fc.property(
      fc.array(fc.double({ min: 0.05, max: 3, noNaN: true }), { minLength: 300, maxLength: 300 }),
      fc.double({ min: -3, max: 12, noNaN: true }),
      fc.double({ min: 0.2, max: 3, noNaN: true }),
      fc.double({ min: 0, max: 1, noNaN: true }),
      fc.uniqueArray(fc.integer({ min: 1, max: 40 })),
      (costs, late, unit, pass, givenUp) => {
        const asked: number[] = [];
        const sums = costs.map((_, slot) =>
          costs.slice(0, slot + 1).reduce((sum, cost) => sum + cost * pass, late + 0.5),
        );
        const found = targetFrom(
          search({
            unit,
            pass,
            givenUp,
            finish: (slot) => {
              asked.push(slot);
              return sums[slot]!;
            },
          }),
        );
        expect(found).toBeGreaterThanOrEqual(0);
        expect(found).toBeLessThan(250);
        expect(asked).toEqual(asked.map((_, at) => at)); // in order, once each
        // Of the 250 slots that are looked through: what can be made after them is not seen.
        const makable = sums
          .slice(0, 250)
          .findIndex((sum, slot) => sum < slot + 1 && !givenUp.includes(slot));
        if (makable === 0) expect(found).toBe(0);
        if (makable > 0 && unit < 0.999) expect(found).toBe(makable);
        if (makable >= 0) expect(givenUp).not.toContain(found);
      },
    ),
    { numRuns: 150 },
  );
});
