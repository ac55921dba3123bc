import fc from 'fast-check';
import { rational, slotDueUs, rateLabel, multiply } from './rational';
import { clipTimecode } from './clipTimecode';
import { countingFor, formatTimecode, parseTimecode, nearestTimecode, frameOfSameLabel } from './timecode';

const ntsc = rational(30000, 1001);

test('a rational is kept in lowest terms with a positive denominator', () => {
  expect(rational(50, -2)).toEqual({ num: -25, den: 1 });
  expect(rational(48000, 2002)).toEqual({ num: 24000, den: 1001 });
  expect(() => rational(1, 0)).toThrow('denominator 0');
  expect(() => rational(23.976)).toThrow('whole numbers');
  expect(multiply(rational(24000, 1001), rational(1001, 24000))).toEqual({ num: 1, den: 1 });
});

test('slot times do not drift: after 24000 slots at 23.976 exactly 1001 s have passed', () => {
  expect(slotDueUs(24000, rational(24000, 1001))).toBe(1001e6);
  expect(rateLabel(rational(24000, 1001))).toBe('23.976 (24000/1001)');
});

test('drop-frame skips labels 00 and 01 each minute but every tenth (SMPTE ST 12-1)', () => {
  const counting = countingFor(ntsc, true);
  expect(formatTimecode(1799, counting)).toBe('00:00:59;29');
  expect(formatTimecode(1800, counting)).toBe('00:01:00;02');
  expect(formatTimecode(17982, counting)).toBe('00:10:00;00');
  expect(formatTimecode(107892, counting)).toBe('01:00:00;00');
});

test('non-drop counts every label', () => {
  expect(formatTimecode(90061 * 24 + 5, countingFor(rational(24)))).toBe('01:01:01:05');
});

test('labels that do not exist are refused with the reason', () => {
  const counting = countingFor(ntsc, true);
  expect(() => parseTimecode('00:01:00;00', counting)).toThrow('drop-frame timecode skips');
  expect(() => parseTimecode('00:00:00:24', countingFor(rational(24)))).toThrow('does not exist');
  expect(() => parseTimecode('noon', counting)).toThrow('write hh:mm:ss:ff');
  expect(() => countingFor(rational(25), true)).toThrow('only at 29.97');
});

test.each([
  [countingFor(rational(24)), 24 * 86400],
  [countingFor(rational(25)), 25 * 86400],
  [countingFor(ntsc, true), 2589408],
  [countingFor(rational(60000, 1001), true), 5178816],
  [countingFor(ntsc), 30 * 86400],
])('timecode round-trips at %o', (counting, framesPerDay) => {
  fc.assert(
    fc.property(
      fc.integer({ min: 0, max: framesPerDay - 1 }),
      (frame) => parseTimecode(formatTimecode(frame, counting), counting) === frame,
    ),
  );
});

const framesOf = (base: number) => rational(base * 1000, 1001);

test('above 100 frames a second frames have three digits, and the reader takes them', () => {
  const counting = countingFor(rational(120));
  expect(formatTimecode(120 * 60 + 7, counting)).toBe('00:01:00:007');
  expect(parseTimecode('00:01:00:007', counting)).toBe(7207);
  expect(formatTimecode(99, countingFor(rational(100)))).toBe('00:00:00:99');
  // Dropped labels keep step with the clock: ten minutes of it.
  expect(formatTimecode(71_928, countingFor(framesOf(120), true))).toBe('00:10:00;000');
  expect(formatTimecode(7_200, countingFor(framesOf(120), true))).toBe('00:01:00;008');
});

test('whatever rate and timecode a file has, its slots have a timecode that can be read again, or a number', () => {
  expect(clipTimecode('01:00:00;00', framesOf(120))(8)).toBe('01:00:00;008');
  expect(clipTimecode('01:00:00;00', framesOf(90))(6)).toBe('01:00:00;06');
  expect(clipTimecode('01:00:00:00', rational(25, 2))(6)).toBe('frame 6');
  expect(clipTimecode(null, rational(0))(3)).toBe('frame 3');
  const text = fc.oneof(
    fc.string(),
    fc.constantFrom(null, '01:00:00;00', '23:59:59:29', '00:01:00;00', '10:00:00.12'),
  );
  fc.assert(
    fc.property(
      text,
      fc.integer({ min: 0, max: 2_000_000 }),
      fc.constantFrom(1, 1000, 1001, 7),
      fc.integer({ min: 0, max: 1e6 }),
      (start, num, den, slot) => {
        const rate = rational(num, den);
        const told = clipTimecode(start, rate)(slot);
        if (told.startsWith('frame ')) return;
        const counting = countingFor(rate, told.includes(';'));
        expect(formatTimecode(parseTimecode(told, counting), counting)).toBe(told);
      },
    ),
    { numRuns: 1000 },
  );
});

test("a clip's timecode counts on from its start, or from zero when its track cannot be read", () => {
  expect(clipTimecode('07:41:18:00', rational(25))(26)).toBe('07:41:19:01');
  expect(clipTimecode('00:00:59;29', ntsc)(1)).toBe('00:01:00;02');
  expect(clipTimecode('99:99:99:99', rational(25))(3)).toBe('00:00:00:03');
  expect(clipTimecode(null, rational(24000, 1001))(24)).toBe('00:00:01:00');
});

test('a label that drop-frame skips is the next there is; what no counting has is refused', () => {
  const drop = countingFor(rational(60_000, 1001), true);
  expect(nearestTimecode('01:01:00;03', drop)).toEqual({
    frame: parseTimecode('01:01:00;04', drop),
    isSkipped: true,
  });
  expect(nearestTimecode('01:10:00;00', drop).isSkipped).toBe(false);
  expect(() => nearestTimecode('01:01:00;60', drop)).toThrow('does not exist at 60');
  expect(() => nearestTimecode('01:01:00:24', countingFor(rational(24)))).toThrow('does not exist at 24');
});

test.each([
  ['10:00:05:10', rational(25), rational(50), '10:00:05:20'],
  ['10:00:05:21', rational(50), rational(25), '10:00:05:10'],
  ['10:00:05:10', rational(24), rational(24_000, 1001), '10:00:05:10'],
  ['10:00:05:99', rational(100), rational(120), '10:00:05:118'],
] as const)('%s at %j has the label of %j: %s', (text, from, to, label) => {
  const [a, b] = [countingFor(from), countingFor(to)];
  expect(formatTimecode(frameOfSameLabel(parseTimecode(text, a), a, b), b)).toBe(label);
});
