import { rational } from '../time/rational';
import type { Item, Timeline } from '../timeline/model';
import { emptyTimeline } from '../timeline/model';
import { gainAt, sampleAt, soundPlan, wholeClip } from './soundPlan';

const rate = rational(25);
const second = 48_000;
const ref = (frames: number) => ({
  clipId: 'c',
  name: 'c',
  reel: null,
  startTimecode: null,
  contentHash: null,
  rate,
  frames,
  width: 16,
  height: 16,
});
const item = (id: string, start: number, length: number, source: Item['source']): Item => ({
  id,
  name: id,
  start,
  length,
  effects: [],
  source,
});
const clip = (first: number, speed = rational(1)) =>
  ({ kind: 'clip', media: 'm', in: first, speed }) as const;

function timeline(...items: Item[]): Timeline {
  const base = emptyTimeline('t', rate, 16, 16);
  return {
    ...base,
    media: { m: ref(1_000), n: { ...ref(1_000), rate: rational(50) } },
    tracks: [{ id: 'v1', name: 'V1', on: true, items }],
  };
}
const whole = (slots: number, from = 0) => ({ from, slots, speed: 1, loop: null });

test('samples of a slot are exact: after an hour of 29.97 none is lost', () => {
  const ntsc = rational(30_000, 1001);
  expect(sampleAt(30_000, ntsc)).toBe(1001 * second);
  expect(sampleAt(1, ntsc)).toBe(1602); // 1601.6
  expect(sampleAt(0, ntsc)).toBe(0);
});

test('an item sounds from where its picture begins; a cut into it begins later in the clip', () => {
  expect(soundPlan(timeline(item('a', 25, 50, clip(100))), whole(75))).toMatchObject([
    { media: 'm', at: second, samples: 2 * second, fromSeconds: 4 },
  ]);
  expect(soundPlan(timeline(item('a', 25, 50, clip(100))), whole(25, 50))).toMatchObject([
    { at: 0, samples: second, fromSeconds: 5 },
  ]);
});

test('a cross-fade fades one out while the other comes in', () => {
  const [first, next] = soundPlan(timeline(item('a', 0, 50, clip(0)), item('b', 25, 50, clip(0))), whole(75));
  expect([first!.fadeOut.samples, next!.fadeIn.samples]).toEqual([second, second]);
  // In the middle of the fade both are at half; together they are as loud as one.
  expect(gainAt(first!, second + second / 2)).toBeCloseTo(0.5, 3);
  expect(gainAt(next!, second / 2)).toBeCloseTo(0.5, 3);
  expect([gainAt(first!, 10), gainAt(next!, second + 10)]).toEqual([1, 1]);
  // A run that begins within the fade begins within it.
  const [late] = soundPlan(timeline(item('a', 0, 50, clip(0)), item('b', 25, 50, clip(0))), whole(10, 40));
  expect(gainAt(late!, 0)).toBeCloseTo(10 / 25, 2);
});

test('of several angles the one that is seen sounds; what changes its speed, a run that does, and a track that is off are silent', () => {
  const angles = {
    kind: 'angles',
    angles: [
      { media: 'm', in: 0 },
      { media: 'n', in: 50 },
    ],
    switches: [
      { at: 0, angle: 0 },
      { at: 25, angle: 1 },
    ],
  } as const;
  expect(soundPlan(timeline(item('a', 0, 50, angles)), whole(50))).toMatchObject([
    { media: 'm', at: 0, samples: second, fromSeconds: 0 },
    { media: 'n', at: second, samples: second, fromSeconds: 75 / 50 },
  ]);
  expect(soundPlan(timeline(item('a', 0, 50, clip(0, rational(2)))), whole(50))).toEqual([]);
  const plain = timeline(item('a', 0, 50, clip(0)));
  expect(soundPlan(plain, { ...whole(50), speed: 2 })).toEqual([]);
  const [track] = plain.tracks;
  expect(soundPlan({ ...plain, tracks: [{ ...track!, on: false }] }, whole(50))).toEqual([]);
});

test('round and round, each round sounds anew, from where it begins', () => {
  const round = soundPlan(timeline(item('a', 0, 100, clip(0))), {
    from: 50,
    slots: 110,
    speed: 1,
    loop: { from: 25, to: 75 },
  });
  expect(round.map(({ at, samples, fromSeconds }) => [at / second, samples / second, fromSeconds])).toEqual([
    [0, 1, 2],
    [1, 2, 1],
    [3, 1.4, 1],
  ]);
});

test('a clip by itself sounds from its beginning, for its first slots', () => {
  expect(wholeClip('m', 50, rate)).toMatchObject({ media: 'm', at: 0, samples: 2 * second, fromSeconds: 0 });
  expect(gainAt(wholeClip('m', 50, rate), 7)).toBe(1);
});
