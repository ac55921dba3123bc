import fc from 'fast-check';
import { rational, type Rational } from '@/core/time/rational';
import { flattenSlot } from '@/core/timeline/flatten';
import { emptyTimeline, lengthOf, structureProblem, type Item, type Timeline } from '@/core/timeline/model';
import { clipItem, mediaRef } from '@/core/timeline/testing/testTimeline';
import { parseCube, writeCube } from './cube';
import { parseEdl } from './edl/read';
import { writeEdl } from './edl/write';
import { parseOtio } from './otio/read';
import { writeOtio } from './otio/write';

const rates: Rational[] = [rational(24), rational(25), rational(24_000, 1_001), rational(30), rational(60)];

/** Timelines of one track: items with gaps and cross-fades, whole speeds, of media at the timeline's rate. */
const timelines = fc
  .record({
    rate: fc.constantFrom(...rates),
    parts: fc.array(
      fc.record({
        gap: fc.integer({ min: 0, max: 30 }),
        length: fc.integer({ min: 12, max: 60 }),
        fade: fc.constantFrom(0, 0, 2, 6),
        first: fc.integer({ min: 0, max: 100 }),
        speed: fc.constantFrom(1, 1, 2, -1, -2),
      }),
      { minLength: 1, maxLength: 8 },
    ),
  })
  .map(({ rate, parts }): Timeline => {
    const items: Item[] = [];
    let at = 0;
    for (const { gap, length, fade, first, speed } of parts) {
      const start = gap > 0 || items.length === 0 ? at + gap : at - fade;
      items.push(
        clipItem(`i${items.length}`, start, length, speed < 0 ? first + 130 : first, {
          speed: rational(speed),
        }),
      );
      at = start + length;
    }
    return {
      ...emptyTimeline('Tidewrack', rate, 1920, 1080),
      media: { m: mediaRef({ rate, frames: 600, startTimecode: '03:00:00:00' }) },
      tracks: [{ id: 'v1', name: 'V1', on: true, items }],
    };
  });

/** Frames that are shown, counted from midnight, so that media may begin elsewhere; with how far they are faded in. */
function shown(timeline: Timeline) {
  return Array.from({ length: lengthOf(timeline) }, (_, slot) =>
    flattenSlot(timeline, slot).layers.map(({ media, frame, fade }) => [
      frame + startOf(timeline, media as string),
      Math.round(fade * 1_000),
    ]),
  );
}

function startOf({ media }: Timeline, id: string): number {
  const { startTimecode, rate } = media[id]!;
  const [hours, minutes, seconds, frames] = startTimecode!.split(/[:;]/).map(Number) as [
    number,
    number,
    number,
    number,
  ];
  return ((hours * 60 + minutes) * 60 + seconds) * Math.round(rate.num / rate.den) + frames;
}

test('any single-track timeline comes back from OpenTimelineIO frame for frame', () => {
  fc.assert(
    fc.property(timelines, (timeline) => {
      expect(structureProblem(timeline)).toBeNull();
      const { timeline: back, notes } = parseOtio(writeOtio(timeline));
      expect(notes).toEqual([]);
      expect(back.rate).toEqual(timeline.rate);
      expect(shown(back)).toEqual(shown(timeline));
    }),
    { numRuns: 60 },
  );
});

test('any single-track timeline comes back from CMX 3600 frame for frame', () => {
  fc.assert(
    fc.property(timelines, (timeline) => {
      const { timeline: back } = parseEdl(writeEdl(timeline, timeline.tracks[0]!), timeline.rate);
      expect(structureProblem(back)).toBeNull();
      expect(shown(back)).toEqual(shown(timeline));
    }),
    { numRuns: 60 },
  );
});

test('any colour table comes back from .cube', () => {
  const number = fc.double({ min: -2, max: 4, noNaN: true });
  fc.assert(
    fc.property(
      fc.constantFrom<1 | 3>(1, 3),
      fc.integer({ min: 2, max: 5 }),
      fc.infiniteStream(number),
      fc.boolean(),
      (dimensions, size, stream, titled) => {
        const values = Float64Array.from(
          { length: 3 * (dimensions === 1 ? size : size ** 3) },
          () => stream.next().value as number,
        );
        const cube = {
          title: titled ? 'Dusk' : null,
          shaper: null,
          dimensions,
          size,
          domainMin: [0, 0, 0] as const,
          domainMax: titled ? ([2, 2, 2] as const) : ([1, 1, 1] as const),
          values,
        };
        const back = parseCube(writeCube(cube));
        expect(back).toMatchObject({ title: cube.title, dimensions, size });
        expect([...back.domainMax]).toEqual([...cube.domainMax]);
        back.values.forEach((value, at) =>
          expect(Math.abs(value - (values[at] as number))).toBeLessThan(1e-9),
        );
      },
    ),
    { numRuns: 40 },
  );
});

test('files of other writers: line ends, comments, numbers beyond three digits, keys and sound are taken or named', () => {
  const list = [
    '\uFEFFTITLE:   Harbour   ',
    'FCM: NON-DROP FRAME',
    '',
    '000001  REEL_1   V     C        01:00:00:00 01:00:01:00 10:00:00:00 10:00:01:00',
    '* SOURCE FILE: A001',
    '* FROM CLIP NAME:  wall one.mov ',
    '000002  BL       V     C        00:00:00:00 00:00:01:00 10:00:01:00 10:00:02:00',
    '000003  REEL_1   AA/V  C        01:00:05:00 01:00:06:00 10:00:02:00 10:00:03:00',
    '000004  REEL_1   A2    C        01:00:05:00 01:00:06:00 10:00:02:00 10:00:03:00',
    '>>> SOURCE REEL_1 1',
    'SOMETHING ELSE',
  ].join('\r\n');
  const { timeline, notes } = parseEdl(list, rational(25));
  expect(timeline.name).toBe('Harbour');
  expect(timeline.tracks[0]!.items.map(({ start, length, name }) => [start, length, name])).toEqual([
    [0, 25, 'wall one.mov'],
    [50, 25, 'REEL_1'],
  ]);
  expect(timeline.startTimecode).toBe('10:00:00:00');
  expect(notes).toEqual([
    expect.stringContaining('event 000004 is for A2'),
    expect.stringContaining('"SOMETHING ELSE" is not known'),
  ]);
});

test('a wipe becomes a dissolve of its length and says so; a fade from black is left out and says so', () => {
  const { timeline, notes } = parseEdl(
    '001  A V C        00:00:00:00 00:00:02:00 01:00:00:00 01:00:02:00\n002  A V C        00:00:02:00 00:00:02:00 01:00:02:00 01:00:02:00\n002  B V W001 012 00:00:00:00 00:00:02:00 01:00:02:00 01:00:04:00\n003  C V D    012 00:00:00:00 00:00:02:00 01:00:05:00 01:00:07:00\n',
    rational(24),
  );
  expect(timeline.tracks[0]!.items.map(({ start, length }) => [start, length])).toEqual([
    [0, 60],
    [48, 48],
    [120, 48],
  ]);
  expect(notes).toEqual([
    expect.stringContaining('the wipe of event 002 became a dissolve'),
    expect.stringContaining('event 003 dissolves from black'),
  ]);
});
