import fc from 'fast-check';
import { groupBy } from './groups';

test('groups keep every item once, in order, under its key, keys as they first occur', () => {
  expect([...groupBy('bananas', (letter) => letter)]).toEqual([
    ['b', ['b']],
    ['a', ['a', 'a', 'a']],
    ['n', ['n', 'n']],
    ['s', ['s']],
  ]);
  fc.assert(
    fc.property(fc.array(fc.integer()), fc.integer({ min: 1, max: 9 }), (numbers, divisor) => {
      const groups = groupBy(numbers.keys(), (at) => (numbers[at] as number) % divisor);
      expect([...groups.values()].flat().sort((a, b) => a - b)).toEqual([...numbers.keys()]);
      for (const [key, places] of groups) {
        expect(places.every((at) => (numbers[at] as number) % divisor === key)).toBe(true);
        expect(places).toEqual(places.toSorted((a, b) => a - b));
      }
      expect([...groups.values()].map(([first]) => first)).toEqual(
        [...groups.values()].map(([first]) => first as number).toSorted((a, b) => a - b),
      );
    }),
  );
});
