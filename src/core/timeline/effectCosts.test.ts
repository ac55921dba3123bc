import fc from 'fast-check';
import { addedUs, type CostPair } from './effectCosts';

/** Pairs on a machine that takes `slower` times as long in some turns. */
function pairsOf(plainUs: number, moreUs: number, slower: readonly number[]): CostPair[] {
  const turn = (index: number) => slower[index] ?? 1;
  return Array.from({ length: 7 }, (_, run) => ({
    plainUs: plainUs * turn(2 * run),
    withUs: (plainUs + moreUs) * turn(2 * run + 1),
  }));
}

test('what an effect adds is told as it is on a machine that stays the same', () => {
  expect(addedUs(pairsOf(10_000, 3_000, []))).toBe(3_000);
  expect(addedUs(pairsOf(10_000, -4_000, []))).toBe(-4_000);
});

test('a machine that is slower for a while never makes an effect save time that it costs', () => {
  fc.assert(
    fc.property(
      fc.integer({ min: 1_000, max: 40_000 }),
      fc.integer({ min: 100, max: 40_000 }),
      fc.double({ min: 1, max: 6, noNaN: true }),
      fc.integer({ min: 0, max: 13 }),
      fc.integer({ min: 0, max: 14 }),
      (plainUs, moreUs, factor, from, length) => {
        const slower = Array.from({ length: 14 }, (_, turn) =>
          turn >= from && turn < from + length ? factor : 1,
        );
        const added = addedUs(pairsOf(plainUs, moreUs, slower));
        // Only the pair in which the slow time begins or ends is torn; the median leaves it out.
        expect(added).toBeGreaterThanOrEqual(moreUs * 0.999);
        expect(added).toBeLessThanOrEqual(moreUs * factor * 1.001);
      },
    ),
  );
});
