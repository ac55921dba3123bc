import { rational } from '@/core/time/rational';
import { flattenSlot } from '@/core/timeline/flatten';
import { structureProblem, type Timeline } from '@/core/timeline/model';
import { parseEdl } from './read';

/** Lists as other writers have them, written by hand from the published description of the form, with their reading beside them. */

const rate24 = rational(24);
const rate25 = rational(25);
const ntsc = rational(30_000, 1001);

const read = (lines: readonly string[], rate = rate25) => {
  const { timeline, notes } = parseEdl(`${lines.join('\n')}\n`, rate);
  expect(structureProblem(timeline)).toBeNull();
  return { timeline, notes };
};
/** Start, length and source frame counted from midnight, of each item of a track. */
const itemsOf = (timeline: Timeline, track = 0) =>
  (timeline.tracks[track]?.items ?? []).map(({ name, start, length, source }) => ({
    name,
    start,
    length,
    ...(source.kind === 'clip' && { in: source.in, speed: source.speed.num / source.speed.den }),
  }));
const startOf = (timeline: Timeline, name: string) =>
  Object.values(timeline.media).find((ref) => ref.name === name)?.startTimecode;

describe('frame count mode', () => {
  test('each event counts by the line above it', () => {
    const { timeline, notes } = read(
      [
        'TITLE: MIXED',
        'FCM: DROP FRAME',
        '001  A001  V  C  00:01:00:02 00:01:10:02 01:00:00:00 01:00:10:00',
        'FCM: NON-DROP FRAME',
        '002  B002  V  C  00:01:00:00 00:01:05:00 01:00:10:00 01:00:15:00',
      ],
      ntsc,
    );
    expect(notes).toEqual([]);
    // 00:01:00;02 is the 1800th frame in drop-frame, 00:01:00:00 without it: both begin there.
    expect(startOf(timeline, 'A001')).toBe('00:01:00;02');
    expect(startOf(timeline, 'B002')).toBe('00:01:00:00');
    expect(itemsOf(timeline)).toEqual([
      { name: 'A001', start: 0, length: 300, in: 0, speed: 1 },
      { name: 'B002', start: 300, length: 150, in: 0, speed: 1 },
    ]);
    expect(timeline.startTimecode).toBe('01:00:00;00');
  });

  test('a record that goes on past a change of mode is not torn', () => {
    // A non-drop record: a drop-frame source in between must not shift what lies behind a minute.
    const { timeline } = read(
      [
        'FCM: NON-DROP FRAME',
        '001  A  V  C  00:00:00:00 00:01:10:00 01:00:00:00 01:01:10:00',
        'FCM: DROP FRAME',
        '002  B  V  C  00:10:00:00 00:10:10:00 01:01:10:00 01:01:20:00',
        'FCM: NON-DROP FRAME',
        '003  C  V  C  00:10:00:00 00:10:10:00 01:01:20:00 01:01:30:00',
      ],
      ntsc,
    );
    expect(itemsOf(timeline).map(({ start, length }) => [start, length])).toEqual([
      [0, 2_100],
      [2_100, 300],
      [2_400, 300],
    ]);
  });

  test('a label that drop-frame skips is named, and the next is taken', () => {
    const { timeline, notes } = read(
      ['FCM: DROP FRAME', '001  A  V  C  00:01:00:00 00:01:01:00 01:01:00:00 01:01:01:00'],
      ntsc,
    );
    expect(notes).toEqual([
      'Line 2: 01:01:00:00 does not exist in drop-frame timecode; 01:01:00;02 was taken.',
      'Line 2: 00:01:00:00 does not exist in drop-frame timecode; 00:01:00;02 was taken.',
    ]);
    expect(itemsOf(timeline)).toEqual([{ name: 'A', start: 1_800, length: 28, in: 0, speed: 1 }]);
  });
});

describe('channels', () => {
  test.each(['V', 'B', 'AA/V', 'A2/V', 'A/V', 'VA1', 'VA2', 'V1', 'A1A2V'])(
    '%s holds the picture',
    (channel) => {
      const { timeline, notes } = read([
        `001  A001  ${channel}  C  00:00:00:00 00:00:01:00 01:00:00:00 01:00:01:00`,
      ]);
      expect([itemsOf(timeline).length, notes]).toEqual([1, []]);
    },
  );

  test.each(['A', 'A1', 'A2', 'AA', 'AA/A3', 'NONE'])('%s holds none, which is named', (channel) => {
    const { timeline, notes } = read([
      `001  A001  ${channel}  C  00:00:00:00 00:00:01:00 01:00:00:00 01:00:01:00`,
    ]);
    expect(itemsOf(timeline)).toEqual([]);
    expect(notes).toEqual([`Line 1: event 001 is for ${channel}, not for the picture, and was left out.`]);
  });

  test('several picture tracks stay several', () => {
    const { timeline } = read([
      '001  A001  V   C  00:00:00:00 00:00:02:00 01:00:00:00 01:00:02:00',
      '002  A002  V2  C  00:00:00:00 00:00:01:00 01:00:01:00 01:00:02:00',
    ]);
    expect(timeline.tracks.map(({ name }) => name)).toEqual(['V1', 'V2']);
    expect(itemsOf(timeline, 1)).toEqual([{ name: 'A002', start: 25, length: 25, in: 0, speed: 1 }]);
  });
});

test('keys are events: the background is cut in, the foreground lies on a track that is off', () => {
  const { timeline, notes } = read([
    '001  BG01  V  C        00:00:00:00 00:00:01:00 01:00:00:00 01:00:01:00',
    '002  BG01  V  K B      00:00:01:00 00:00:03:00 01:00:01:00 01:00:03:00',
    '002  FG01  V  K    000 00:00:10:00 00:00:12:00 01:00:01:00 01:00:03:00',
    '003  BG01  V  KB       00:00:03:00 00:00:04:00 01:00:03:00 01:00:04:00',
    '003  FG01  V  K O  012 00:00:12:00 00:00:13:00 01:00:03:00 01:00:04:00',
    '004  BG02  V  K B (F)  00:00:03:00 00:00:04:00 01:00:04:00 01:00:05:00',
  ]);
  expect(itemsOf(timeline).map(({ name, start, length }) => [name, start, length])).toEqual([
    ['BG01', 0, 25],
    ['BG01', 25, 50],
    ['BG01', 75, 25],
    ['BG02', 100, 25],
  ]);
  expect(timeline.tracks[1]).toMatchObject({ name: 'Keys', on: false });
  expect(itemsOf(timeline, 1).map(({ name, start, length }) => [name, start, length])).toEqual([
    ['FG01', 25, 50],
    ['FG01', 75, 25],
  ]);
  expect(notes).toHaveLength(5);
  expect(notes[0]).toBe('Line 2: event 002 is the background of a key and was taken as a cut.');
  expect(notes[1]).toContain('event 002 is a key: its picture lies on the track Keys, which is off');
});

describe('dissolves', () => {
  const shownAt = (timeline: Timeline, slot: number) =>
    flattenSlot(timeline, slot).layers.map(({ item, fade }) => `${item.name} ${fade.toFixed(2)}`);

  test('from what is not the event before: its own source fades out', () => {
    const { timeline, notes } = read([
      '001  A001  V  C      00:00:00:00 00:00:02:00 01:00:00:00 01:00:02:00',
      '002  C003  V  C      00:05:00:00 00:05:00:00 01:00:02:00 01:00:02:00',
      '002  B002  V  D  010 00:00:08:00 00:00:10:00 01:00:02:00 01:00:04:00',
      '* FROM CLIP NAME: SLUICE',
      '* TO CLIP NAME: WALL',
    ]);
    expect(notes).toEqual([]);
    expect(itemsOf(timeline).map(({ name, start, length }) => [name, start, length])).toEqual([
      ['A001', 0, 50],
      ['SLUICE', 50, 10],
      ['WALL', 50, 50],
    ]);
    expect(startOf(timeline, 'SLUICE')).toBe('00:05:00:00');
    expect(shownAt(timeline, 49)).toEqual(['A001 1.00']);
    expect(shownAt(timeline, 55)).toEqual(['SLUICE 1.00', expect.stringContaining('WALL 0.5')]);
    expect(shownAt(timeline, 60)).toEqual(['WALL 1.00']);
  });

  test('of one reel into itself, elsewhere', () => {
    const { timeline } = read([
      '001  A001  V  C      00:00:00:00 00:00:02:00 01:00:00:00 01:00:02:00',
      '002  A001  V  C      00:00:02:00 00:00:02:00 01:00:02:00 01:00:02:00',
      '002  A001  V  D  010 00:09:00:00 00:09:02:00 01:00:02:00 01:00:04:00',
    ]);
    expect(itemsOf(timeline).map(({ start, length, in: first }) => [start, length, first])).toEqual([
      [0, 60, 0],
      [50, 50, 13_500],
    ]);
  });

  test('an outgoing side without times of its own is the event before', () => {
    const { timeline } = read([
      '001  A001  V  C      00:07:00:00 00:07:02:00 01:00:00:00 01:00:02:00',
      '002  A001  V  C      00:00:00:00 00:00:00:00 01:00:02:00 01:00:02:00',
      '002  B002  V  D  010 00:00:08:00 00:00:10:00 01:00:02:00 01:00:04:00',
    ]);
    expect(itemsOf(timeline).map(({ name, length }) => [name, length])).toEqual([
      ['A001', 60],
      ['B002', 50],
    ]);
  });

  test('behind a gap, from a source of its own', () => {
    const { timeline, notes } = read([
      '001  A001  V  C      00:00:00:00 00:00:02:00 01:00:00:00 01:00:02:00',
      '002  C003  V  C      00:05:00:00 00:05:00:00 01:00:04:00 01:00:04:00',
      '002  B002  V  D  010 00:00:08:00 00:00:10:00 01:00:04:00 01:00:06:00',
    ]);
    expect(notes).toEqual([]);
    expect(itemsOf(timeline).map(({ start, length }) => [start, length])).toEqual([
      [0, 50],
      [100, 10],
      [100, 50],
    ]);
  });
});

describe('motion effects', () => {
  const speedAt = (text: string, rate = rate24) => {
    const { timeline } = read(
      ['001  A001  V  C  00:00:00:00 00:00:02:00 01:00:00:00 01:00:02:00', `M2   A001  ${text}  00:00:00:00`],
      rate,
    );
    const source = timeline.tracks[0]!.items[0]!.source;
    return source.kind === 'clip' ? source.speed : null;
  };

  test.each([
    ['048.0', rate24, [2, 1]],
    ['-024.0', rate24, [-1, 1]],
    ['012', rate24, [1, 2]],
    ['000.0', rate24, [0, 1]],
    ['024.24', rate24, [101, 100]],
    ['023.976', rate24, [1000, 1001]],
    ['023.98', rate24, [1000, 1001]],
    ['023.976', rational(24_000, 1001), [1, 1]],
    ['047.952', rational(24_000, 1001), [2, 1]],
    ['024.0', rational(24_000, 1001), [1, 1]],
    ['029.97', ntsc, [1, 1]],
    ['-059.94', ntsc, [-2, 1]],
    ['015.0', ntsc, [1, 2]],
    ['008.333333', rate25, [1, 3]],
  ] as const)('%s in a list at %j is %j', (text, rate, [num, den]) => {
    expect(speedAt(text, rate)).toEqual({ num, den });
  });

  test('a source of another length without one is named', () => {
    const { timeline, notes } = read(['001  A001  V  C  00:00:00:00 00:00:02:00 01:00:00:00 01:00:03:00']);
    expect(notes).toEqual([
      'Line 1: event 001 has 50 frames of its source for 75 of the record and no motion effect; it plays at 1x from its source in.',
    ]);
    expect(itemsOf(timeline)).toEqual([{ name: 'A001', start: 0, length: 75, in: 0, speed: 1 }]);
  });
});

test('a source that counts more frames a second than the list is read at its own rate', () => {
  const { timeline, notes } = read(['001  A001  V  C  10:00:00:49 10:00:02:49 01:00:00:00 01:00:02:00']);
  expect(Object.values(timeline.media)).toEqual([
    expect.objectContaining({ rate: rational(50), startTimecode: '10:00:00:49', frames: 99 }),
  ]);
  expect(notes).toEqual([
    'Line 1: event 001 counts more frames a second of its source than the list does; its source was read at 50.',
  ]);
});

test('lists in the order of their sources are put in the order of the record', () => {
  const { timeline } = read([
    '003  A001  V  C      00:00:04:00 00:00:06:00 01:00:04:00 01:00:06:00',
    '002  A001  V  C      00:00:02:00 00:00:02:00 01:00:02:00 01:00:02:00',
    '002  B002  V  D  010 00:00:08:00 00:00:10:00 01:00:02:00 01:00:04:00',
    '001  A001  V  C      00:00:00:00 00:00:02:00 01:00:00:00 01:00:02:00',
  ]);
  expect(itemsOf(timeline).map(({ start, length }) => [start, length])).toEqual([
    [0, 60],
    [50, 50],
    [100, 50],
  ]);
});

test('a list that crosses midnight goes on', () => {
  const { timeline } = read([
    '001  A001  V  C  23:59:59:00 00:00:01:00 23:59:58:00 00:00:00:00',
    '002  A001  V  C  00:00:01:00 00:00:02:00 00:00:00:00 00:00:01:00',
  ]);
  expect(timeline.startTimecode).toBe('23:00:00:00');
  expect(itemsOf(timeline).map(({ start, length }) => [start, length])).toEqual([
    [59 * 60 * 25 + 58 * 25, 50],
    [60 * 60 * 25, 25],
  ]);
});

test('reels with spaces, commas for fields of drop-frame, and files for names are taken', () => {
  const { timeline, notes } = read(
    [
      '001  CARD 7 B  V  C  00:00:00,00 00:00:01,00 01:00:00,00 01:00:01,00',
      '* SOURCE FILE: /cards/7/TW_WALL_0107.mov',
    ],
    ntsc,
  );
  expect(notes).toEqual([]);
  expect(Object.values(timeline.media)).toEqual([
    expect.objectContaining({ reel: 'CARD 7 B', name: 'TW_WALL_0107.mov', startTimecode: '00:00:00;00' }),
  ]);
});
