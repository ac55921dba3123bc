import { rational } from '@/core/time/rational';
import { flattenSlot } from '@/core/timeline/flatten';
import { structureProblem, type Timeline } from '@/core/timeline/model';
import { clipItem, mediaRef, timelineOf } from '@/core/timeline/testing/testTimeline';
import { parseEdl } from './read';
import { edlLosses, writeEdl } from './write';

const list = `TITLE: HARBOUR WALL
FCM: NON-DROP FRAME

001  A001     V     C        07:41:18:00 07:41:20:00 01:00:00:00 01:00:02:00
* FROM CLIP NAME: TW_WALL_0107.MOV
002  A001     V     C        07:41:20:00 07:41:20:00 01:00:02:00 01:00:02:00
002  B002     V     D    012 09:00:00:00 09:00:03:00 01:00:02:00 01:00:05:00
* FROM CLIP NAME: TW_WALL_0107.MOV
* TO CLIP NAME: TW_MARSH_0212.MP4
003  B002     V     C        09:10:00:00 09:10:04:00 01:00:06:00 01:00:08:00
M2   B002     048.0                09:10:00:00
004  AX       A     C        00:00:00:00 00:00:01:00 01:00:00:00 01:00:01:00
`;

const frameAt = (timeline: Timeline, slot: number) =>
  flattenSlot(timeline, slot).layers.map(({ item, frame }) => `${item.name}:${frame}`);

test('cuts, a dissolve, a gap and a motion effect land on the right slots with the right frames', () => {
  const { timeline, notes } = parseEdl(list, rational(24));
  expect(structureProblem(timeline)).toBeNull();
  expect(timeline).toMatchObject({ name: 'HARBOUR WALL', startTimecode: '01:00:00:00' });
  expect(frameAt(timeline, 47)).toEqual(['TW_WALL_0107.MOV:47']);
  expect(frameAt(timeline, 48)).toEqual(['TW_WALL_0107.MOV:48', 'TW_MARSH_0212.MP4:0']);
  expect(frameAt(timeline, 60)).toEqual(['TW_MARSH_0212.MP4:12']);
  expect(frameAt(timeline, 120)).toEqual([]);
  const [, , fast] = timeline.tracks[0]!.items;
  expect(fast).toMatchObject({ start: 144, length: 48, source: { speed: { num: 2, den: 1 } } });
  expect(Object.values(timeline.media)[0]).toMatchObject({ reel: 'A001', startTimecode: '07:41:18:00' });
  expect(notes).toEqual([expect.stringContaining('event 004 is for A, not for the picture')]);
});

test('a drop-frame list counts its labels as SMPTE ST 12-1 does', () => {
  const { timeline } = parseEdl(
    'TITLE: X\nFCM: DROP FRAME\n001  R1 V C 00:00:00;00 00:01:00;02 01:00:59;00 01:02:00;02\n',
    rational(30_000, 1001),
  );
  // 01:00:59;00 to 01:02:00;02: 1 770 to 3 598 after the hour.
  expect(timeline.tracks[0]!.items[0]).toMatchObject({ start: 1_770, length: 1_828 });
  expect(timeline.startTimecode).toBe('01:00:00;00');
});

test.each([
  ['001  A001 V C 07:41:18:00 07:41:20:00 01:00:00:00', 'Line 1: "001  A001 V C'],
  ['001  A001 V D 07:41:18:00 07:41:20:00 01:00:00:00 01:00:02:00', 'dissolve without a length'],
  ['001  A001 V C 07:41:18:30 07:41:20:00 01:00:00:00 01:00:02:00', 'does not exist at 24'],
  ['001  A001 V C 07:41:20:00 07:41:18:00 01:00:00:00 01:00:02:00', 'ends before it begins'],
  [
    '001  A001 V C 00:00:00:00 00:00:02:00 01:00:00:00 01:00:02:00\n002  A001 V C 00:00:00:00 00:00:02:00 01:00:01:00 01:00:03:00',
    'Line 2: event 002 begins before',
  ],
  ['FCM: SOMETIMES', 'FCM: must be followed by DROP FRAME'],
  ['001  A001 V C 00:00:00;00 00:00:02;00 01:00:00;00 01:00:02;00', 'Choose the rate 30000/1001'],
  ['M2 A001 048.0 00:00:00:00', 'before any event'],
])('%j is refused with its line', (text, message) => {
  expect(() => parseEdl(text, rational(24))).toThrow(message);
});

test('what is written is read back frame for frame: cuts, fades, speeds both ways, gaps', () => {
  const items = [
    clipItem('a', 0, 50, 10),
    clipItem('b', 44, 60, 30),
    clipItem('c', 120, 24, 100, { speed: rational(-1) }),
    clipItem('d', 144, 24, 0, { speed: rational(1, 2) }),
    clipItem('e', 168, 10, 7),
  ];
  const timeline = timelineOf(items);
  const { timeline: back, notes } = parseEdl(writeEdl(timeline, timeline.tracks[0]!), rational(24));
  expect(notes).toEqual([]);
  const base = (document: Timeline) => Object.values(document.media)[0]!.startTimecode!;
  const offset = Number(base(back).slice(6, 8)) * 24 + Number(base(back).slice(9)) - 0;
  const shown = (document: Timeline, shift: number) =>
    Array.from({ length: 178 }, (_, slot) =>
      flattenSlot(document, slot)
        .layers.map(({ frame, fade }) => `${frame + shift}/${fade.toFixed(3)}`)
        .join('+'),
    );
  expect(shown(back, offset)).toEqual(shown(timeline, 0));
});

test('what the form cannot carry is told before it is written', () => {
  const graded = {
    ...clipItem('a', 0, 10),
    effects: [{ id: 'x', on: true, kind: 'saturation' as const, amount: 1.2 }],
  };
  const angles = {
    ...clipItem('b', 10, 10),
    source: {
      kind: 'angles' as const,
      angles: [
        { media: 'm', in: 0 },
        { media: 'n', in: 0 },
      ],
      switches: [
        { at: 0, angle: 0 },
        { at: 4, angle: 1 },
      ],
    },
  };
  const base = timelineOf([graded, angles]);
  const timeline = {
    ...base,
    media: { ...base.media, n: mediaRef({ name: 'N', rate: rational(25) }) },
    markers: [{ id: 'k', at: 3, name: '' }],
    tracks: [
      ...base.tracks,
      { id: 'v2', name: 'V2', on: true, items: [clipItem('c', 0, 5, 0, { media: 'n' })] },
    ],
  };
  expect(edlLosses(timeline, timeline.tracks[0]!)).toEqual([
    '1 other track: an edit list holds one picture track.',
    '1 item with effects: effects are not carried.',
    '1 item of several angles: each stretch becomes an event of its chosen angle.',
    '1 item with names of their own: an edit list has the names of clips.',
    '1 marker: not carried.',
  ]);
  expect(edlLosses(timeline, timeline.tracks[1]!)).not.toContain('rate');
  expect(writeEdl(timeline, timeline.tracks[0]!).match(/^\d{3} /gm)).toHaveLength(3);
});
