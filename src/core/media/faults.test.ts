import fc from 'fast-check';
import {
  clipFaults,
  countIn,
  doubtfulFrames,
  faultsOfClip,
  faultWords,
  mergeFaults,
  rangesOf,
  refusedIn,
  refusedNote,
  repeatedNote,
  type FrameFault,
} from './faults';
import { frameIndex } from './frameIndex';
import { madeUpTable } from '../playback/work';

/** I P B B P B B, twice: rows 0 to 6 and 7 to 13; frames by row. */
const order = Uint32Array.of(0, 3, 1, 2, 6, 4, 5, 7, 10, 8, 9, 13, 11, 12);
const key = Uint8Array.from({ length: 14 }, (_, frame) => (frame % 7 === 0 ? 1 : 0));
const disposable = Uint8Array.from({ length: 14 }, (_, frame) =>
  [1, 2, 4, 5, 8, 9, 11, 12].includes(frame) ? 1 : 0,
);
const longGop = frameIndex(madeUpTable(order, key, disposable));
const ones = new Uint8Array(14).fill(1);
const intra = frameIndex(madeUpTable(Uint32Array.from(order.keys()), ones, ones));
const told = (...faults: (readonly [number, FrameFault])[]) => new Map(faults);

test('numbers that follow each other become ranges, and ranges hold what they were made of', () => {
  fc.assert(
    fc.property(fc.array(fc.integer({ min: 0, max: 60 })), (numbers) => {
      const ranges = rangesOf(numbers);
      expect(countIn(ranges)).toBe(new Set(numbers).size);
      for (let number = -1; number < 62; number++)
        expect(ranges.some(([first, last]) => first <= number && number <= last)).toBe(
          numbers.includes(number),
        );
      ranges.slice(1).forEach(([first], at) => {
        expect(first).toBeGreaterThan(ranges[at]![1] + 1);
      });
    }),
  );
});

test('what is coded after a lost reference in its group is built on it; a frame that nothing refers to takes none with it', () => {
  // Frame 3 is row 1: all of its group but the key frame come after it.
  expect(clipFaults(longGop, told([3, 'damage']))).toEqual({
    damage: [[3, 3]],
    'built-on': [
      [1, 2],
      [4, 6],
    ],
  });
  expect(clipFaults(longGop, told([4, 'damage']))).toEqual({ damage: [[4, 4]] });
  expect(clipFaults(longGop, told([7, 'concealed']))).toEqual({ concealed: [[7, 7]], 'built-on': [[8, 13]] });
  expect(clipFaults(intra, told([3, 'damage'], [4, 'feature']))).toEqual({
    damage: [[3, 3]],
    feature: [[4, 4]],
  });
});

test('the last group before an open one is lost up to the frames that lead into the next', () => {
  // I0 P3 B1 B2 | I6 B4 B5 P9: 4 and 5 are shown before the key frame 6 and refer to 3 as well.
  const open = frameIndex(
    madeUpTable(
      Uint32Array.of(0, 3, 1, 2, 6, 4, 5, 9, 7, 8),
      Uint8Array.of(1, 0, 0, 0, 0, 0, 1, 0, 0, 0),
      Uint8Array.of(0, 1, 1, 0, 1, 1, 0, 1, 1, 0),
    ),
  );
  expect(clipFaults(open, told([3, 'damage']))['built-on']).toEqual([
    [1, 2],
    [4, 5],
  ]);
});

test('two looks at a clip: refused stays refused, the later look tells why, and what is built on it follows', () => {
  const earlier = clipFaults(longGop, told([3, 'no-picture'], [8, 'concealed']));
  const later = clipFaults(longGop, told([3, 'damage'], [8, 'no-picture']));
  expect(mergeFaults(longGop, earlier, later)).toEqual({
    damage: [[3, 3]],
    'no-picture': [[8, 8]],
    'built-on': [
      [1, 2],
      [4, 6],
    ],
  });
  expect(mergeFaults(longGop, later, clipFaults(longGop, told([8, 'concealed'])))).toEqual(later);
  expect(mergeFaults(longGop, {}, later)).toEqual(later);
  // Who only sees that none came knows less than who was told why.
  expect(mergeFaults(longGop, later, earlier)).toEqual(later);
  expect(mergeFaults(longGop, later, { feature: [[3, 3]] })).toMatchObject({ feature: [[3, 3]] });
});

test('frames are counted and doubted by what is wrong with them; want of memory is not the clip’s', () => {
  const faults = clipFaults(longGop, told([3, 'damage'], [8, 'memory'], [11, 'concealed']));
  expect(refusedIn(faults)).toBe(2);
  expect([...doubtfulFrames(faults)].sort((a, b) => a - b)).toEqual([1, 2, 4, 5, 6, 11]);
  expect(faultsOfClip(faults)).not.toHaveProperty('memory');
  expect([refusedNote(faults), refusedNote({}), repeatedNote({ damage: [[1, 1]] })]).toEqual([
    ' 2 frames of the clip could not be decoded.',
    '',
    ' 1 frame of the source could not be decoded; the one before is repeated there.',
  ]);
});

test('each fault is told with its places and what to do, what cannot be shown first', () => {
  const at = (frame: number) => `00:00:00:0${frame}`;
  const words = faultWords(
    {
      'built-on': [
        [1, 2],
        [4, 4],
      ],
      damage: [[3, 3]],
      feature: [[5, 6]],
    },
    at,
  );
  expect(words.map(({ kind, count, short }) => [kind, count, short])).toEqual([
    ['damage', 1, '1 damaged'],
    ['feature', 2, '2 beyond the decoder'],
    ['built-on', 3, '3 built on those'],
  ]);
  expect(words[0]!.text).toBe(
    'At 00:00:00:03: 1 frame is damaged and cannot be decoded. Copy the file again from its source and compare the two.',
  );
  expect(words[1]!.text).toBe(
    'At 00:00:00:05 to 00:00:00:06: 2 frames use a feature that the decoder does not have. Another copy will not help; choose another clip, or a rendition of it made elsewhere.',
  );
  const many = faultWords(
    {
      concealed: [
        [0, 0],
        [2, 2],
        [4, 4],
        [6, 6],
        [8, 8],
      ],
    },
    at,
  );
  expect(many[0]!.text).toMatch(
    /^At 00:00:00:00, 00:00:00:02, 00:00:00:04, 00:00:00:06 and 1 more place: 5 frames are damaged and concealed/,
  );
  expect(faultWords({}, at)).toEqual([]);
});
