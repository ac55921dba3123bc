import fc from 'fast-check';
import { rational } from '@/core/time/rational';
import { planCourse } from '@/core/timeline/course';
import { frameIndex } from '@/core/media/frameIndex';
import { planFeed, type FeedPlan } from './feedPlan';
import { clipItem, intra, longGop, timelineOf } from '@/core/timeline/testing/testTimeline';

const rowsAt = (plan: FeedPlan, step: number) => [
  ...plan.rows.subarray(plan.from[step], plan.from[step + 1]),
];
const range = (from: number, to: number, by = 1) =>
  Int32Array.from({ length: Math.ceil(Math.abs(to - from) / Math.abs(by)) }, (_, at) => from + at * by);

test('going forward through long-GOP media no packet is handed over twice, and none that is needed is left out', () => {
  const plan = planFeed(frameIndex(longGop(3)), range(0, 39), 48);
  expect([...plan.rows].sort((a, b) => a - b)).toEqual([...range(0, 39)]);
  expect(rowsAt(plan, 0)).toEqual([0]);
  expect(rowsAt(plan, 1)).toEqual([1, 2]); // P3 before B1
  expect(rowsAt(plan, 2)).toEqual([3]);
  expect(rowsAt(plan, 3)).toEqual([]);
  expect(plan.reset.some((value) => value === 1)).toBe(false);
  expect([...plan.drain].lastIndexOf(1)).toBe(37); // frame 38 is a P frame, handed over before the last B
});

test('a start within a group begins at its key frame; a jump ahead passes over what lies between', () => {
  const index = frameIndex(longGop(4));
  expect(rowsAt(planFeed(index, range(17, 20), 48), 0)[0]).toBe(13);
  const jumping = planFeed(index, Int32Array.from([0, 1, 30]), 48);
  expect(rowsAt(jumping, 2)[0]).toBe(26);
  expect([...jumping.reset]).toEqual([0, 0, 1]);
});

test('at speed, frames that nothing needs are not read', () => {
  const plan = planFeed(frameIndex(longGop(3)), range(0, 13, 3), 48);
  expect([...plan.rows]).toHaveLength(5); // I and P frames only
});

test('backwards a group is decoded once and its frames kept; more than may be kept is decoded again', () => {
  const index = frameIndex(longGop(2));
  const kept = planFeed(index, range(25, -1, -1), 48);
  expect(rowsAt(kept, 0)[0]).toBe(13);
  expect([...kept.rows]).toHaveLength(26);
  expect([...kept.reset].filter(Boolean)).toHaveLength(1);
  const tight = planFeed(index, range(25, -1, -1), 4);
  expect(tight.rows.length).toBeGreaterThan(26);
});

test('all-intra media read one packet a frame, in any order, and a held frame once', () => {
  const index = frameIndex(intra(20));
  expect([...planFeed(index, Int32Array.from([5, 4, 4, 9]), 48).rows]).toEqual([5, 4, 9]);
});

test('whatever is asked for, every wanted frame has been handed over since the last beginning', () => {
  const table = longGop(4);
  const index = frameIndex(table);
  fc.assert(
    fc.property(
      fc.array(fc.integer({ min: 0, max: 51 }), { minLength: 1, maxLength: 40 }),
      fc.integer({ min: 1, max: 20 }),
      (wanted, most) => {
        const plan = planFeed(index, Int32Array.from(wanted), most);
        let since = new Set<number>();
        const ever = new Set<number>();
        wanted.forEach((frame, step) => {
          if (plan.reset[step]) since = new Set();
          for (const row of rowsAt(plan, step)) {
            since.add(table.slot[row]!);
            ever.add(table.slot[row]!);
          }
          expect(ever.has(frame)).toBe(true);
        });
      },
    ),
  );
});

test('a run reads the packets of all its layers', () => {
  const base = timelineOf([clipItem('a', 0, 39)]);
  const timeline = {
    ...base,
    media: { ...base.media, n: base.media.m! },
    tracks: [
      base.tracks[0]!,
      {
        id: 'v2',
        name: 'V2',
        on: true,
        items: [
          {
            ...clipItem('b', 13, 20),
            source: { kind: 'clip' as const, media: 'n', in: 0, speed: rational(1) },
          },
        ],
      },
    ],
  };
  const plan = planCourse(
    timeline,
    { from: 0, slots: 39, speed: 1 },
    new Map([
      ['m', longGop(3)],
      ['n', intra(40)],
    ]),
  );
  expect(plan.feeds.map(({ itemId, first, last }) => [itemId, first, last])).toEqual([
    ['a', 0, 38],
    ['b', 13, 32],
  ]);
  expect(plan.graph.bytes[0]).toBe(90);
  expect(plan.graph.bytes[13]).toBe(90 + 80);
  expect([...plan.graph.key].flatMap((value, slot) => (value ? [slot] : []))).toEqual([0, 13, 26]);
  expect(plan.graph.keyInterval).toBe(13);
  expect([plan.graph.kinds[0], plan.graph.kinds[13], plan.graph.kinds[33]]).toEqual([0, 1, 0]);
  const alone = planCourse(
    { ...timeline, tracks: [timeline.tracks[1]!] },
    { from: 13, slots: 20, speed: 1 },
    new Map([['n', intra(40)]]),
  );
  expect(alone.graph.intra).toBe(true);
  const reverse = planCourse(
    timeline,
    { from: 38, slots: 39, speed: -1 },
    new Map([
      ['m', longGop(3)],
      ['n', intra(40)],
    ]),
  );
  expect(reverse.contents[0]!.layers[0]!.frame).toBe(38);
  expect(reverse.feeds[0]!.plan.rows).toHaveLength(39);
});
