import fc from 'fast-check';
import { rational, type Rational } from '@/core/time/rational';
import { canDropFrames } from '@/core/time/timecode';
import { structureProblem, type Effect, type Item, type Source, type Timeline } from '@/core/timeline/model';
import { clipItem, mediaRef, timelineOf } from '@/core/timeline/testing/testTimeline';
import { parseOtio } from './read';
import { writeOtio } from './write';

const rates = [
  rational(24),
  rational(25),
  rational(50),
  rational(24_000, 1001),
  rational(30_000, 1001),
  rational(1000, 41),
];
const speeds: Rational[] = [
  rational(1),
  rational(1),
  rational(2),
  rational(-1),
  rational(1, 3),
  rational(101, 100),
  rational(12_347, 99_991),
  rational(0),
];
const view = { x: 0, y: 0, width: 1, height: 1 };
const effects: Effect[] = [
  { id: 'e1', on: true, kind: 'saturation', amount: 1.2 },
  { id: 'e2', on: false, kind: 'blur', radius: 0.01 },
];
const other = JSON.stringify({ metadata: { studio: { bin: 'day 3' } } });

/** A source of any kind. */
const sources = fc
  .record({
    kind: fc.constantFrom<Source['kind']>('clip', 'clip', 'clip', 'still', 'angles', 'title'),
    of: fc.nat(2),
    first: fc.integer({ min: 600, max: 2_000 }),
    speed: fc.constantFrom(...speeds),
  })
  .map(({ kind, of, first, speed }): Source => {
    const media = `m${of}`;
    switch (kind) {
      case 'clip':
        return { kind, media, in: first, speed };
      case 'still':
        return { kind, media, from: view, to: { ...view, width: 0.5 } };
      case 'angles':
        return {
          kind,
          angles: [
            { media, in: first },
            { media: 'm0', in: 7 },
          ],
          switches: [
            { at: 0, angle: 1 },
            { at: 5, angle: 0 },
          ],
        };
      case 'title':
        return { kind };
    }
  });

const tracks = fc.array(
  fc.record({
    gap: fc.integer({ min: 0, max: 9 }),
    length: fc.integer({ min: 14, max: 60 }),
    fade: fc.constantFrom(0, 0, 1, 5, 6),
    isBelow: fc.boolean(),
    source: sources,
    graded: fc.boolean(),
    others: fc.boolean(),
  }),
  { maxLength: 6 },
);

const timelines = fc
  .record({
    rate: fc.constantFrom(...rates),
    mediaRates: fc.array(fc.constantFrom(...rates), { minLength: 3, maxLength: 3 }),
    tracks: fc.array(tracks, { minLength: 1, maxLength: 3 }),
    isDrop: fc.boolean(),
    hasTimecode: fc.boolean(),
    markers: fc.array(fc.integer({ min: 0, max: 300 }), { maxLength: 3 }),
  })
  .map(({ rate, mediaRates, tracks: all, isDrop, hasTimecode, markers }): Timeline => {
    let count = 0;
    const itemsOf = (parts: (typeof all)[number]): Item[] => {
      const items: Item[] = [];
      for (const { gap, length, fade, isBelow, source, graded, others } of parts) {
        const last = items.at(-1);
        const end = last ? last.start + last.length : 0;
        const make = (start: number, slots: number): Item => ({
          ...clipItem(`i${count++}`, start, slots),
          name: `item ${count}`,
          source,
          effects: graded ? effects : [],
          ...(others ? { other } : {}),
        });
        // An outgoing side that lies wholly below its follower, a fade between neighbours, or a gap.
        if (isBelow && fade > 1) items.push(make(end + gap, fade), make(end + gap, length));
        else items.push(make(last && gap === 0 ? end - fade : end + gap, length));
      }
      return items;
    };
    const base = timelineOf([], rate);
    return {
      ...base,
      width: 3840,
      height: 2160,
      startTimecode: isDrop && canDropFrames(rate) ? '01:02:03;04' : '10:00:01:02',
      media: Object.fromEntries(
        mediaRates.map((mediaRate, at) => [
          `m${at}`,
          {
            ...mediaRef({ rate: mediaRate, name: `TW ${at}.mov`, frames: 5_000, clipId: null }),
            startTimecode: hasTimecode ? '10:00:00:00' : null,
            ...(at === 1 ? { other: JSON.stringify({ metadata: { theirs: 1 } }) } : {}),
          },
        ]),
      ),
      tracks: all.map((parts, at) => ({
        id: `v${at + 1}`,
        name: `Picture ${at}`,
        on: at !== 1,
        items: itemsOf(parts),
      })),
      markers: markers
        .sort((a, b) => a - b)
        .map((at, number) => ({ id: `m${number + 1}`, at, name: number === 1 ? '' : `tide ${number}` })),
    };
  })
  .filter((timeline) => structureProblem(timeline) === null);

/** Ids of items are the document's own, and media that nothing uses are not in a file. */
function held(timeline: Timeline) {
  const used = new Set(
    timeline.tracks.flatMap(({ items }) =>
      items.flatMap(({ source }) =>
        source.kind === 'title'
          ? []
          : source.kind === 'angles'
            ? source.angles.map(({ media }) => media)
            : [source.media],
      ),
    ),
  );
  return {
    ...timeline,
    media: Object.fromEntries(Object.entries(timeline.media).filter(([name]) => used.has(name))),
    tracks: timeline.tracks.map((track) => ({
      ...track,
      items: track.items.map(({ id: _, ...item }) => item),
    })),
  };
}

test('any timeline comes back whole', () => {
  fc.assert(
    fc.property(timelines, (timeline) => {
      const { timeline: back, notes } = parseOtio(writeOtio(timeline));
      expect(notes).toEqual([]);
      expect(held(back)).toEqual(held(timeline));
    }),
    { numRuns: 300 },
  );
});
