import { levelsOf } from './changePoint';
import { seededRandom } from './random';
import { normal } from './testing/noise';

/** Values about levels, with noise of a share of each. */
const about = (levels: readonly (readonly [number, number])[], noise: number, seed: number) => {
  const random = seededRandom(seed);
  return levels.flatMap(([count, level]) =>
    Array.from({ length: count }, () => level * (1 + noise * normal(random))),
  );
};

test('each level is found with its place and its median, falls and rises alike', () => {
  const found = levelsOf(
    about(
      [
        [60, 50],
        [90, 40],
        [50, 46],
      ],
      0.02,
      3,
    ),
    0.05,
    6,
  );
  expect(found.map(({ from, to }) => [from, to])).toEqual([
    [0, 60],
    [60, 150],
    [150, 200],
  ]);
  [50, 40, 46].forEach((level, at) => expect(Math.abs(found[at]!.value / level - 1)).toBeLessThan(0.01));
});

test('a row without a change is one level, in 19 of 20 rows at least, however short', () => {
  for (const count of [12, 24, 60, 360]) {
    const split = Array.from({ length: 200 }, (_, seed) =>
      levelsOf(about([[count, 30]], 0.08, seed + 1), 0.05, 6),
    ).filter((levels) => levels.length > 1);
    expect(split.length).toBeLessThanOrEqual(10);
  }
});

test('a tenth less is found in noise of a fiftieth, from a minute of points on', () => {
  const found = Array.from({ length: 100 }, (_, seed) =>
    levelsOf(
      about(
        [
          [60, 30],
          [60, 27],
        ],
        0.02,
        seed + 1,
      ),
      0.05,
      6,
    ),
  );
  expect(
    found.filter((levels) => levels.length === 2 && Math.abs(levels[1]!.from - 60) <= 1).length,
  ).toBeGreaterThan(95);
});

test('what is short is a dip, and nothing has no level', () => {
  const dip = about([[60, 30]], 0.01, 5).map((value, at) => (at >= 20 && at < 24 ? value / 3 : value));
  expect(levelsOf(dip, 0.05, 6)).toHaveLength(1);
  expect(levelsOf([], 0.05, 6)).toEqual([]);
  expect(levelsOf([7, 7, 7], 0.05, 6)).toEqual([{ from: 0, to: 3, value: 7 }]);
});
