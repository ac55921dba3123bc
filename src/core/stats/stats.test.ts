import fc from 'fast-check';
import { TimeLeftEstimator } from '../tasks/timeLeft';
import { greatest, least } from './extremes';
import { mean, median, quantiles } from './quantiles';
import { seededRandom } from './random';
import { RecentCost } from './recentCost';
import { RecentMean } from './recentMean';
import { RecentQuantile } from './recentQuantile';

test('quantiles interpolate between order statistics', () => {
  expect(quantiles([4, 1, 3, 2], [0, 0.5, 1, 0.25])).toEqual([1, 2.5, 4, 1.75]);
  expect(quantiles([], [0.5])).toEqual([Number.NaN]);
  expect(median([5, Number.NaN, 1, 3])).toBe(3);
  expect(mean([Number.NaN, 2, 4])).toBe(3);
  expect(() => quantiles([1], [1.1])).toThrow('between 0 and 1');
});

test('a quantile never leaves the sample and grows with its probability', () => {
  fc.assert(
    fc.property(
      fc.array(fc.double({ noNaN: true, min: -1e9, max: 1e9 }), { minLength: 1 }),
      fc.double({ min: 0, max: 1, noNaN: true }),
      fc.double({ min: 0, max: 1, noNaN: true }),
      (sample, a, b) => {
        const [low, high] = quantiles(sample, [Math.min(a, b), Math.max(a, b)]) as [number, number];
        return low <= high + 1e-6 && low >= Math.min(...sample) - 1e-6 && high <= Math.max(...sample) + 1e-6;
      },
    ),
  );
});

test('a recent quantile is a remembered value, at its rank among the last ones', () => {
  fc.assert(
    fc.property(
      fc.array(fc.integer({ min: 0, max: 50 }), { minLength: 1, maxLength: 60 }),
      fc.integer({ min: 1, max: 11 }),
      fc.constantFrom(0, 0.25, 0.5, 0.75, 1),
      (values, size, quantile) => {
        const recent = new RecentQuantile(quantile, size);
        values.forEach((value) => recent.add(value));
        const last = values.slice(-size).sort((a, b) => a - b);
        return recent.value === last[Math.round(quantile * (last.length - 1))];
      },
    ),
  );
  expect(new RecentQuantile(0.5).value).toBe(0);
  expect(() => new RecentQuantile(1.5)).toThrow('between 0 and 1');
});

test('a recent cost is time over amount of the last pieces', () => {
  fc.assert(
    fc.property(
      fc.array(fc.tuple(fc.integer({ min: 90, max: 110 }), fc.integer({ min: 9, max: 11 })), {
        minLength: 1,
        maxLength: 40,
      }),
      (pieces) => {
        const recent = new RecentCost();
        pieces.forEach(([time, amount]) => recent.add(time, amount));
        const last = pieces.slice(-9);
        const sum = (column: 0 | 1) => last.reduce((total, piece) => total + piece[column], 0);
        return Math.abs(recent.perUnit - sum(0) / sum(1)) < 1e-9;
      },
    ),
  );
  expect(new RecentCost().perUnit).toBe(0);
  expect(() => new RecentCost(0)).toThrow('size of 1 or more');
});

test('stalls do not move a recent cost, and time without an amount counts with the next piece', () => {
  const recent = new RecentCost(9);
  for (let i = 0; i < 9; i++) recent.add(10, 1);
  recent.add(5_000, 1);
  recent.add(4_000, 1);
  expect(recent.perUnit).toBeCloseTo(10);
  const early = new RecentCost(9);
  early.add(5_000, 1);
  early.add(10, 1);
  early.add(10, 1);
  expect(early.perUnit).toBeCloseTo(10);
  const lumpy = new RecentCost(9);
  for (let i = 0; i < 6; i++) {
    lumpy.add(6, 0);
    lumpy.add(4, 2);
  }
  expect(lumpy.perUnit).toBeCloseTo(5);
});

test('a recent mean counts what is not there yet as nothing', () => {
  const recent = new RecentMean(4);
  recent.add(1);
  expect(recent.value).toBe(0.25);
  for (let i = 0; i < 8; i++) recent.add(0);
  expect(recent.value).toBe(0);
  expect(() => new RecentMean(0)).toThrow('size of 1 or more');
});

test('the same seed gives the same numbers, another seed others', () => {
  const [a, b, c] = [seededRandom(7), seededRandom(7), seededRandom(8)];
  const row = Array.from({ length: 5 }, a);
  expect(Array.from({ length: 5 }, b)).toEqual(row);
  expect(Array.from({ length: 5 }, c)).not.toEqual(row);
  expect(row.every((value) => value >= 0 && value < 1)).toBe(true);
});

test('time left follows a steady rate and does not halve for one fast report', () => {
  const left = new TimeLeftEstimator();
  expect(left.remainingMs(100)).toBeNull();
  for (let second = 0; second <= 10; second++) left.observe(second * 10, second * 1000);
  expect(left.remainingMs(200)).toBeCloseTo(10_000, 0);
  left.observe(130, 11_000);
  expect(left.remainingMs(230)!).toBeGreaterThan(5_000);
});

test('the least and greatest of lists of any length, and what stands for them where there is none', () => {
  const many = new Float64Array(1_000_000).map((_, index) => Math.sin(index));
  expect([least(many) >= -1, least(many) < -0.9999, greatest(many) <= 1, greatest(many) > 0.9999]).toEqual([
    true,
    true,
    true,
    true,
  ]);
  expect([greatest([3, 7, 5]), least([3, 7, 5]), greatest([3], 4), least([3], 2)]).toEqual([7, 3, 4, 2]);
  expect([greatest([]), least([]), greatest([], 0), least(new Set<number>(), 9)]).toEqual([
    -Infinity,
    Infinity,
    0,
    9,
  ]);
});
