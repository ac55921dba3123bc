import fc from 'fast-check';
import {
  findSequences,
  frameFiles,
  gapsOf,
  sequenceFiles,
  sequenceName,
  sequenceSpan,
} from './imageSequence';

const names = (from: number, to: number, digits: number, prefix = 'plate.', suffix = '.exr') =>
  Array.from(
    { length: to - from + 1 },
    (_, at) => `${prefix}${String(from + at).padStart(digits, '0')}${suffix}`,
  );

test('pictures whose names differ by a number alone are one sequence, with its gaps named', () => {
  const files = [...names(1001, 1039, 4), ...names(1044, 1050, 4), ...names(1052, 1060, 4)];
  const { sequences, loose } = findSequences([...files].reverse());
  expect(loose).toEqual([]);
  expect(sequences).toHaveLength(1);
  const [sequence] = sequences;
  expect(sequenceName(sequence!)).toBe('plate.####.exr');
  expect(sequenceFiles(sequence!)).toEqual(files);
  expect(sequenceSpan(sequence!)).toEqual([1001, 1060]);
  const frames = frameFiles(sequence!);
  expect(frames).toHaveLength(60);
  expect(frames.slice(38, 44)).toEqual([...Array<string>(5).fill('plate.1039.exr'), 'plate.1044.exr']);
  expect([...new Set(frames)]).toEqual(files);
  expect(gapsOf(sequence!)).toEqual({ frames: 5, words: '1040 to 1043, 1051' });
});

test('numbers filled up with zeros are kept so, with larger ones beside them', () => {
  const { sequences } = findSequences(names(998, 1002, 4, 'a_', '_v2.dpx'));
  expect(sequences.map(sequenceName)).toEqual(['a_####_v2.dpx']);
  expect(sequenceFiles(sequences[0]!)).toEqual(names(998, 1002, 4, 'a_', '_v2.dpx'));
  const unfilled = findSequences(['9.png', '10.png', '11.png']);
  expect(sequenceFiles(unfilled.sequences[0]!)).toEqual(['9.png', '10.png', '11.png']);
  expect(sequenceName(unfilled.sequences[0]!)).toBe('#.png');
});

test('shots, kinds and versions beside each other stay apart', () => {
  const groups = [
    names(1, 9, 4, 'sh010.'),
    names(1, 9, 4, 'sh020.'),
    names(1, 9, 4, 'sh010.', '.jpg'),
    names(1, 9, 3, 'sh010.'),
  ];
  const { sequences, loose } = findSequences(groups.flat());
  expect(loose).toEqual([]);
  expect(sequences.map((one) => sequenceFiles(one)).sort()).toEqual(groups.sort());
});

test('single pictures, dates, counters with few of their numbers, and names without one are loose', () => {
  const loose = [
    'still.png',
    'slate_20261201.jpg',
    'IMG_0007.jpg',
    'IMG_4711.jpg',
    'x12345678901234.tif',
    'x12345678901235.tif',
  ];
  expect(findSequences(loose)).toEqual({ sequences: [], loose: expect.arrayContaining(loose) as string[] });
  expect(findSequences(loose).loose).toHaveLength(loose.length);
});

test('every name is found in one sequence or among the loose ones, once', () => {
  const name = fc.tuple(
    fc.constantFrom('a', 'b_', 'v2.', ''),
    fc.integer({ min: 0, max: 30 }),
    fc.integer({ min: 1, max: 4 }),
    fc.constantFrom('.exr', '.beauty.exr', '.png', ''),
  );
  fc.assert(
    fc.property(
      fc.uniqueArray(
        name.map(
          ([prefix, number, digits, suffix]) => prefix + String(number).padStart(digits, '0') + suffix,
        ),
        { maxLength: 40 },
      ),
      (all) => {
        const { sequences, loose } = findSequences(all);
        expect([...sequences.flatMap(sequenceFiles), ...loose].sort()).toEqual([...all].sort());
        expect(new Set(sequences.map(sequenceName)).size).toBe(sequences.length);
      },
    ),
  );
});
