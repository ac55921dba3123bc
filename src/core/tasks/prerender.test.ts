import { packetTableFrom } from '../media/packetTable';
import { rational } from '../time/rational';
import { planCourse } from '../timeline/course';
import { courseContents, flattenSlot, type Course } from '../timeline/flatten';
import { emptyTimeline, type Item, type Timeline } from '../timeline/model';
import { soundPlan } from './soundPlan';
import { intermediateIds, intermediateChoice, layOut, pictureText, prerenderedSlots } from './prerender';
import { choiceProblem } from './exportCodecs';

const item = (id: string, start: number, length: number, change: Partial<Item> = {}): Item => ({
  id,
  name: id,
  start,
  length,
  source: { kind: 'clip', media: 'm', in: 5, speed: rational(1) },
  effects: [{ id: 'b', on: true, kind: 'blur', radius: 0.1 }],
  ...change,
});
const base = emptyTimeline('Tidewrack', rational(24), 64, 36);
const timelineOf = (...items: Item[]): Timeline => ({
  ...base,
  tracks: [{ id: 'v1', name: 'V1', on: true, items }],
  media: {
    m: {
      clipId: 'c',
      name: 'TW_WALL_0107.mov',
      reel: null,
      startTimecode: null,
      contentHash: 'abc',
      rate: rational(24),
      frames: 200,
      width: 64,
      height: 36,
    },
  },
});
const plain = timelineOf(item('a', 0, 60), item('b', 50, 60));

test('every intermediate is a choice that can be written', () => {
  for (const id of intermediateIds) expect(choiceProblem(intermediateChoice(id))).toBeNull();
});

test.each<[string, (timeline: Timeline) => Timeline, boolean]>([
  ['another name', (timeline) => ({ ...timeline, name: 'other' }), false],
  ['a marker', (timeline) => ({ ...timeline, markers: [{ id: 'k', at: 20, name: 'here' }] }), false],
  [
    'an empty track above',
    (timeline) => ({
      ...timeline,
      tracks: [...timeline.tracks, { id: 'v2', name: 'V2', on: true, items: [] }],
    }),
    false,
  ],
  [
    'an item behind the stretch',
    (timeline) => timelineOf(...timeline.tracks[0]!.items, item('z', 110, 5)),
    false,
  ],
  [
    'an effect that is off',
    () =>
      timelineOf(
        item('a', 0, 60, {
          effects: [...item('a', 0, 1).effects, { id: 'x', on: false, kind: 'blur', radius: 1 }],
        }),
        item('b', 50, 60),
      ),
    false,
  ],
  [
    'the track off',
    (timeline) => ({ ...timeline, tracks: timeline.tracks.map((track) => ({ ...track, on: false })) }),
    true,
  ],
  [
    'a blur a bit wider',
    () =>
      timelineOf(
        item('a', 0, 60, { effects: [{ id: 'b', on: true, kind: 'blur', radius: 0.11 }] }),
        item('b', 50, 60),
      ),
    true,
  ],
  [
    'other content under the same name',
    (timeline) => ({ ...timeline, media: { m: { ...timeline.media.m!, contentHash: 'def' } } }),
    true,
  ],
  ['a cut one slot later', () => timelineOf(item('a', 0, 60), item('b', 51, 60)), true],
  ['another raster', (timeline) => ({ ...timeline, width: 128 }), true],
  ['another rate', (timeline) => ({ ...timeline, rate: rational(25) }), true],
])('%s: the pictures of a stretch are other ones or not', (_, change, isOther) => {
  expect(pictureText(change(plain), 10, 70) !== pictureText(plain, 10, 70)).toBe(isOther);
});

test('a still that pans, a title and a cross-fade are part of the pictures, and an hour is told shortly', () => {
  const still = (to: number) =>
    timelineOf(
      item('s', 0, 60, {
        source: {
          kind: 'still',
          media: 'm',
          from: { x: 0, y: 0, width: 1, height: 1 },
          to: { x: to, y: 0, width: 0.5, height: 0.5 },
        },
      }),
    );
  expect(pictureText(still(0.1), 0, 60)).not.toBe(pictureText(still(0.2), 0, 60));
  const titled = (text: string) =>
    timelineOf(
      item('t', 0, 60, {
        source: { kind: 'title' },
        effects: [{ id: 't', on: true, kind: 'title', text, size: 0.1, x: 0, y: 0 }],
      }),
    );
  expect(pictureText(titled('Tide'), 0, 60)).not.toBe(pictureText(titled('Tidewrack'), 0, 60));
  const hour = timelineOf(item('long', 0, 90_000));
  expect(pictureText(hour, 0, 90_000).length).toBeLessThan(90_000 * 20);
});

test('rendered stretches are laid out without overlap, the first of them where several hold a slot', () => {
  expect(
    layOut([
      { media: 'new', from: 20, to: 30 },
      { media: 'old', from: 10, to: 40 },
      { media: 'older', from: 0, to: 12 },
      { media: 'hidden', from: 22, to: 28 },
    ]),
  ).toEqual([
    { media: 'older', origin: 0, from: 0, to: 10 },
    { media: 'old', origin: 10, from: 10, to: 20 },
    { media: 'new', origin: 20, from: 20, to: 30 },
    { media: 'old', origin: 10, from: 30, to: 40 },
  ]);
});

test('a run shows a rendered part frame by frame and works the rest out anew, cross-fades that it cuts included', () => {
  const prerendered = layOut([{ media: 'r', from: 30, to: 55 }]);
  const course: Course = { from: 20, slots: 60, speed: 1, prerendered };
  const contentAt = courseContents(plain, course);
  for (let slot = 0; slot < 110; slot++) {
    if (slot < 30 || slot >= 55) expect(contentAt(slot)).toEqual(flattenSlot(plain, slot));
    else
      expect(contentAt(slot)).toMatchObject({
        alongside: [],
        layers: [{ media: 'r', frame: slot - 30, effects: [], fade: 1 }],
      });
  }
  expect(prerenderedSlots(course)).toBe(25);
  // A course that goes backwards over it, twice.
  expect(prerenderedSlots({ ...course, from: 59, slots: 120, speed: -1, loop: { from: 0, to: 60 } })).toBe(
    50,
  );
  const table = (frames: number) =>
    packetTableFrom(
      Array.from({ length: frames }, (__, at) => ({
        offset: at * 100,
        size: 100,
        pts: at,
        dts: at,
        key: true,
        disposable: false,
        type: 'I' as const,
      })),
    );
  const plan = planCourse(
    plain,
    course,
    new Map([
      ['m', table(200)],
      ['r', table(25)],
    ]),
  );
  expect(plan.feeds.map(({ itemId, media, first, last }) => [itemId, media, first, last])).toEqual([
    ['a', 'm', 0, 39],
    ['prerendered-30', 'r', 10, 34],
    ['b', 'm', 35, 59],
  ]);
  // Its sound stays that of the clips.
  expect(soundPlan(plain, course)).toEqual(soundPlan(plain, { ...course, prerendered: [] }));
});
