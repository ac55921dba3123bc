import { rational } from '@/core/time/rational';
import { flattenSlot } from '@/core/timeline/flatten';
import { structureProblem, type Timeline } from '@/core/timeline/model';
import { parseOtio } from './read';
import { writeOtio } from './write';

/** Files as other writers have them, written by hand from the published description of the schemas, with their reading beside them. */

const t = (value: number, rate = 24) => ({ OTIO_SCHEMA: 'RationalTime.1', value, rate });
const span = (start: number, duration: number, rate = 24) => ({
  OTIO_SCHEMA: 'TimeRange.1',
  start_time: t(start, rate),
  duration: t(duration, rate),
});
const external = (url: string, start = 0, duration = 500, rate = 24) => ({
  OTIO_SCHEMA: 'ExternalReference.1',
  target_url: url,
  available_range: span(start, duration, rate),
});
const clip = (name: string, start: number, duration: number, more: object = {}) => ({
  OTIO_SCHEMA: 'Clip.1',
  name,
  source_range: span(start, duration),
  media_reference: external(`${name}.mov`),
  ...more,
});
const gap = (duration: number, more: object = {}) => ({
  OTIO_SCHEMA: 'Gap.1',
  source_range: span(0, duration),
  ...more,
});
const track = (children: readonly unknown[], more: object = {}) => ({
  OTIO_SCHEMA: 'Track.1',
  kind: 'Video',
  name: 'V1',
  children,
  ...more,
});
const stack = (children: readonly unknown[], more: object = {}) => ({
  OTIO_SCHEMA: 'Stack.1',
  children,
  ...more,
});
const dissolve = (before: number, after: number) => ({
  OTIO_SCHEMA: 'Transition.1',
  transition_type: 'SMPTE_Dissolve',
  in_offset: t(before),
  out_offset: t(after),
});
const read = (tracks: readonly unknown[], more: object = {}, stackMore: object = {}) => {
  const { timeline, notes } = parseOtio(
    JSON.stringify({
      OTIO_SCHEMA: 'Timeline.1',
      name: 'Harbour wall',
      tracks: stack(tracks, stackMore),
      ...more,
    }),
  );
  expect(structureProblem(timeline)).toBeNull();
  return { timeline, notes };
};
/** Layers of slots as "name:source frame", from the bottom up. */
const shown = (timeline: Timeline, slots: readonly number[]) =>
  slots.map((slot) =>
    flattenSlot(timeline, slot)
      .layers.map(({ item, frame }) => `${item.name}:${frame}`)
      .join(' '),
  );

describe('tracks and stacks in each other', () => {
  test('a track in a track goes on in its time', () => {
    const { timeline, notes } = read([
      track([clip('a', 0, 10), track([clip('b', 5, 10), gap(4), clip('c', 0, 6)]), clip('d', 0, 8)]),
    ]);
    expect(notes).toEqual([]);
    expect(timeline.tracks).toHaveLength(1);
    expect(shown(timeline, [9, 10, 19, 20, 24, 29, 30])).toEqual([
      'a:9',
      'b:5',
      'b:14',
      '',
      'c:0',
      'c:5',
      'd:0',
    ]);
  });

  test('a source range trims what is nested, head and tail', () => {
    const inner = track([clip('b', 5, 10), clip('c', 0, 20)], { source_range: span(6, 10) });
    const { timeline, notes } = read([track([clip('a', 0, 10), inner, clip('d', 0, 8)])]);
    expect(notes).toEqual([]);
    expect(shown(timeline, [9, 10, 13, 14, 19, 20])).toEqual(['a:9', 'b:11', 'b:14', 'c:0', 'c:5', 'd:0']);
  });

  test('a stack in a track lies over it, as long as its longest, or as its range', () => {
    const whole = read([
      track([clip('a', 0, 10), stack([clip('b', 0, 6), clip('c', 0, 12)]), clip('d', 0, 8)]),
    ]);
    expect(whole.timeline.tracks.map(({ name }) => name)).toEqual(['V1', 'V1 2']);
    expect(shown(whole.timeline, [10, 15, 16, 21, 22])).toEqual(['b:0 c:0', 'b:5 c:5', 'c:6', 'c:11', 'd:0']);
    const part = read([
      track([
        clip('a', 0, 10),
        stack([clip('b', 0, 6), clip('c', 0, 12)], { source_range: span(2, 6) }),
        clip('d', 0, 8),
      ]),
    ]);
    expect(shown(part.timeline, [10, 13, 14, 15, 16])).toEqual(['b:2 c:2', 'b:5 c:5', 'c:6', 'c:7', 'd:0']);
  });

  test('a stack among the tracks, and a clip of its own, are tracks', () => {
    const { timeline } = read([
      stack([track([clip('a', 0, 5)]), clip('b', 0, 3)], { name: 'both' }),
      clip('c', 0, 4),
    ]);
    expect(timeline.tracks.map(({ name, items }) => [name, items.length])).toEqual([
      ['both', 1],
      ['both 2', 1],
      ['c', 1],
    ]);
    expect(shown(timeline, [2, 3, 4])).toEqual(['a:2 b:2 c:2', 'a:3 c:3', 'a:4']);
  });

  test('the source range of a track moves what it shows, as does that of all', () => {
    expect(
      shown(
        read([track([clip('a', 0, 10), clip('b', 0, 10)], { source_range: span(4, 12) })]).timeline,
        [0, 5, 6, 11, 12],
      ),
    ).toEqual(['a:4', 'a:9', 'b:0', 'b:5', '']);
    expect(
      shown(
        read([track([clip('a', 0, 10), clip('b', 0, 10)])], {}, { source_range: span(8, 4) }).timeline,
        [0, 1, 2, 3, 4],
      ),
    ).toEqual(['a:8', 'a:9', 'b:0', 'b:1', '']);
  });

  test('what is cut of a clip at another speed is cut at that speed', () => {
    const fast = clip('a', 10, 20, { effects: [{ OTIO_SCHEMA: 'LinearTimeWarp.1', time_scalar: 2 }] });
    expect(shown(read([track([track([fast], { source_range: span(5, 10) })])]).timeline, [0, 9])).toEqual([
      'a:20',
      'a:38',
    ]);
  });
});

test('what is not enabled is not shown, and is kept on a track that is off', () => {
  const { timeline, notes } = read([
    track([clip('a', 0, 10), clip('b', 0, 10, { enabled: false }), clip('c', 0, 10)]),
    track([clip('d', 0, 30)], { name: 'V2', enabled: false }),
    track([stack([clip('e', 0, 5)], { enabled: false })], { name: 'V3' }),
  ]);
  expect(shown(timeline, [5, 15, 25])).toEqual(['a:5', '', 'c:5']);
  expect(
    timeline.tracks.map(({ name, on, items }) => [name, on, items.map((item) => [item.name, item.start])]),
  ).toEqual([
    [
      'V1',
      true,
      [
        ['a', 0],
        ['c', 20],
      ],
    ],
    ['V1, not enabled', false, [['b', 10]]],
    ['V2', false, [['d', 0]]],
    ['V3', true, []],
    ['V3, not enabled', false, [['e', 0]]],
  ]);
  expect(notes).toEqual([
    'V1: 1 item is not enabled; it lies on a track of its own, which is off.',
    'V3: 1 item is not enabled; it lies on a track of its own, which is off.',
  ]);
});

describe('rates', () => {
  const sound = {
    ...track([clip('s', 0, 96_000, { source_range: span(0, 96_000, 48_000) })]),
    kind: 'Audio',
    name: 'A1',
  };

  test('come from the picture, not from sound that stands before it', () => {
    const { timeline, notes } = read([
      sound,
      track([
        clip('a', 0, 50, { source_range: span(0, 50, 25), media_reference: external('a.mov', 0, 100, 25) }),
      ]),
    ]);
    expect(timeline.rate).toEqual(rational(25));
    expect(timeline.tracks[0]!.items[0]).toMatchObject({ start: 0, length: 50 });
    expect(notes).toEqual(['tracks.children[0]: the audio track A1 was left out.']);
  });

  test('a start at another rate of frames keeps its label, one in samples its time', () => {
    const at25 = [track([clip('a', 0, 50, { source_range: span(0, 50, 25) })])];
    expect(read(at25, { global_start_time: t(86_400, 24) }).timeline.startTimecode).toBe('01:00:00:00');
    expect(read(at25, { global_start_time: t(86_412, 24) }).timeline.startTimecode).toBe('01:00:00:12');
    expect(read(at25, { global_start_time: t(3_600 * 48_000 + 24_000, 48_000) }).timeline.startTimecode).toBe(
      '01:00:00:13',
    );
    const at23 = [track([clip('a', 0, 48, { source_range: span(0, 48, 23.976) })])];
    expect(read(at23, { global_start_time: t(86_400, 24) }).timeline.startTimecode).toBe('01:00:00:00');
    const at29 = [track([clip('a', 0, 60, { source_range: span(0, 60, 29.97) })])];
    expect(read(at29, { global_start_time: t(107_892, 29.97) }).timeline.startTimecode).toBe('01:00:00;00');
    expect(read(at29, { global_start_time: t(108_000, 29.97) }).timeline.startTimecode).toBe('01:00:00:00');
  });

  test('lengths at other rates do not add up to a drift', () => {
    // 100 clips of one second and a half of 24 frames' time at 25: 1.5 s are 37.5 slots.
    const clips = Array.from({ length: 100 }, (_, at) => clip(`c${at}`, 0, 36));
    const at25 = Array.from({ length: 101 }, () => clip('x', 0, 25, { source_range: span(0, 25, 25) }));
    const { timeline } = read([track(at25), track(clips, { name: 'V2' })]);
    expect(timeline.rate).toEqual(rational(25));
    const last = timeline.tracks[1]!.items.at(-1)!;
    expect(last.start + last.length).toBe(3_750);
  });
});

test('markers on clips, gaps, tracks and all are markers where they stand', () => {
  const marker = (name: string, at: number, more: object = {}) => ({
    OTIO_SCHEMA: 'Marker.2',
    name,
    marked_range: span(at, 0),
    ...more,
  });
  const { timeline, notes } = read(
    [
      track(
        [
          gap(10, { markers: [marker('in the gap', 3)] }),
          clip('a', 100, 20, { markers: [marker('on the clip', 105), marker('before it', 90)] }),
        ],
        { markers: [marker('on the track', 12)], source_range: span(2, 28) },
      ),
    ],
    {},
    { markers: [marker('', 7, { comment: 'said in a comment', color: 'RED' })] },
  );
  expect(timeline.markers.map(({ at, name }) => [at, name])).toEqual(
    [
      [-2, 'before it'],
      [1, 'in the gap'],
      [7, 'said in a comment'],
      [10, 'on the track'],
      [13, 'on the clip'],
    ].filter(([at]) => (at as number) >= 0),
  );
  expect(notes).toEqual([expect.stringContaining('1 marker outside of what is seen of it was left out')]);
});

test('transitions at the ends of a track, and beside what has several layers, are named', () => {
  const { timeline, notes } = read([
    track([
      dissolve(0, 6),
      clip('a', 0, 20),
      dissolve(4, 4),
      stack([clip('b', 0, 10), clip('c', 0, 10)]),
      dissolve(6, 0),
    ]),
  ]);
  expect(shown(timeline, [0, 19, 20, 29, 30])).toEqual(['a:0', 'a:19', 'b:0 c:0', 'b:9 c:9', '']);
  expect(notes).toEqual(
    [0, 2, 4].map(
      (at) =>
        `tracks.children[0].children[${at}]: a fade to or from black, or of several layers, was left out.`,
    ),
  );
});

test('of several media references the active one counts, and all come back', () => {
  const file = {
    ...clip('a', 10, 20),
    OTIO_SCHEMA: 'Clip.2',
    media_reference: undefined,
    media_references: {
      DEFAULT_MEDIA: external('low.mov'),
      high: external('file:///cards/7/high.mov', 5, 100),
    },
    active_media_reference_key: 'high',
  };
  const { timeline } = read([track([file])]);
  expect(Object.values(timeline.media).map(({ name }) => name)).toEqual(['high.mov']);
  expect(shown(timeline, [0])).toEqual(['a:5']);
  const back = JSON.parse(writeOtio(timeline)) as never as {
    tracks: {
      children: [
        {
          children: [
            { media_references: Record<string, { target_url: string }>; active_media_reference_key: string },
          ];
        },
      ];
    };
  };
  const [written] = back.tracks.children[0].children;
  expect(written.active_media_reference_key).toBe('high');
  expect(
    Object.entries(written.media_references)
      .map(([key, { target_url: url }]) => [key, url])
      .sort(),
  ).toEqual([
    ['DEFAULT_MEDIA', 'low.mov'],
    ['high', 'file:///cards/7/high.mov'],
  ]);
  // A key that leads nowhere: the default, else the first there is.
  expect(
    Object.values(read([track([{ ...file, active_media_reference_key: 'gone' }])]).timeline.media).map(
      ({ name }) => name,
    ),
  ).toEqual(['low.mov']);
});

test('held frames, warps over each other, and time effects of unknown kind', () => {
  const warped = (effects: readonly object[]) => {
    const { timeline, notes } = read([track([clip('a', 10, 20, { effects })])]);
    const { source } = timeline.tracks[0]!.items[0]!;
    return { speed: source.kind === 'clip' ? source.speed : null, notes };
  };
  expect(warped([{ OTIO_SCHEMA: 'FreezeFrame.1', time_scalar: 0 }]).speed).toEqual(rational(0));
  expect(
    warped([
      { OTIO_SCHEMA: 'LinearTimeWarp.1', time_scalar: 0.5 },
      { OTIO_SCHEMA: 'LinearTimeWarp.1', time_scalar: 3 },
    ]).speed,
  ).toEqual(rational(3, 2));
  expect(warped([{ OTIO_SCHEMA: 'TimeEffect.1', effect_name: 'Ramp' }])).toEqual({
    speed: rational(1),
    notes: [
      'tracks.children[0].children[0]: the effect Ramp is not known; it is kept for other programs and not shown.',
    ],
  });
});

test('image sequences and generators have names', () => {
  const { timeline, notes } = read([
    track([
      clip('a', 1_001, 20, {
        media_reference: {
          OTIO_SCHEMA: 'ImageSequenceReference.1',
          target_url_base: 'file:///scans',
          name_prefix: 'TW_SCAN_',
          name_suffix: '.dpx',
          start_frame: 1_001,
          frame_step: 1,
          rate: 24,
          frame_zero_padding: 6,
          available_range: span(1_001, 100),
        },
      }),
      clip('bars', 0, 10, {
        media_reference: { OTIO_SCHEMA: 'GeneratorReference.1', generator_kind: 'SMPTEBars' },
      }),
    ]),
  ]);
  expect(Object.values(timeline.media).map(({ name }) => name)).toEqual(['TW_SCAN_######.dpx', 'bars']);
  expect(notes).toEqual([
    'tracks.children[0].children[1]: SMPTEBars makes pictures of its own, which are not at hand.',
  ]);
});

test('what is of no known schema leaves its time, and a collection gives its first timeline', () => {
  const { timeline, notes } = read([
    track([
      clip('a', 0, 10),
      { OTIO_SCHEMA: 'Hologram.3', source_range: span(0, 6) },
      { OTIO_SCHEMA: 'Note.1' },
      clip('b', 0, 10),
    ]),
  ]);
  expect(shown(timeline, [9, 10, 15, 16])).toEqual(['a:9', '', '', 'b:0']);
  expect(notes).toEqual([
    'tracks.children[0].children[1]: a Hologram was left out; a gap is in its place.',
    'tracks.children[0].children[2]: a Note was left out.',
  ]);
  const whole = parseOtio(
    JSON.stringify({
      OTIO_SCHEMA: 'SerializableCollection.1',
      children: [
        { OTIO_SCHEMA: 'Clip.1' },
        { OTIO_SCHEMA: 'Timeline.1', name: 'Reel two', tracks: stack([track([clip('a', 0, 10)])]) },
      ],
    }),
  );
  expect(whole.timeline.name).toBe('Reel two');
  expect(whole.notes).toEqual(['The file holds 2 things; Reel two was read.']);
});

test('what others keep comes back as it came: metadata, effects, references, markers', () => {
  const theirs = { studio: { bin: 'day 3', grade: [1, 2, { deep: true }] } };
  const glow = { OTIO_SCHEMA: 'Effect.1', name: 'Glow', effect_name: 'Glow', metadata: { amount: 0.4 } };
  const file = {
    OTIO_SCHEMA: 'Timeline.1',
    name: 'Kept',
    metadata: theirs,
    tracks: stack(
      [
        track(
          [
            clip('a', 0, 20, {
              metadata: theirs,
              effects: [glow],
              media_reference: {
                ...external('file:///cards/7/a%20b.mov'),
                name: 'A',
                metadata: theirs,
                available_image_bounds: { x: 1 },
              },
            }),
          ],
          { metadata: theirs },
        ),
      ],
      {
        metadata: theirs,
        markers: [
          {
            OTIO_SCHEMA: 'Marker.2',
            name: 'tide',
            color: 'RED',
            comment: 'low',
            metadata: theirs,
            marked_range: span(5, 10),
          },
        ],
      },
    ),
  };
  const { timeline } = parseOtio(JSON.stringify(file));
  const back = JSON.parse(writeOtio(timeline)) as Record<string, never>;
  expect(back).toMatchObject({
    metadata: theirs,
    tracks: {
      metadata: theirs,
      markers: [{ name: 'tide', color: 'RED', comment: 'low', metadata: theirs, marked_range: span(5, 10) }],
      children: [
        {
          metadata: theirs,
          children: [
            {
              metadata: theirs,
              effects: [glow],
              media_references: {
                DEFAULT_MEDIA: {
                  target_url: 'file:///cards/7/a%20b.mov',
                  name: 'A',
                  metadata: theirs,
                  available_image_bounds: { x: 1 },
                  available_range: span(0, 500),
                },
              },
            },
          ],
        },
      ],
    },
  });
  // And again: nothing is added by going through twice.
  expect(writeOtio(parseOtio(writeOtio(timeline)).timeline)).toBe(writeOtio(timeline));
});

test('more metadata than is kept is named', () => {
  const { timeline, notes } = read([track([clip('a', 0, 10, { metadata: { x: 'y'.repeat(120_000) } })])]);
  expect(timeline.tracks[0]!.items[0]!.other).toBeUndefined();
  expect(notes).toEqual([
    expect.stringMatching(
      /^tracks\.children\[0\]\.children\[0\]: 120\d{3} characters of metadata were left out/,
    ),
  ]);
});

test('what is nested without end is refused', () => {
  let inner: unknown = clip('a', 0, 10);
  for (let depth = 0; depth < 70; depth++) inner = track([inner]);
  expect(() => read([inner])).toThrow('more than 64 deep');
});
