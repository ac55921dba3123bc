import fc from 'fast-check';
import { TimeLeftEstimator } from '../tasks/timeLeft';
import { mean, median, quantiles } from './quantiles';
import { seededRandom } from './random';
import { RecentMedian } from './recentMedian';

test('quantiles interpolate between order statistics', () => {
  expect(quantiles([4, 1, 3, 2], [0, 0.5, 1, 0.25])).toEqual([1, 2.5, 4, 1.75]);
  expect(quantiles([], [0.5])).toEqual([Number.NaN]);
  expect(median([5, Number.NaN, 1, 3])).toBe(3);
  expect(mean([Number.NaN, 2, 4])).toBe(3);
  expect(() => quantiles([1], [1.1])).toThrow('between 0 and 1');
});

test('a quantile never leaves the sample and grows with its probability', () => {
  fc.assert(fc.property(fc.array(fc.double({ noNaN: true, min: -1e9, max: 1e9 }), { minLength: 1 }), fc.double({ min: 0, max: 1, noNaN: true }), fc.double({ min: 0, max: 1, noNaN: true }), (sample, a, b) => {
    const [low, high] = quantiles(sample, [Math.min(a, b), Math.max(a, b)]) as [number, number];
    return low <= high + 1e-6 && low >= Math.min(...sample) - 1e-6 && high <= Math.max(...sample) + 1e-6;
  }));
});

test('the recent median is the lower median of the last values', () => {
  fc.assert(fc.property(fc.array(fc.integer({ min: 0, max: 50 }), { minLength: 1, maxLength: 60 }), fc.integer({ min: 1, max: 11 }), (values, size) => {
    const recent = new RecentMedian(size);
    values.forEach((value) => recent.add(value));
    const last = values.slice(-size).sort((a, b) => a - b);
    return recent.value === last[(last.length - 1) >> 1];
  }));
});

test('one stall does not move the recent median', () => {
  const recent = new RecentMedian(9);
  for (let i = 0; i < 9; i++) recent.add(10);
  recent.add(5_000);
  expect(recent.value).toBe(10);
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
