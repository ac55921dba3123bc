import fc from 'fast-check';
import { rational } from '@/core/time/rational';
import * as edits from './edits';
import { commit, historyOf, redo, undo } from './history';
import { flattenSlot } from './flatten';
import { structureProblem, type Timeline } from './model';
import { clipItem, itemsOf, timelineOf } from './testing/testTimeline';

const ids = (...names: string[]) => new Set(names);
/** What each slot shows, as item and frame: what an edit must not change elsewhere. */
const shown = (timeline: Timeline, slots: number) =>
  Array.from({ length: slots }, (_, slot) =>
    flattenSlot(timeline, slot)
      .layers.map(({ item, frame }) => `${item.id.split('~')[0]}:${frame}`)
      .join('+'),
  );

test('placing clears what is below and keeps the rest frame for frame', () => {
  const before = timelineOf([clipItem('a', 0, 20)]);
  const after = edits.placeItem(before, 'v1', clipItem('b', 5, 5, 100));
  expect(itemsOf(after)).toEqual([
    ['a', 0, 5],
    ['b', 5, 5],
    ['a~10', 10, 10],
  ]);
  expect(shown(after, 20).slice(10)).toEqual(shown(before, 20).slice(10));
});

test('inserting splits and moves what lies behind', () => {
  const after = edits.insertItem(
    timelineOf([clipItem('a', 0, 10), clipItem('c', 10, 5)]),
    'v1',
    clipItem('b', 4, 3, 100),
  );
  expect(itemsOf(after)).toEqual([
    ['a', 0, 4],
    ['b', 4, 3],
    ['a~4', 7, 6],
    ['c', 13, 5],
  ]);
});

test('removing leaves a gap, ripple delete closes it, also beside a cross-fade', () => {
  const timeline = timelineOf([clipItem('a', 0, 10), clipItem('b', 10, 5), clipItem('c', 20, 5)]);
  expect(itemsOf(edits.removeItems(timeline, ids('b')))).toEqual([
    ['a', 0, 10],
    ['c', 20, 5],
  ]);
  expect(itemsOf(edits.rippleDelete(timeline, ids('b')))).toEqual([
    ['a', 0, 10],
    ['c', 15, 5],
  ]);
  expect(itemsOf(edits.rippleDelete(timeline, ids('a', 'b')))).toEqual([['c', 5, 5]]);
  const faded = timelineOf([clipItem('a', 0, 10), clipItem('b', 8, 12), clipItem('c', 18, 12)]);
  expect(itemsOf(edits.rippleDelete(faded, ids('b')))).toEqual([
    ['a', 0, 10],
    ['c', 10, 12],
  ]);
  expect(itemsOf(edits.rippleDelete(faded, ids('a', 'b')))).toEqual([['c', 0, 12]]);
});

test('trimming keeps the frames that stay and stops at neighbours and source ends', () => {
  const timeline = timelineOf([clipItem('a', 0, 10), clipItem('b', 12, 10, 5)]);
  expect(itemsOf(edits.trimStart(timeline, 'b', 3))).toEqual([
    ['a', 0, 10],
    ['b', 15, 7],
  ]);
  expect(shown(edits.trimStart(timeline, 'b', 3), 22).slice(15)).toEqual(shown(timeline, 22).slice(15));
  expect(itemsOf(edits.trimStart(timeline, 'b', -9))).toEqual([
    ['a', 0, 10],
    ['b', 10, 12],
  ]);
  expect(itemsOf(edits.trimStart(timelineOf([clipItem('b', 12, 10, 5)]), 'b', -9))).toEqual([['b', 7, 15]]);
  expect(itemsOf(edits.trimEnd(timeline, 'a', 9))).toEqual([
    ['a', 0, 12],
    ['b', 12, 10],
  ]);
  expect(itemsOf(edits.trimEnd(timeline, 'b', 500))).toEqual([
    ['a', 0, 10],
    ['b', 12, 195],
  ]);
  expect(itemsOf(edits.trimEnd(timeline, 'b', -500))).toEqual([
    ['a', 0, 10],
    ['b', 12, 1],
  ]);
});

test('a split changes no picture, and is refused within a cross-fade', () => {
  const timeline = timelineOf([clipItem('a', 0, 10, 3, { speed: rational(2) })]);
  const split = edits.splitAt(timeline, 4);
  expect(itemsOf(split)).toEqual([
    ['a', 0, 4],
    ['a~4', 4, 6],
  ]);
  expect(shown(split, 10)).toEqual(shown(timeline, 10));
  const faded = timelineOf([clipItem('a', 0, 10), clipItem('b', 6, 10)]);
  expect(edits.splitAt(faded, 8)).toBe(faded);
});

test('what is cut off has an id of its own, also where the same was cut off before', () => {
  const two = edits.addTrack(timelineOf([clipItem('a', 0, 30)]), 'v2', 'V2');
  const moved = edits.moveItems(edits.splitAt(two, 14), ids('a'), 1, 1);
  const again = edits.splitAt(moved, 14);
  expect(again.tracks.map(({ items }) => items.map(({ id }) => id))).toEqual([['a~14'], ['a', 'a~14~2']]);
});

test('moving takes several items together, over what is there, or none', () => {
  const one = timelineOf([clipItem('a', 0, 5), clipItem('b', 5, 5), clipItem('c', 10, 10)]);
  const timeline = edits.addTrack(one, 'v2', 'V2');
  const moved = edits.moveItems(timeline, ids('a', 'b'), 8, 1);
  expect(itemsOf(moved)).toEqual([['c', 10, 10]]);
  expect(itemsOf(moved, 1)).toEqual([
    ['a', 8, 5],
    ['b', 13, 5],
  ]);
  expect(itemsOf(edits.moveItems(timeline, ids('a'), 12, 0))).toEqual([
    ['b', 5, 5],
    ['c', 10, 2],
    ['a', 12, 5],
    ['c~17', 17, 3],
  ]);
  expect(edits.moveItems(timeline, ids('a'), -1, 0)).toBe(timeline);
  expect(edits.moveItems(timeline, ids('a'), 0, 5)).toBe(timeline);
});

test('a cross-fade takes its slots from both sides’ spare source and can be a cut again', () => {
  const timeline = timelineOf([clipItem('a', 0, 50, 10), clipItem('b', 50, 50, 20)]);
  const faded = edits.crossFade(timeline, 'b', 12);
  expect(itemsOf(faded)).toEqual([
    ['a', 0, 56],
    ['b', 44, 56],
  ]);
  expect(shown(edits.crossFade(faded, 'b', 0), 100)).toEqual(shown(timeline, 100));
  expect(
    itemsOf(edits.crossFade(timelineOf([clipItem('a', 0, 50), clipItem('b', 50, 50, 2)]), 'b', 12)),
  ).toEqual([
    ['a', 0, 56],
    ['b', 48, 52],
  ]);
});

test('a cross-fade does not reach into the one beside it: at most two items are shown at a time', () => {
  const timeline = timelineOf([
    clipItem('a', 0, 50, 10),
    clipItem('b', 50, 10, 40),
    clipItem('c', 60, 50, 40),
  ]);
  const later = edits.crossFade(edits.crossFade(timeline, 'c', 8), 'b', 16);
  expect(itemsOf(later)).toEqual([
    ['a', 0, 56],
    ['b', 42, 22],
    ['c', 56, 54],
  ]);
  const earlier = edits.crossFade(edits.crossFade(timeline, 'b', 8), 'c', 16);
  expect(itemsOf(earlier)).toEqual([
    ['a', 0, 54],
    ['b', 46, 22],
    ['c', 54, 56],
  ]);
  // What was left of two items that faded into each other: they begin together.
  const whole = timelineOf([clipItem('a', 31, 1), clipItem('b', 31, 29, 9)]);
  expect(itemsOf(edits.crossFade(whole, 'b', 0))).toEqual([
    ['a', 31, 1],
    ['b', 32, 28],
  ]);
  const single = timelineOf([clipItem('a', 31, 1), clipItem('b', 31, 1)]);
  expect(edits.crossFade(single, 'b', 0)).toBe(single);
});

test('slip shows other frames in the same place; a speed keeps the first frame and fits the source', () => {
  const timeline = timelineOf([clipItem('a', 5, 50, 10)]);
  expect(flattenSlot(edits.slip(timeline, 'a', 20), 5).layers[0]!.frame).toBe(30);
  expect(flattenSlot(edits.slip(timeline, 'a', -99), 5).layers[0]!.frame).toBe(0);
  expect(itemsOf(edits.setSpeed(timeline, 'a', rational(8)))).toEqual([['a', 5, 24]]);
});

test('angles switch where asked and drop switches that change nothing', () => {
  const item = {
    ...clipItem('a', 10, 20),
    source: {
      kind: 'angles' as const,
      angles: [
        { media: 'm', in: 0 },
        { media: 'm', in: 50 },
      ],
      switches: [{ at: 0, angle: 0 }],
    },
  };
  const switched = edits.switchAngle(timelineOf([item]), 'a', 15, 1);
  expect(switched.tracks[0]!.items[0]!.source).toMatchObject({
    switches: [
      { at: 0, angle: 0 },
      { at: 5, angle: 1 },
    ],
  });
  expect(edits.switchAngle(switched, 'a', 15, 0).tracks[0]!.items[0]!.source).toMatchObject({
    switches: [{ at: 0, angle: 0 }],
  });
  const tail = edits.splitAt(switched, 20).tracks[0]!.items[1]!.source;
  expect(tail).toMatchObject({ switches: [{ at: 0, angle: 1 }], angles: [{ in: 10 }, { in: 60 }] });
});

test('tracks and markers', () => {
  const two = edits.addTrack(timelineOf([clipItem('a', 0, 5)]), 'v2', 'V2');
  expect(edits.moveTrack(two, 'v2', -1).tracks.map(({ id }) => id)).toEqual(['v2', 'v1']);
  expect(edits.moveTrack(two, 'v2', 1)).toBe(two);
  expect(edits.removeTrack(edits.removeTrack(two, 'v1'), 'v2').tracks.map(({ id }) => id)).toEqual(['v2']);
  const marked = edits.addMarker(edits.addMarker(two, { id: 'k', at: 9, name: '' }), {
    id: 'j',
    at: 4,
    name: '',
  });
  expect(marked.markers.map(({ at }) => at)).toEqual([4, 9]);
  expect(edits.snapPoints(marked, ids('a'), [30])).toEqual([0, 4, 9, 30]);
  expect(edits.snapShift([0, 4, 9, 30], [5, 12], 2)).toBe(-1);
  expect(edits.snapShift([0, 30], [10, 20], 3)).toBe(0);
});

test('whatever is edited, the structure holds and undo gives back the very same document', () => {
  const start = edits.addTrack(
    timelineOf([clipItem('a', 0, 30, 20), clipItem('b', 30, 30, 40), clipItem('c', 70, 30)]),
    'v2',
    'V2',
  );
  const edit = fc.tuple(
    fc.integer({ min: 0, max: 8 }),
    fc.constantFrom('a', 'b', 'c', 'n1'),
    fc.integer({ min: -40, max: 60 }),
    fc.integer({ min: 1, max: 40 }),
  );
  fc.assert(
    fc.property(fc.array(edit, { maxLength: 14 }), (list) => {
      let history = historyOf(start);
      list.forEach(([kind, id, by, length], at) => {
        const now = history.present;
        const next = [
          () => edits.trimStart(now, id, by),
          () => edits.trimEnd(now, id, by),
          () => edits.moveItems(now, ids(id), by, by % 2),
          () => edits.splitAt(now, Math.abs(by)),
          () => edits.rippleDelete(now, ids(id)),
          () => edits.crossFade(now, id, length),
          () => edits.placeItem(now, 'v1', clipItem(`p${at}`, Math.abs(by), length)),
          () => edits.insertItem(now, 'v2', clipItem(`i${at}`, Math.abs(by), length)),
          () => edits.slip(now, id, by),
        ][kind]!();
        expect(structureProblem(next)).toBeNull();
        history = commit(history, next, 'edit');
      });
      const end = history.present;
      const steps = history.past.length;
      for (let step = 0; step < steps; step++) history = undo(history);
      expect(history.present).toBe(start);
      for (let step = 0; step < steps; step++) history = redo(history);
      expect(history.present).toBe(end);
    }),
    { numRuns: 300 },
  );
});

test('edits of one drag undo together', () => {
  let history = historyOf(0);
  for (const value of [1, 2, 3]) history = commit(history, value, 'Trim', 'drag-1');
  history = commit(history, 4, 'Trim', 'drag-2');
  expect(undo(history).present).toBe(3);
  expect(undo(undo(history)).present).toBe(0);
});
