import { rational } from '@/core/time/rational';
import { conformed, graded, gridPlaces, runThrough, sideBySide, worstMinute } from './loads';
import { excerpt } from './edits';
import { flattenSlot } from './flatten';
import { lengthOf, structureProblem, type Timeline } from './model';
import { clipItem, mediaRef, timelineOf } from './testing/testTimeline';

const wall = { id: 'wall', ref: mediaRef({ name: 'TW_WALL_0107.MOV', frames: 240, rate: rational(24) }) };
const kite = { id: 'kite', ref: mediaRef({ name: 'TW_KITE_0301.MP4', frames: 100, rate: rational(25) }) };

const frameAt = (timeline: Timeline, slot: number) =>
  flattenSlot(timeline, slot).layers.map(({ media, frame }) => `${media}:${frame}`);

test('streams lie side by side without overlapping, each read by itself', () => {
  for (const count of [1, 2, 3, 5, 9, 10]) {
    const places = gridPlaces(count);
    expect(places).toHaveLength(count);
    expect(new Set(places.map(({ x, y }) => `${x} ${y}`)).size).toBe(count);
    for (const { x, y, width, height } of places)
      expect(x + width <= 1 + 1e-9 && y + height <= 1 + 1e-9).toBe(true);
  }
  const timeline = sideBySide(wall, 4, 5);
  expect(structureProblem(timeline)).toBeNull();
  expect(lengthOf(timeline)).toBe(120);
  expect(frameAt(timeline, 7)).toEqual(['wall:7', 'wall:7', 'wall:7', 'wall:7']);
});

test('a grade is three pieces of picture work; n grades are n times as many', () => {
  expect(flattenSlot(graded(wall, 3), 0).layers[0]?.effects).toHaveLength(9);
  expect(flattenSlot(graded(wall, 0), 0).layers[0]?.effects).toHaveLength(0);
});

test('a run-through shows a few seconds of each clip at one rate', () => {
  const timeline = runThrough([wall, kite], rational(24), { width: 640, height: 360 }, 2);
  expect(lengthOf(timeline)).toBe(96);
  // 25 frames in 24 slots: slot 24 of the second clip holds its frame 25.
  expect(frameAt(timeline, 72)).toEqual(['kite:25']);
});

test('another rate keeps every time to the nearest slot, and no item outlasts its media', () => {
  const timeline = timelineOf([clipItem('a', 0, 48, 0), clipItem('b', 48, 192, 48)], rational(24), {
    frames: 240,
  });
  const at30 = conformed(timeline, rational(30));
  expect(structureProblem(at30)).toBeNull();
  expect(at30.tracks[0]?.items.map(({ start, length }) => [start, length])).toEqual([
    [0, 60],
    [60, 240],
  ]);
  expect(flattenSlot(at30, 30).layers[0]?.frame).toBe(24);
});

test('the worst minute is the heaviest one, and can be cut out with its frames', () => {
  const weight = Float64Array.from({ length: 24 * 180 }, (_, at) => (at >= 2_000 && at < 2_200 ? 9 : 1));
  const { from, slots } = worstMinute(weight, rational(24));
  expect(slots).toBe(1_440);
  expect(from <= 2_000 && from + slots >= 2_200).toBe(true);
  const timeline = timelineOf([clipItem('a', 0, 100, 0), clipItem('b', 90, 60, 5)], rational(24), {
    frames: 240,
  });
  const part = excerpt(timeline, 95, 30);
  expect(lengthOf(part)).toBe(30);
  expect(part.startTimecode).toBe('01:00:03:23');
  for (const slot of [0, 4, 5, 29]) expect(frameAt(part, slot)).toEqual(frameAt(timeline, slot + 95));
});
