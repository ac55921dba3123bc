import fc from 'fast-check';
import { equals, rational, type Rational } from '@/core/time/rational';
import { canDropFrames } from '@/core/time/timecode';
import { structureProblem, type Item, type MediaRef, type Timeline } from '@/core/timeline/model';
import { relink } from '@/core/timeline/relink';
import { clipItem, mediaRef, timelineOf } from '@/core/timeline/testing/testTimeline';
import { edlLosses, writeEdl } from './write';
import { parseEdl } from './read';

const rates = [
  rational(24),
  rational(25),
  rational(50),
  rational(24_000, 1001),
  rational(30_000, 1001),
  rational(60_000, 1001),
];
const speeds = [
  rational(1),
  rational(1),
  rational(2),
  rational(-1),
  rational(-2),
  rational(1, 2),
  rational(-1, 2),
  rational(1, 3),
  rational(101, 100),
  rational(0),
];
const reels = ['A001', 'A001C003_261128', 'A001C003_261129', 'CARD 7 B', 'BL', 'AX', null, 'a001'];

const startCodes = (rate: Rational) =>
  canDropFrames(rate)
    ? ['10:00:00;00', '09:59:58;10', '10:00:00:00', null]
    : ['10:00:00:00', '00:00:10:07', '09:59:58:20', null];

/** Media at any of the rates, with any of the reels, in timecode of either count or without. */
const media = fc
  .constantFrom(...rates)
  .chain((rate) =>
    fc
      .record({ reel: fc.constantFrom(...reels), startTimecode: fc.constantFrom(...startCodes(rate)) })
      .map((change) => mediaRef({ ...change, rate, frames: 5_000, width: 3840, height: 2160 })),
  );

const timelines = fc
  .record({
    rate: fc.constantFrom(...rates),
    start: fc.integer({ min: 0, max: 3 }),
    media: fc.array(media, { minLength: 1, maxLength: 4 }),
    parts: fc.array(
      fc.record({
        gap: fc.integer({ min: 0, max: 30 }),
        length: fc.integer({ min: 14, max: 60 }),
        fade: fc.constantFrom(0, 0, 1, 6),
        isOwnFade: fc.boolean(),
        of: fc.nat(3),
        first: fc.integer({ min: 500, max: 4_000 }),
        speed: fc.constantFrom(...speeds),
      }),
      { minLength: 1, maxLength: 8 },
    ),
  })
  .map(({ rate, start, media: all, parts }): Timeline => {
    const refs = Object.fromEntries(all.map((ref, at) => [`m${at}`, { ...ref, name: `TW_${at}.mov` }]));
    const items: Item[] = [];
    const add = (at: number, length: number, of: number, first: number, speed: Rational) => {
      const id = `m${of % all.length}`;
      items.push({
        ...clipItem(`i${items.length}`, at, length, first, { media: id, speed }),
        name: refs[id]!.name,
      });
    };
    let at = 0;
    for (const { gap, length, fade, isOwnFade, of, first, speed } of parts) {
      const isJoined = gap === 0 && items.length > 0;
      if (fade > 0 && isOwnFade) {
        // The outgoing side is a source of its own.
        add(at + gap, fade, of + 1, first + 50, speed);
        add(at + gap, length, of, first, rational(1));
      } else add(isJoined ? at - fade : at + gap, length, of, first, speed);
      const last = items.at(-1)!;
      at = last.start + last.length;
    }
    const base = timelineOf(items, rate);
    const codes = canDropFrames(rate)
      ? ['01:00:00;00', '10:00:00:00', '00:59:50;00', '01:02:03;04']
      : ['01:00:00:00', '10:00:00:00', '00:59:50:00', '01:02:03:04'];
    return { ...base, startTimecode: codes[start]!, width: 3840, height: 2160, media: refs };
  })
  .filter((timeline) => structureProblem(timeline) === null);

/** A timeline as read, with the media that were written back in their places: by name, as a technician would. */
function relinked(back: Timeline, written: Timeline): Timeline {
  let timeline = back;
  for (const [id, { name }] of Object.entries(back.media)) {
    const ref = Object.values(written.media).find((one) => one.name === name) as MediaRef;
    timeline = relink(timeline, id, ref);
  }
  return timeline;
}

/** What an edit list holds: the rest is in `edlLosses`. */
const heldOf = (timeline: Timeline) => ({
  name: timeline.name,
  rate: timeline.rate,
  startTimecode: timeline.startTimecode,
  raster: [timeline.width, timeline.height],
  tracks: timeline.tracks.map(({ name, on, items }) => ({
    name,
    on,
    items: items.map(({ name: item, start, length, source }) => ({
      item,
      start,
      length,
      ...(source.kind === 'clip' && {
        in: source.in,
        speed: source.speed,
        of: timeline.media[source.media]?.name,
      }),
    })),
  })),
});

test('what is written without a loss is read back exactly, once its media are found', () => {
  fc.assert(
    fc.property(timelines, (timeline) => {
      const track = timeline.tracks[0]!;
      expect(edlLosses(timeline, track)).toEqual([]);
      const { timeline: back, notes } = parseEdl(writeEdl(timeline, track), timeline.rate);
      expect(notes).toEqual([]);
      expect(structureProblem(back)).toBeNull();
      expect(heldOf(relinked(back, timeline))).toEqual(heldOf(timeline));
      const reelOf = (document: Timeline, name: string) =>
        Object.values(document.media).find((ref) => ref.name === name)?.reel;
      for (const { name } of Object.values(back.media))
        expect(reelOf(back, name)).toEqual(reelOf(timeline, name));
    }),
    { numRuns: 400 },
  );
});

test('reels of more than eight characters stay apart, with their whole names in comments', () => {
  const reelOf = (id: string, reel: string) => [id, mediaRef({ name: `${id}.mov`, reel })] as const;
  const timeline = {
    ...timelineOf([
      clipItem('a', 0, 10, 0, { media: 'a' }),
      clipItem('b', 10, 10, 0, { media: 'b' }),
      clipItem('c', 20, 10, 0, { media: 'c' }),
    ]),
    media: Object.fromEntries([
      reelOf('a', 'A001C003_261128'),
      reelOf('b', 'A001C003_261129'),
      reelOf('c', 'A001C003'),
    ]),
  };
  const text = writeEdl(timeline, timeline.tracks[0]!);
  const fields = [...text.matchAll(/^\d{3} {2}(\S+) /gm)].map(([, field]) => field);
  expect(fields).toEqual(['A001C002', 'A001C003', 'A001C003'].map((_, at) => fields[at]));
  expect(new Set(fields).size).toBe(3);
  expect(fields.every((field) => field!.length <= 8)).toBe(true);
  expect(fields[2]).toBe('A001C003');
  expect(text).toContain('* FROM REEL NAME: A001C003_261128\n');
});

test.each([
  [rational(101, 100), rational(24), '024.24'],
  [rational(2), rational(25), '050.0'],
  [rational(-1, 2), rational(25), '-012.5'],
  [rational(1, 3), rational(25), '008.333333'],
  [rational(1000, 1001), rational(24), '023.976024'],
])('speed %j at %j is written as %s and read back', (speed, rate, text) => {
  const timeline = timelineOf([clipItem('TW_WALL_0101.mov', 0, 30, 40, { speed })], rate, { rate });
  const list = writeEdl(timeline, timeline.tracks[0]!);
  expect(list).toContain(` ${text} `);
  const source = parseEdl(list, rate).timeline.tracks[0]!.items[0]!.source;
  expect(source.kind === 'clip' && equals(source.speed, speed)).toBe(true);
});

test('a speed that no motion effect says is a loss, and only then', () => {
  const odd = timelineOf([clipItem('TW_WALL_0101.mov', 0, 30, 0, { speed: rational(12_347, 99_991) })]);
  expect(edlLosses(odd, odd.tracks[0]!)).toEqual([
    '1 item at a speed that no motion effect says exactly: the nearest is written.',
  ]);
});
