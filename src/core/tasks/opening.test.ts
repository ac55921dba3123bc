import { firstShown } from '../timeline/flatten';
import { emptyTimeline, type Item, type MediaRef } from '../timeline/model';
import { rational } from '../time/rational';
import {
  replayedOpening,
  summariseOpening,
  type OpenedClip,
  type OpeningRecord,
  type OpeningStep,
} from './opening';
import { openingSentence } from '../sentences/tasks';

const step = (fromMs: number, ms: number, readMs = 0, bytes = 1_000): OpeningStep => ({
  fromMs,
  toMs: fromMs + ms,
  readMs,
  bytes,
});
const clip = (name: string, change: Partial<OpenedClip>): OpenedClip => ({
  name,
  isFirst: false,
  header: null,
  pictures: null,
  sound: null,
  problem: null,
  lane: 0,
  ...change,
});

/** Headers of a, the picture, then on one lane a and c, on the other b: 10 + 40, then 100 + 50 and 5 + 200 + 100. */
const record: OpeningRecord = {
  lanes: 2,
  first: step(10, 40, 10),
  clips: [
    clip('a', {
      isFirst: true,
      header: step(0, 10, 4),
      pictures: step(50, 100, 60),
      sound: step(150, 50, 30),
    }),
    clip('b', { lane: 1, header: step(50, 5, 1), pictures: step(55, 200, 50), sound: step(255, 100, 0) }),
    clip('c', { header: step(200, 5, 5), pictures: step(205, 45, 5) }),
  ],
};

test('laid out again unchanged, an opening takes what it took', () => {
  expect(replayedOpening(record)).toBe(355);
  expect(summariseOpening(record)).toMatchObject({
    clips: 3,
    whole: 3,
    problems: 0,
    firstMs: 50,
    headersMs: 205,
    picturesMs: 255,
    soundMs: 355,
    elapsedMs: 355,
    agreement: 1,
    parts: {
      first: { steps: 1, ms: 40, readMs: 10, bytes: 1_000 },
      header: { steps: 3, ms: 20, readMs: 10, bytes: 3_000 },
      pictures: { steps: 3, ms: 345, readMs: 115, bytes: 3_000 },
      sound: { steps: 2, ms: 150, readMs: 30, bytes: 2_000 },
    },
  });
});

test('of clips opened to their first picture, the middle and the worst are told, each from its own beginning', () => {
  const opened = (fromMs: number, byteMs: number, headerMs: number, pictureMs: number) =>
    clip('x', {
      header: { ...step(fromMs, headerMs, byteMs), firstByteMs: byteMs },
      picture: step(fromMs + headerMs, pictureMs, 2),
    });
  const clips = [
    opened(0, 4, 10, 30),
    opened(40, 8, 20, 30),
    opened(90, 2, 5, 95),
    clip('y', { problem: 'no' }),
  ];
  const summary = summariseOpening({ lanes: 1, first: null, clips })!;
  expect(summary).toMatchObject({ clips: 4, whole: 3, problems: 1, elapsedMs: 190, firstMs: null });
  expect(summary.each).toEqual({
    clips: 3,
    median: { firstByteMs: 4, indexMs: 10, pictureMs: 50 },
    worst: { firstByteMs: 8, indexMs: 20, pictureMs: 100 },
  });
  expect(openingSentence(summary)).toMatch(
    /^Opened 4 clips, each to its first picture: 50.ms in the middle \(first byte 4\.00.ms, index 10\.0.ms\), 100.ms at worst\..*Of 1 clip not all could be shown\.$/,
  );
  // Without the work on the pictures only their waiting is left: 30 + 30 + 95 less three times 2.
  expect(summary.free.picture).toBeCloseTo(149 / 190, 9);
  expect(summariseOpening(record)!.each).toBeNull();
});

test.each([
  // Without waiting: 6 + 30, then b with 4 + 150 + 100.
  ['read', 36 + 254],
  ['first', 355 - 30],
  // Header of a 6 less, of b 4.
  ['header', 345],
  // a: 60 + 50, c: 5 + 5, b: 5 + 50 + 100.
  ['pictures', 50 + 155],
  ['sound', 50 + 205],
] as const)('without %s it takes %d ms', (hold, left) => {
  expect(replayedOpening(record, { hold, factor: Infinity })).toBeCloseTo(left, 9);
  expect(summariseOpening(record)!.free[hold]).toBeCloseTo(1 - left / 355, 9);
});

test('what saves most held it back, by as little as nearly does it', () => {
  const summary = summariseOpening(record)!;
  expect(summary.hold).toBe('pictures');
  expect(summary.twice.pictures).toBeCloseTo(75 / 355, 9);
  // Twice saves half of what can be saved; nearly all is four fifths.
  expect(summary.least).toMatchObject({ factor: 6 });
  expect(openingSentence(summary).replaceAll('\u202f', ' ')).toBe(
    'Opened 3 clips in 355 ms: first picture after 50 ms, all thumbnails after 255 ms, all sound peaks after 355 ms. Drawing thumbnails held it back: half the work on them would have saved 21 %.',
  );
});

test('what would save nearly as much is told with it', () => {
  const even = {
    lanes: 1,
    first: null,
    clips: [clip('a', { pictures: step(0, 100, 48), sound: step(100, 50, 0) })],
  };
  const summary = summariseOpening(even)!;
  expect(summary).toMatchObject({ hold: 'pictures', alike: ['read', 'sound'] });
  expect(openingSentence(summary)).toMatch(
    /Drawing thumbnails held it back, waiting for bytes and drawing sound peaks nearly as much: half/,
  );
});

test('a clip that could not be opened counts as one, and is no reason to wait', () => {
  const { clips, ...rest } = record;
  const broken = {
    ...rest,
    clips: [...clips.slice(0, 2), clip('c', { problem: 'Its container cannot be read.' })],
  };
  const summary = summariseOpening(broken)!;
  expect(summary).toMatchObject({ clips: 3, whole: 2, problems: 1 });
  expect(openingSentence(summary)).toMatch(/Of 1 clip not all could be shown\.$/);
});

test('silent clips have no sound to wait for, and what was not begun takes no time', () => {
  const silent = { ...record, clips: record.clips.map((one) => ({ ...one, sound: null })) };
  expect(summariseOpening(silent)!.soundMs).toBeNull();
  expect(openingSentence(summariseOpening(silent)!)).toMatch(/, no sound\./);
  const nothing = { lanes: 1, first: null, clips: [clip('a', {})] };
  expect(summariseOpening(nothing)).toBeNull();
});

test('where nothing takes time enough to save, nothing is blamed', () => {
  const waits = Array.from({ length: 40 }, (_, at) => clip(`${at}`, { lane: at, pictures: step(0, 10) }));
  const even = {
    lanes: 40,
    first: null,
    clips: waits.map((one, at) => (at === 0 ? one : { ...one, pictures: null, sound: step(0, 10) })),
  };
  // Without thumbnails or without sound, the other still takes ten.
  expect(summariseOpening(even)).toMatchObject({ hold: null, least: null });
});

test('the first picture is that of the first slot that shows media which is there', () => {
  const item = (id: string, media: string, start: number): Item => ({
    id,
    name: media,
    start,
    length: 10,
    source: { kind: 'clip', media, in: 0, speed: rational(1) },
    effects: [],
  });
  const ref: MediaRef = {
    clipId: null,
    name: '',
    reel: null,
    startTimecode: null,
    contentHash: null,
    rate: rational(25),
    frames: 100,
    width: 16,
    height: 16,
  };
  const track = (id: string, on: boolean, items: Item[]) => ({ id, name: id, on, items });
  const timeline = {
    ...emptyTimeline('t', rational(25), 16, 16),
    media: { a: ref, b: ref, c: ref },
    tracks: [
      track('1', true, [item('i', 'a', 5), item('j', 'b', 20)]),
      track('2', true, [item('k', 'c', 22)]),
      track('3', false, [item('l', 'b', 0)]),
    ],
  };
  const shown = (media: string[]) => firstShown(timeline, new Set(media));
  expect(shown(['a', 'b', 'c'])).toEqual({ slot: 5, shown: new Set(['a']) });
  expect(shown(['b', 'c'])).toEqual({ slot: 20, shown: new Set(['b']) });
  expect(shown(['c'])).toEqual({ slot: 22, shown: new Set(['c']) });
  expect(shown([])).toEqual({ slot: 0, shown: new Set() });
});
