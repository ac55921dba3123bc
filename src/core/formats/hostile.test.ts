import { seededRandom } from '@/core/stats/random';
import { rational } from '@/core/time/rational';
import { emptyTimeline, type Timeline } from '@/core/timeline/model';
import { timelineFrom } from '@/core/timeline/schema';
import { parseBundle } from './bundle';
import { BundleError } from './bundleError';
import { CubeError, parseCube } from './cube';
import { EdlError } from './edl/error';
import { parseEdl } from './edl/read';
import { OtioError } from './otio/json';
import { parseOtio } from './otio/read';
import { writeOtio } from './otio/write';
import {
  least,
  most,
  sampleBundle,
  sampleLook,
  samplePlan,
  sampleTimeline,
  sampleTrial,
  sha256,
} from './testing/bundleSamples';

/** Files that somebody broke: each is read, or refused with its place; never anything else. */

const whole: Timeline = {
  ...emptyTimeline('Harbour wall', rational(24), 1920, 1080),
  markers: [{ id: 'm1', at: 12, name: 'tide' }],
  media: Object.fromEntries(
    ['a', 'b'].map((id) => [
      id,
      {
        clipId: null,
        name: `TW_WALL_${id}.mov`,
        reel: 'WALL',
        startTimecode: '10:00:00:00',
        contentHash: null,
        rate: rational(24),
        frames: 200,
        width: 1920,
        height: 1080,
      },
    ]),
  ),
  tracks: [
    {
      id: 'v1',
      name: 'V1',
      on: true,
      items: [
        {
          id: 'i1',
          name: 'wall',
          start: 0,
          length: 30,
          source: { kind: 'clip', media: 'a', in: 4, speed: rational(2) },
          effects: [{ id: 'e1', on: true, kind: 'blur', radius: 0.01 }],
        },
        {
          id: 'i2',
          name: 'angles',
          start: 24,
          length: 30,
          source: {
            kind: 'angles',
            angles: [
              { media: 'a', in: 0 },
              { media: 'b', in: 3 },
            ],
            switches: [
              { at: 0, angle: 0 },
              { at: 9, angle: 1 },
            ],
          },
          effects: [],
        },
      ],
    },
  ],
};
const values: readonly unknown[] = [
  null,
  true,
  0,
  -1,
  1.5,
  1e308,
  -1e308,
  2 ** 53,
  '',
  'x',
  'x\0',
  '\ud800',
  '__proto__',
  [],
  [null],
  {},
  { toString: 1 },
  { OTIO_SCHEMA: 'Clip.9' },
];

type Place = readonly (string | number)[];
function placesIn(value: unknown, place: Place = []): Place[] {
  if (typeof value !== 'object' || value === null) return [place];
  return [
    place,
    ...Object.entries(value).flatMap(([key, inner]) =>
      placesIn(inner, [...place, Array.isArray(value) ? Number(key) : key]),
    ),
  ];
}
function changed(value: unknown, [key, ...rest]: Place, to: unknown): unknown {
  if (key === undefined) return to;
  const copy = structuredClone(value) as Record<string | number, unknown>;
  copy[key] = changed(copy[key], rest, to);
  return copy;
}

test('a timeline file with any one value changed is a sound timeline or a refusal with its place', () => {
  const file: unknown = JSON.parse(writeOtio(whole));
  let taken = 0;
  let refused = 0;
  for (const place of placesIn(file))
    for (const value of values) {
      const text = JSON.stringify(changed(file, place, value));
      try {
        const { timeline } = parseOtio(text);
        expect(timelineFrom(timeline)).toEqual(timeline);
        taken++;
      } catch (error) {
        if (!(error instanceof OtioError))
          throw new Error(`${place.join('.')} = ${text.slice(0, 80)}`, { cause: error });
        expect(error.message.length).toBeLessThan(600);
        refused++;
      }
    }
  expect(taken).toBeGreaterThan(500);
  expect(refused).toBeGreaterThan(500);
});

/** A file as another writer has it: tracks and stacks in each other, markers, several references, what is not enabled. */
const nested = (() => {
  const t = (value: number, rate = 24) => ({ OTIO_SCHEMA: 'RationalTime.1', value, rate });
  const span = (start: number, duration: number) => ({
    OTIO_SCHEMA: 'TimeRange.1',
    start_time: t(start),
    duration: t(duration),
  });
  const clip = (name: string) => ({
    OTIO_SCHEMA: 'Clip.2',
    name,
    source_range: span(10, 20),
    effects: [
      { OTIO_SCHEMA: 'LinearTimeWarp.1', time_scalar: 2 },
      { OTIO_SCHEMA: 'Effect.1', effect_name: 'Glow' },
    ],
    markers: [{ OTIO_SCHEMA: 'Marker.2', name: 'tide', marked_range: span(12, 3), color: 'RED' }],
    metadata: { studio: { bin: [1, 2] } },
    media_references: {
      a: {
        OTIO_SCHEMA: 'ExternalReference.1',
        target_url: `file:///cards/${name}.mov`,
        available_range: span(0, 100),
      },
      b: {
        OTIO_SCHEMA: 'ImageSequenceReference.1',
        name_prefix: 'x',
        name_suffix: '.dpx',
        frame_zero_padding: 4,
      },
    },
    active_media_reference_key: 'a',
  });
  const track = (children: readonly unknown[], more: object = {}) => ({
    OTIO_SCHEMA: 'Track.1',
    kind: 'Video',
    name: 'V1',
    children,
    ...more,
  });
  return {
    OTIO_SCHEMA: 'SerializableCollection.1',
    children: [
      {
        OTIO_SCHEMA: 'Timeline.1',
        name: 'Harbour wall',
        global_start_time: t(86_400, 25),
        metadata: { studio: 1 },
        tracks: {
          OTIO_SCHEMA: 'Stack.1',
          source_range: span(2, 60),
          children: [
            track([clip('a'), { OTIO_SCHEMA: 'Transition.1', in_offset: t(2), out_offset: t(3) }, clip('b')]),
            track([
              { OTIO_SCHEMA: 'Gap.1', source_range: span(0, 5) },
              {
                OTIO_SCHEMA: 'Stack.1',
                enabled: false,
                source_range: span(1, 9),
                children: [track([clip('c')]), clip('d')],
              },
            ]),
          ],
        },
      },
    ],
  };
})();

test('a nested file of another writer with any one value changed is a sound timeline or a refusal with its place', () => {
  let taken = 0;
  let refused = 0;
  for (const place of placesIn(nested))
    for (const value of values) {
      const text = JSON.stringify(changed(nested, place, value));
      try {
        const { timeline } = parseOtio(text);
        expect(timelineFrom(timeline)).toEqual(timeline);
        // What was kept of it can be written again.
        expect(timelineFrom(parseOtio(writeOtio(timeline)).timeline).tracks).toHaveLength(
          timeline.tracks.length,
        );
        taken++;
      } catch (error) {
        if (!(error instanceof OtioError))
          throw new Error(`${place.join('.')} = ${JSON.stringify(value)}`, { cause: error });
        refused++;
      }
    }
  expect(taken).toBeGreaterThan(1_000);
  expect(refused).toBeGreaterThan(500);
});

const list = `TITLE: HARBOUR WALL
FCM: NON-DROP FRAME
001  A001     V     C        07:41:18:00 07:41:20:00 01:00:00:00 01:00:02:00
* FROM CLIP NAME: TW_WALL_0107.MOV
002  A001     V     C        07:41:20:00 07:41:20:00 01:00:02:00 01:00:02:00
002  B002     V     D    012 09:00:00:00 09:00:03:00 01:00:02:00 01:00:05:00
* TO CLIP NAME: TW_MARSH_0212.MP4
* TO REEL NAME: B002C004_261128
* TO CLIP RATE: 50
M2   B002     048.0                09:10:00:00
FCM: NON-DROP FRAME
003  BG01     AA/V  K B      00:00:01:00 00:00:03:00 01:00:05:00 01:00:07:00
003  FG01     V     K    012 00:00:10:00 00:00:12:00 01:00:05:00 01:00:07:00
004  C003     V2    W001 010 00:05:00:00 00:05:02:00 01:00:07:00 01:00:09:00
* SOURCE FILE: /cards/7/TW_WALL_0107.mov
`;
const table = `TITLE "Salt marsh"\nLUT_1D_SIZE 3\nDOMAIN_MIN 0 0 0\n0 0 0\n0.5 .5 5e-1\n1 1 1\n`;

/** Texts with a stretch taken out, doubled, or replaced by what a keyboard or a bad transfer gives. */
function* broken(text: string, seed: number, count: number): Generator<string> {
  const random = seededRandom(seed);
  const scraps = [
    '',
    '\0',
    '\u2028',
    '9'.repeat(400),
    '-',
    ':',
    ';',
    '\n',
    ' ',
    '1e999',
    '\uD800',
    'M2 ',
    '* ',
  ];
  for (let made = 0; made < count; made++) {
    const from = Math.floor(random() * text.length);
    const to = from + Math.floor(random() * 12);
    const scrap = scraps[Math.floor(random() * scraps.length)] as string;
    const piece = random() < 0.5 ? scrap : text.slice(from, to).repeat(2);
    yield text.slice(0, from) + piece + text.slice(to);
  }
}

test('a broken edit list is a sound timeline or a refusal with its line', () => {
  let taken = 0;
  for (const text of broken(list, 5, 3_000))
    try {
      timelineFrom(parseEdl(text, rational(24)).timeline);
      taken++;
    } catch (error) {
      if (!(error instanceof EdlError)) throw new Error(text, { cause: error });
    }
  expect(taken).toBeGreaterThan(500);
});

test('a broken table is a table or a refusal with its line', () => {
  let taken = 0;
  for (const text of broken(table, 7, 3_000))
    try {
      const { values: entries, size } = parseCube(text);
      expect(entries).toHaveLength(3 * size);
      expect(entries.every(Number.isFinite)).toBe(true);
      taken++;
    } catch (error) {
      if (!(error instanceof CubeError)) throw new Error(text, { cause: error });
    }
  expect(taken).toBeGreaterThan(200);
});

test('a broken bundle is refused with its place, unless it says the same', () => {
  const bundle = sampleBundle([sampleTrial('copy', 't1', least)], {
    looks: [sampleLook('l1')],
    timelines: [sampleTimeline('tl1', 'l1')],
    plans: [samplePlan('p1', most, ['t1'])],
  });
  const text = JSON.stringify(bundle);
  const { hashes } = parseBundle(text, sha256);
  let refused = 0;
  for (const some of broken(text, 11, 1_000))
    try {
      // Its hashes are right, so it holds what it held.
      expect(parseBundle(some, sha256).hashes).toEqual(hashes);
    } catch (error) {
      if (!(error instanceof BundleError)) throw new Error(some, { cause: error });
      refused++;
    }
  expect(refused).toBeGreaterThan(800);
});

test('a bundle of twice the size takes no more than in proportion', () => {
  const sized = (count: number) =>
    JSON.stringify(
      sampleBundle([], {
        timelines: Array.from({ length: count }, (_, at) => sampleTimeline(`tl${at}`)),
        plans: Array.from({ length: count }, (_, at) => samplePlan(`p${at}`, most, ['t'])),
      }),
    );
  const asked = (count: number) => {
    let hashed = 0;
    parseBundle(sized(count), (text) => {
      hashed += text.length;
      return sha256(text);
    });
    return hashed;
  };
  expect(asked(80) / asked(40)).toBeLessThan(2.05);
});

test('files that are made to be slow are refused by name', () => {
  expect(() => parseCube(`LUT_1D_SIZE 2\n${'1'.repeat(2_000_000)}x 0 0\n`)).toThrow('is not a number');
  // The room of 256 to the third entries is not taken for a file of one line.
  expect(() => parseCube('LUT_3D_SIZE 256\n0 0 0\n')).toThrow('ends after 1 of 16777216 entries');
  const events = (count: number) =>
    Array.from({ length: count }, (_, at) => {
      const tc = (frames: number) =>
        [frames / 90_000, (frames / 1_500) % 60, (frames / 25) % 60, frames % 25]
          .map((part) => String(Math.floor(part)).padStart(2, '0'))
          .join(':');
      return `${at % 1000}  R${at} V C ${tc(at)} ${tc(at + 1)} ${tc(at)} ${tc(at + 1)}\nM2 R${at} 050.0 ${tc(at)}`;
    }).join('\n');
  expect(parseEdl(events(20_000), rational(25)).timeline.tracks[0]?.items).toHaveLength(20_000);
  expect(() => parseEdl(events(50_001), rational(25))).toThrow('more than 50000 events');
  // A word that is nearly a channel, in as many ways as it could be one.
  expect(() => parseEdl(`001  X  ${'A'.repeat(60)}!  C  ${'00:00:00:00 '.repeat(4)}`, rational(25))).toThrow(
    'is not an event',
  );
});
