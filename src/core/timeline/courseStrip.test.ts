import { courseStrip } from './courseStrip';
import { clipItem, itemsOf, timelineOf } from './testing/testTimeline';

const timeline = timelineOf([clipItem('a', 0, 10), clipItem('b', 12, 8)]);

test.each([
  [
    'forwards from a place',
    { from: 5, slots: 15, speed: 1 },
    [
      ['a@0', 0, 5],
      ['b@7', 7, 8],
    ],
  ],
  [
    'twice as fast',
    { from: 0, slots: 10, speed: 2 },
    [
      ['a@0', 0, 5],
      ['b@6', 6, 4],
    ],
  ],
  [
    'backwards',
    { from: 19, slots: 20, speed: -1 },
    [
      ['b@0', 0, 8],
      ['a@10', 10, 10],
    ],
  ],
  [
    'round in a stretch',
    { from: 8, slots: 8, speed: 1, loop: { from: 8, to: 12 } },
    [
      ['a@0', 0, 2],
      ['a@4', 4, 2],
    ],
  ],
])('%s', (_name, course, items) => {
  expect(itemsOf(courseStrip(timeline, course))).toEqual(items);
});

test('what was rendered before lies on a track of its own above all others, and is not missing', () => {
  const prerendered = [{ from: 4, to: 9, media: 'r', origin: 2 }];
  const strip = courseStrip(timeline, { from: 5, slots: 15, speed: 1, prerendered });
  const [own, above] = strip.tracks;
  expect(itemsOf({ ...strip, tracks: [own!] })).toEqual([
    ['a@0', 0, 5],
    ['b@7', 7, 8],
  ]);
  expect(above!.items).toMatchObject([{ name: 'Pre-rendered', start: 0, length: 4 }]);
  expect(strip.media.r).toMatchObject({ clipId: 'r', frames: 7 });
});
