import fc from 'fast-check';
import { bestLanes, limiterOf } from '../tasks/limiter';
import { checkFrames, isProved, isRefuted, type FrameNotes } from './frameCheck';
import { presetOf, renditionName, renditionPresets, renditionRaster, settingsKey } from './presets';
import { checkSentence } from '../sentences/renditions';

const picture = (seed: number) => Uint8Array.from({ length: 144 }, (_, at) => (at * 7 + seed * 23) % 200);
const notes = (numbers: readonly number[], coded = true): FrameNotes => ({
  codes: numbers.map((number) => (coded ? number : -1)),
  signatures: numbers.map(picture),
});
const frames = [0, 1, 2, 3, 4, 5];

test('frame codes prove every frame, and tell a shifted, a doubled and a missing one', () => {
  expect(checkFrames(notes(frames), notes(frames))).toMatchObject({
    method: 'frame code',
    same: 6,
    wrong: 0,
    missing: 0,
  });
  expect(isProved(checkFrames(notes(frames), notes(frames)))).toBe(true);
  const doubled = checkFrames(notes(frames), notes([0, 1, 1, 2, 3, 4]));
  expect(doubled).toMatchObject({ wrong: 4, firstWrong: [2, 3, 4, 5] });
  expect(checkSentence(doubled)).toContain(
    '4 of 6 frames are not their source frame, the first at 2, 3, 4, 5',
  );
  expect(isRefuted(checkFrames(notes(frames), notes([0, 1, 2, 3, 4])))).toBe(true);
});

test('a damaged picture that lost its number is judged by its looks, the others by theirs', () => {
  const withHole = (numbers: readonly number[]): FrameNotes => ({
    ...notes(numbers),
    codes: numbers.map((number, at) => (at === 3 ? -1 : number)),
  });
  expect(checkFrames(withHole(frames), withHole(frames))).toMatchObject({
    method: 'frame code',
    same: 6,
    wrong: 0,
  });
  expect(checkFrames(withHole(frames), withHole([0, 1, 2, 4, 5, 5]))).toMatchObject({
    wrong: 2,
    firstWrong: [3, 4],
  });
  const mostlyWithout = { ...notes(frames), codes: [0, -1, -1, -1, -1, 5] };
  expect(checkFrames(mostlyWithout, mostlyWithout).method).toBe('picture distance');
});

test('without a code the nearest picture decides; pictures that are all alike decide nothing', () => {
  expect(checkFrames(notes(frames, false), notes(frames, false))).toMatchObject({
    method: 'picture distance',
    same: 6,
    wrong: 0,
  });
  expect(checkFrames(notes(frames, false), notes([1, 2, 3, 4, 5, 6], false)).wrong).toBeGreaterThan(3);
  const still = checkFrames(notes([1, 1, 1], false), notes([1, 1, 1], false));
  expect(still).toMatchObject({ undecided: 3, same: 0 });
  expect(isProved(still)).toBe(false);
  expect(isRefuted(still)).toBe(false); // a locked-off shot is no fault
  expect(checkSentence(still)).toBe(
    'Not proved: the number of frames agrees, but the 3 pictures look too much alike to tell which is which.',
  );
});

describe('pictures that coding has changed', () => {
  // A bright bar that moves one cell a frame; noise moves every cell by up to so many steps.
  const bar = (number: number, noise: number, seed: number) =>
    Uint8Array.from(
      { length: 144 },
      (_, at) =>
        60 + (at % 16 === number % 16 ? 90 : 0) + ((at * 31 + number * 17 + seed * 7) % (2 * noise + 1)),
    );
  const film = (numbers: readonly number[], noise: number, seed = 0): FrameNotes => ({
    codes: numbers.map(() => -1),
    signatures: numbers.map((number) => bar(number, noise, seed)),
  });
  const long = Array.from({ length: 40 }, (_, at) => at);

  test('noise alone makes no frame wrong, however much of it there is', () => {
    for (const noise of [0, 2, 8, 30])
      expect(isRefuted(checkFrames(film(long, noise), film(long, noise, 1)))).toBe(false);
    expect(isProved(checkFrames(film(long, 2), film(long, 2, 1)))).toBe(true);
  });

  test('a rendition that is shifted as a whole does not pass its shift off as noise', () => {
    expect(
      checkFrames(
        film(long, 2),
        film(
          long.map((at) => at + 1),
          2,
          1,
        ),
      ).wrong,
    ).toBeGreaterThan(30);
  });

  test('one doubled picture among many is found', () => {
    expect(
      checkFrames(
        film(long, 2),
        film(
          long.map((at) => (at === 20 ? 19 : at)),
          2,
          1,
        ),
      ),
    ).toMatchObject({ wrong: 1, firstWrong: [20] });
  });
});

test('presets keep depth where they can and name their files', () => {
  expect(new Set(renditionPresets.map(({ id }) => id)).size).toBe(renditionPresets.length);
  expect(renditionRaster({ width: 1920, height: 1080 }, { presetId: 'mjpeg', raster: 'quarter' })).toEqual({
    width: 480,
    height: 270,
  });
  expect(renditionRaster({ width: 1998, height: 1080 }, { presetId: 'mjpeg', raster: 'half' })).toEqual({
    width: 1000,
    height: 540,
  });
  expect(renditionRaster({ width: 480, height: 270 }, { presetId: 'cineform', raster: 'half' })).toEqual({
    width: 256,
    height: 136,
  });
  expect(renditionName('wall/TW_WALL_0107.mov', { presetId: 'prores-proxy', raster: 'half' })).toBe(
    'TW_WALL_0107_proresproxy_half.mov',
  );
  expect(() => presetOf('none')).toThrow(RangeError);
});

test('two choices have the same key only when they make the same', () => {
  const keys = renditionPresets.flatMap(({ id }) =>
    (['full', 'half', 'quarter'] as const).map((raster) => settingsKey({ presetId: id, raster })),
  );
  expect(new Set(keys).size).toBe(keys.length);
});

test('the limiter is the stage at work for longest', () => {
  expect(limiterOf({ decode: 20, scale: 30, encode: 90 }, 100)).toEqual({ stage: 'encode', share: 0.9 });
  expect(limiterOf({ decode: 0 }, 0)).toBeNull();
});

test('more lanes are taken only for a gain', () => {
  expect(bestLanes([50, 51])).toBe(1);
  expect(bestLanes([50, 80, 81])).toBe(2);
  fc.assert(
    fc.property(
      fc.array(fc.double({ min: 1, max: 100, noNaN: true }), { minLength: 1, maxLength: 8 }),
      (rates) => {
        const best = bestLanes(rates);
        return best >= 1 && best <= rates.length && (rates[best - 1] ?? 0) >= (rates[0] ?? 0);
      },
    ),
  );
});
