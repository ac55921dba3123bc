import { rational } from '@/core/time/rational';
import { flattenSlot } from '@/core/timeline/flatten';
import { structureProblem, type Timeline } from '@/core/timeline/model';
import { clipItem, mediaRef, timelineOf } from '@/core/timeline/testing/testTimeline';
import { exactRate } from './rates';
import { parseOtio } from './read';
import { otioLosses, writeOtio } from './write';

const t = (value: number, rate = 24) => ({ OTIO_SCHEMA: 'RationalTime.1', value, rate });
const span = (start: number, duration: number, rate = 24) => ({
  OTIO_SCHEMA: 'TimeRange.1',
  start_time: t(start, rate),
  duration: t(duration, rate),
});
const reference = (url: string, start: number, duration: number) => ({
  OTIO_SCHEMA: 'ExternalReference.1',
  target_url: url,
  available_range: span(start, duration),
});
const clip = (name: string, start: number, duration: number, more: object = {}) => ({
  OTIO_SCHEMA: 'Clip.1',
  name,
  source_range: span(start, duration),
  media_reference: reference(`file:///media/${name}.mov`, 1000, 500),
  effects: [],
  markers: [],
  ...more,
});
const file = (children: unknown[], more: object = {}) =>
  JSON.stringify({
    OTIO_SCHEMA: 'Timeline.1',
    name: 'Harbour wall',
    global_start_time: t(86_400),
    tracks: {
      OTIO_SCHEMA: 'Stack.1',
      children: [{ OTIO_SCHEMA: 'Track.1', kind: 'Video', name: 'V1', children, ...more }],
    },
  });
const frames = (timeline: Timeline, slots: number[]) =>
  slots.map((slot) =>
    flattenSlot(timeline, slot)
      .layers.map(({ item, frame }) => `${item.name}:${frame}`)
      .join('+'),
  );

test('clips of both schemas, gaps and transitions land where the form says', () => {
  const second = {
    ...clip('b', 1100, 48),
    OTIO_SCHEMA: 'Clip.2',
    media_reference: undefined,
    media_references: { HIGH: reference('b%20c.mov', 1000, 500) },
    active_media_reference_key: 'HIGH',
  };
  const { timeline, notes } = parseOtio(
    file([
      { OTIO_SCHEMA: 'Gap.1', source_range: span(0, 12) },
      clip('a', 1010, 24),
      { OTIO_SCHEMA: 'Transition.1', transition_type: 'SMPTE_Dissolve', in_offset: t(4), out_offset: t(6) },
      second,
    ]),
  );
  expect(notes).toEqual([]);
  expect(structureProblem(timeline)).toBeNull();
  expect(timeline.startTimecode).toBe('01:00:00:00');
  expect(frames(timeline, [11, 12, 31, 32, 36, 41, 42])).toEqual([
    '',
    'a:10',
    'a:29',
    'a:30+b:96',
    'a:34+b:100',
    'a:39+b:105',
    'b:106',
  ]);
  expect(Object.values(timeline.media).map(({ name }) => name)).toEqual(['a.mov', 'b c.mov']);
});

test('speeds, held frames, other rates and what is left out', () => {
  const { timeline, notes } = parseOtio(
    file([
      clip('fast', 1000, 10, { effects: [{ OTIO_SCHEMA: 'LinearTimeWarp.1', time_scalar: 2 }] }),
      clip('back', 1000, 10, { effects: [{ OTIO_SCHEMA: 'LinearTimeWarp.1', time_scalar: -1 }] }),
      clip('held', 1005, 10, {
        effects: [{ OTIO_SCHEMA: 'FreezeFrame.1' }, { OTIO_SCHEMA: 'Effect.1', effect_name: 'Glow' }],
      }),
      {
        ...clip('slow', 0, 25),
        source_range: span(50, 25, 25),
        media_reference: { OTIO_SCHEMA: 'MissingReference.1' },
      },
    ]),
  );
  expect(frames(timeline, [0, 1, 10, 19, 20, 29])).toEqual([
    'fast:0',
    'fast:2',
    'back:9',
    'back:0',
    'held:5',
    'held:5',
  ]);
  expect(timeline.tracks[0]!.items[3]).toMatchObject({ length: 24, source: { in: 50 } });
  expect(timeline.media.slow).toMatchObject({ rate: { num: 25, den: 1 }, clipId: null });
  expect(notes).toEqual([expect.stringContaining('the effect Glow is not known')]);
});

test.each([
  ['{', 'it is not JSON'],
  ['{"OTIO_SCHEMA":"Clip.1"}', 'it holds a Clip, not a Timeline'],
  [file([{ OTIO_SCHEMA: 'Clip.1', name: 'x' }]), 'tracks.children[0].children[0]: the clip has neither'],
  [
    file([clip('a', 0, 24, { source_range: { start_time: t(0), duration: { value: 'x', rate: 24 } } })]),
    'tracks.children[0].children[0].source_range.duration: a time needs',
  ],
  [file('none' as unknown as unknown[]), 'tracks.children[0].children: a list was expected'],
])('%.60s is refused with its place', (text, message) => {
  expect(() => parseOtio(text)).toThrow(message);
});

test('decimals stand for exact rates', () => {
  expect([23.976, 23.98, 23.976023976, 29.97, 59.94, 25, 24.0, 12.5].map(exactRate)).toEqual([
    rational(24_000, 1001),
    rational(24_000, 1001),
    rational(24_000, 1001),
    rational(30_000, 1001),
    rational(60_000, 1001),
    rational(25),
    rational(24),
    rational(25, 2),
  ]);
});

test('what is written is read back frame for frame, with effects, angles, stills and titles', () => {
  const effect = { id: 'x', on: true, kind: 'saturation' as const, amount: 1.2 };
  const items = [
    { ...clipItem('a', 3, 50, 10), effects: [effect] },
    clipItem('b', 44, 60, 30),
    clipItem('c', 110, 24, 100, { speed: rational(-3, 2) }),
    clipItem('d', 140, 10, 5, { speed: rational(0) }),
    {
      ...clipItem('e', 150, 20),
      source: {
        kind: 'angles' as const,
        angles: [
          { media: 'm', in: 0 },
          { media: 'm', in: 50 },
        ],
        switches: [
          { at: 0, angle: 1 },
          { at: 7, angle: 0 },
        ],
      },
    },
    {
      ...clipItem('f', 170, 10),
      source: {
        kind: 'still' as const,
        media: 's',
        from: { x: 0, y: 0, width: 1, height: 1 },
        to: { x: 0.5, y: 0, width: 0.5, height: 0.5 },
      },
    },
    { ...clipItem('g', 185, 10), source: { kind: 'title' as const } },
  ];
  const base = timelineOf(items, rational(24_000, 1001), { rate: rational(25) });
  const timeline = {
    ...base,
    markers: [{ id: 'k', at: 33, name: 'tide' }],
    media: { ...base.media, s: mediaRef({ frames: 1, name: 'still.jpg', startTimecode: null }) },
  };
  const { timeline: back, notes } = parseOtio(writeOtio(timeline));
  expect(notes).toEqual([]);
  const shown = (document: Timeline) =>
    Array.from({ length: 195 }, (_, slot) =>
      flattenSlot(document, slot).layers.map(({ item, frame, fade, view, effects }) => [
        item.name,
        frame,
        fade,
        view,
        effects,
      ]),
    );
  expect(shown(back)).toEqual(shown(timeline));
  expect(back.markers.map(({ at, name }) => [at, name])).toEqual([[33, 'tide']]);
  expect(back.rate).toEqual(timeline.rate);
  expect(otioLosses(timeline)).toHaveLength(4);
});
