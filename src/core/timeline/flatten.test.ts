import fc from 'fast-check';
import { rational } from '@/core/time/rational';
import { courseLength, courseSlot, flattenSlot, slotsAvailable, sourceFrameAt } from './flatten';
import { structureProblem } from './model';
import { clipItem, mediaRef, timelineOf } from './testing/testTimeline';

const framesOf = (timeline: Parameters<typeof flattenSlot>[0], slots: number[]) =>
  slots.map((slot) => flattenSlot(timeline, slot).layers.map(({ frame }) => frame));

test('a clip at the timeline’s rate shows frame for frame, and nothing before, behind or in a gap', () => {
  const timeline = timelineOf([clipItem('a', 2, 3, 10), clipItem('b', 8, 2, 50)]);
  expect(framesOf(timeline, [1, 2, 3, 4, 5, 7, 8, 9, 10])).toEqual([
    [],
    [10],
    [11],
    [12],
    [],
    [],
    [50],
    [51],
    [],
  ]);
});

test('rates are converted by time: 25 into 24 skips, 24 into 25 and 25 into 50 repeat, 23.976 never drifts', () => {
  expect(
    framesOf(timelineOf([clipItem('a', 0, 30)], rational(50), { rate: rational(25) }), [0, 1, 2, 3, 29]),
  ).toEqual([[0], [0], [1], [1], [14]]);
  const faster = timelineOf([clipItem('a', 0, 100)], rational(24), { rate: rational(25) });
  expect(framesOf(faster, [23, 24, 48])).toEqual([[23], [25], [50]]);
  // One hour at 24000/1001 on a 30000/1001 timeline: exactly four frames for five slots.
  expect(sourceFrameAt(0, 107_892, rational(1), rational(24_000, 1001), rational(30_000, 1001))).toBe(86_313);
});

test('speeds: twice, half, backwards, held', () => {
  const at = (num: number, den: number, first = 40) =>
    framesOf(timelineOf([clipItem('a', 0, 10, first, { speed: rational(num, den) })]), [0, 1, 2, 3]).flat();
  expect(at(2, 1)).toEqual([40, 42, 44, 46]);
  expect(at(1, 2)).toEqual([40, 40, 41, 41]);
  expect(at(-1, 1)).toEqual([40, 39, 38, 37]);
  expect(at(0, 1)).toEqual([40, 40, 40, 40]);
});

test('a cross-fade shows both sides, the later one more and more', () => {
  const timeline = timelineOf([clipItem('a', 0, 10), clipItem('b', 6, 10, 100)]);
  expect(flattenSlot(timeline, 5).layers.map(({ item }) => item.id)).toEqual(['a']);
  expect([6, 7, 8, 9].map((slot) => flattenSlot(timeline, slot).layers.map(({ fade }) => fade))).toEqual([
    [1, 0.125],
    [1, 0.375],
    [1, 0.625],
    [1, 0.875],
  ]);
  expect(flattenSlot(timeline, 10).layers.map(({ item, frame }) => [item.id, frame])).toEqual([['b', 104]]);
});

test('angles: the chosen one is shown, the others are decoded alongside', () => {
  const media = { m: mediaRef(), n: mediaRef({ name: 'n' }) };
  const item = {
    ...clipItem('a', 0, 20),
    source: {
      kind: 'angles' as const,
      angles: [
        { media: 'm', in: 0 },
        { media: 'n', in: 30 },
      ],
      switches: [
        { at: 0, angle: 0 },
        { at: 5, angle: 1 },
      ],
    },
  };
  const timeline = { ...timelineOf([item]), media };
  expect(flattenSlot(timeline, 4)).toMatchObject({
    layers: [{ media: 'm', frame: 4 }],
    alongside: [{ media: 'n', frame: 34 }],
  });
  expect(flattenSlot(timeline, 5)).toMatchObject({
    layers: [{ media: 'n', frame: 35 }],
    alongside: [{ media: 'm', frame: 5 }],
  });
});

test('a still moves from its first rectangle to its last; tracks lie over each other; one that is off is not there', () => {
  const still = {
    ...clipItem('s', 0, 11),
    source: {
      kind: 'still' as const,
      media: 'm',
      from: { x: 0, y: 0, width: 1, height: 1 },
      to: { x: 0.5, y: 0.25, width: 0.5, height: 0.5 },
    },
  };
  const base = timelineOf([still], rational(24), { frames: 1 });
  expect(flattenSlot(base, 5).layers[0]!.view).toEqual({ x: 0.25, y: 0.125, width: 0.75, height: 0.75 });
  expect(flattenSlot(base, 10).layers[0]!.view).toEqual({ x: 0.5, y: 0.25, width: 0.5, height: 0.5 });
  const two = {
    ...base,
    tracks: [
      base.tracks[0]!,
      { id: 'v2', name: 'V2', on: true, items: [clipItem('b', 0, 5)] },
      { id: 'v3', name: 'V3', on: false, items: [clipItem('c', 0, 5)] },
    ],
  };
  expect(flattenSlot(two, 0).layers.map(({ item }) => item.id)).toEqual(['s', 'b']);
});

test('slots available are exactly those whose frames exist', () => {
  fc.assert(
    fc.property(
      fc.integer({ min: 1, max: 500 }),
      fc.constantFrom(
        rational(24),
        rational(25),
        rational(24_000, 1001),
        rational(30_000, 1001),
        rational(50),
      ),
      fc.constantFrom(rational(1), rational(2), rational(1, 2), rational(-1), rational(-3, 2)),
      (frames, mediaRate, speed) => {
        const first = speed.num > 0 ? 0 : frames - 1;
        const timeline = timelineOf([], rational(24), { frames, rate: mediaRate });
        const slots = slotsAvailable({ kind: 'clip', media: 'm', in: first, speed }, timeline);
        const frame = (slot: number) => sourceFrameAt(first, slot, speed, mediaRate, rational(24));
        const exists = (value: number) => value >= 0 && value < frames;
        return exists(frame(slots - 1)) && !exists(frame(slots));
      },
    ),
  );
});

test('a course steps through the timeline at its speed and ends at its ends', () => {
  expect(courseLength(100, 0, 1)).toBe(100);
  expect(courseLength(100, 10, 8)).toBe(12);
  expect(courseLength(100, 99, -2)).toBe(50);
  expect(courseSlot({ from: 99, slots: 50, speed: -2 }, 49)).toBe(1);
});

test('documents from outside are checked for what edits rely on', () => {
  expect(structureProblem(timelineOf([clipItem('a', 0, 10), clipItem('b', 6, 10)]))).toBeNull();
  expect(structureProblem(timelineOf([clipItem('a', 0, 10), clipItem('b', 2, 5)]))?.message).toContain(
    'lies inside it',
  );
  expect(structureProblem(timelineOf([clipItem('a', 0, 10), clipItem('a', 12, 5)]))?.message).toContain(
    'twice',
  );
  expect(structureProblem(timelineOf([clipItem('a', 0, 0)]))?.message).toContain('whole slots');
  expect(
    structureProblem(timelineOf([clipItem('a', 0, 10), clipItem('b', 4, 10), clipItem('c', 8, 10)]))?.message,
  ).toContain('more than the item next to it');
});
