import { throughputSentence } from '../sentences/storage';
import { emptyBlocks, joinBlocks, type Blocks } from './blocks';
import { rateFigures, summariseStaircase } from './throughput';
import { mostUnderWay, staircaseOf, stairs } from './underWay';

/** A second of blocks at a rate, one after the other. */
function atRate(megabytesPerSecond: number, repeat = 0): Blocks {
  const blocks = emptyBlocks(100);
  for (let row = 0; row < blocks.length; row++) {
    blocks.startUs[row] = row * 10_000;
    blocks.endUs[row] = (row + 1) * 10_000;
    blocks.bytes[row] = megabytesPerSecond * 10_000;
    blocks.dueUs[row] = Number.NaN;
    blocks.repeat[row] = repeat;
  }
  return blocks;
}
const step = (underWay: number, rate: number) => ({ underWay, figures: rateFigures(atRate(rate))! });

test('stairs double up to the most that can be under way', () => {
  expect(stairs[0]).toBe(1);
  expect(stairs.at(-1)).toBe(mostUnderWay);
  stairs.slice(1).forEach((count, at) => expect(count).toBe(2 * stairs[at]!));
});

test('what is needed is the fewest that give nearly all that any gave', () => {
  expect(staircaseOf([step(1, 100), step(2, 190), step(4, 380), step(8, 392), step(16, 400)])!.needed).toBe(
    4,
  );
  expect(staircaseOf([step(1, 100), step(2, 96), step(4, 101)])!.needed).toBe(1);
  // A rate that falls with more of them is not wanted.
  expect(staircaseOf([step(1, 60), step(2, 100), step(4, 70)])!.needed).toBe(2);
  expect(staircaseOf([])).toBeNull();
});

test('a record of steps becomes a staircase, told in a sentence, with the figures of the step that is needed', () => {
  const rates = [100, 200, 390, 400, 398, 401, 400];
  const summary = summariseStaircase(joinBlocks(rates.map((rate, at) => atRate(rate, at))));
  expect(summary.staircase!.steps.map(({ underWay }) => underWay)).toEqual(stairs);
  expect(summary.staircase!.needed).toBe(4);
  expect(summary.read!.sustained).toBeCloseTo(390e6, -3);
  expect(summary.write).toBeNull();
  expect(throughputSentence(summary, null)).toBe(
    'Needs 4 requests under way for its full rate: reads 390\u202fMB/s with them, 100\u202fMB/s with one.',
  );
  const flat = summariseStaircase(joinBlocks([100, 101].map((rate, at) => atRate(rate, at))));
  expect(throughputSentence(flat, null)).toBe(
    'Gives its full rate with one request under way: reads 100\u202fMB/s, and no more with up to 2.',
  );
});
