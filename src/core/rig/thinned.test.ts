import { thinned } from './thinned';

test('few rows stay as they are; of many, neighbours become one', () => {
  const rows = Array.from({ length: 10 }, (_, at) => ({
    at: new Date(at),
    load: at,
    clock: at < 4 ? null : 3,
    throttled: at === 2 ? true : at > 7 ? null : false,
    trialId: 't',
  }));
  expect(thinned(rows, 10)).toBe(rows);
  expect(thinned(rows, 3)).toEqual([
    { at: new Date(3), load: 1.5, clock: null, throttled: true, trialId: 't' },
    { at: new Date(7), load: 5.5, clock: 3, throttled: false, trialId: 't' },
    { at: new Date(9), load: 8.5, clock: 3, throttled: null, trialId: 't' },
  ]);
  expect(thinned([], 3)).toEqual([]);
});
