import { slotState } from '../playback/slots';
import { emptyTrace } from '../playback/trace';
import { soakSentence } from '../sentences/tasks';
import {
  noPasses,
  PlayedPoints,
  pointsOfTask,
  SoakPeaks,
  SoakPoints,
  summariseSoak,
  type SoakPoint,
} from './soak';
import { noWindows, type TaskWindows } from './windows';

/** Windows of half a second, with the frames that were written in each. */
function windowsOf(frames: readonly number[]): TaskWindows {
  let sum = 0;
  const stage = (written: readonly number[]) => ({ ...noWindows.stages.write, frames: written });
  const done = frames.map((count) => (sum += count));
  return {
    ...noWindows,
    endUs: frames.map((_, at) => (at + 1) * 500_000),
    stages: { ...noWindows.stages, write: stage(done) },
  };
}

test('points of a task are its steady part: not the start-up, not what is drained at the end, and no rest of a window', () => {
  // One second until the first frame, 26 windows at 20 frames a second, a rest, and the last.
  const points = pointsOfTask(windowsOf([0, 0, 4, ...new Array<number>(23).fill(10), 3]), 100);
  expect(points).toHaveLength(2);
  expect(points[0]).toMatchObject({ seconds: 5, framesPerSecond: 20, dropped: 0 });
  expect(points.map(({ atS }) => atS)).toEqual([106.5, 111.5]);
});

test('a short pass is one point, and one without a steady part counts whole', () => {
  expect(pointsOfTask(windowsOf([0, 2, 10, 10, 10, 1]), 0)).toEqual([
    { atS: 2.5, seconds: 1.5, framesPerSecond: 20, dropped: 0 },
  ]);
  expect(pointsOfTask(windowsOf([0, 6]), 10)).toEqual([
    { atS: 11, seconds: 1, framesPerSecond: 6, dropped: 0 },
  ]);
  expect(pointsOfTask(noWindows, 0)).toEqual([]);
});

/** Slots that take so long in each stage, ms; every tenth drops. */
function traceOf(slots: number, ms: { read: number; decode: number; process: number }) {
  const trace = emptyTrace(slots);
  for (let slot = 0; slot < slots; slot++) {
    const at = slot * 40_000;
    trace.readStart[slot] = at;
    trace.readEnd[slot] = at + ms.read * 1000;
    trace.decodeStart[slot] = at;
    trace.decodeDone[slot] = at + ms.decode * 1000 + 7_000;
    trace.decodeHeldUs[slot] = 7_000;
    trace.processStart[slot] = at;
    trace.processEnd[slot] = at + ms.process * 1000;
    trace.state[slot] = slot % 10 === 9 ? slotState.dropped : slotState.shown;
  }
  return trace;
}

test('the pace of a playback is what its slowest stage could do, without what it was held for; drops are counted', () => {
  const points: SoakPoint[] = [];
  const played = new PlayedPoints(10, 25, (point) => points.push(point));
  played.add(traceOf(100, { read: 2, decode: 20, process: 12 }));
  played.add(traceOf(160, { read: 2, decode: 20, process: 12 }));
  played.end();
  // What is left behind whole points is no point.
  expect(points).toEqual([
    { atS: 15, seconds: 5, framesPerSecond: 50, dropped: 12 },
    { atS: 20, seconds: 5, framesPerSecond: 50, dropped: 13 },
  ]);
  const short: SoakPoint[] = [];
  const once = new PlayedPoints(0, 25, (point) => short.push(point));
  once.add(traceOf(50, { read: 25, decode: 20, process: 12 }));
  once.end();
  expect(short).toEqual([{ atS: 2, seconds: 2, framesPerSecond: 40, dropped: 5 }]);
});

const point = (at: number, framesPerSecond: number): SoakPoint => ({
  atS: (at + 1) * 5,
  seconds: 5,
  framesPerSecond,
  dropped: 1,
});

test('however long a soak is, its points take no more room, and lose nothing but detail', () => {
  const points = new SoakPoints();
  for (let at = 0; at < 17_280; at++) points.add(point(at, at < 8_640 ? 50 : 40));
  const { all } = points;
  expect(all.length).toBeGreaterThan(500);
  expect(all.length).toBeLessThanOrEqual(1_000);
  expect(all.reduce((sum, { seconds }) => sum + seconds, 0)).toBe(17_280 * 5);
  expect(all.reduce((sum, { dropped }) => sum + dropped, 0)).toBe(17_280);
  expect(all.at(-1)!.atS).toBe(17_280 * 5);
  const lengths = new Set(all.slice(0, -1).map(({ seconds }) => seconds));
  expect(lengths.size).toBe(1);
  const { levels } = summariseSoak({ points: all, passes: noPasses, seconds: 86_400 }, null)!;
  expect(levels.map(({ framesPerSecond }) => framesPerSecond)).toEqual([50, 40]);
  expect(Math.abs(levels[1]!.fromS - 43_200)).toBeLessThanOrEqual([...lengths][0]!);
});

test('a soak tells what it sustains against what it began with, and from when on', () => {
  const points = Array.from({ length: 120 }, (_, at) => point(at, at < 40 ? 60 + (at % 3) : 45 + (at % 2)));
  const passes = { ...noPasses, done: 24, frames: 14_400, dropped: 120 };
  const summary = summariseSoak({ points, passes, seconds: 602 }, 24)!;
  expect(summary).toMatchObject({ atFirst: 61, sustained: 45.5, needed: 24, dropped: 120, seconds: 602 });
  expect(summary.levels.map(({ fromS, toS }) => [fromS, toS])).toEqual([
    [0, 200],
    [200, 600],
  ]);
  const plain = (text: string) => text.replace(/[\u202f\u2009\u00a0]/g, ' ');
  expect(plain(soakSentence(summary))).toBe(
    'Played 24 times in 10:02 min: 120 of 14 400 slots dropped. Sustained 45.5 frames/s where 24 are needed: 25 % less than the 61.0 frames/s at first, from 3:20 min on.',
  );
  const task = summariseSoak(
    { points: points.slice(0, 40), passes: { ...passes, done: 1, unproved: 1 }, seconds: 200 },
    null,
  )!;
  expect(plain(soakSentence(task))).toBe(
    'Made once in 3:20 min. It held its pace: 61.0 frames/s, from first to last. 1 output was not as asked for.',
  );
  const uneven = summariseSoak(
    {
      points: points.map((one, at) => ({ ...one, framesPerSecond: at % 4 === 0 ? 60 : 20 })),
      passes,
      seconds: 600,
    },
    24,
  )!;
  expect(plain(soakSentence(uneven))).toMatch(
    /Uneven, without a lasting change: 20\.0 to 60\.0 frames\/s, 20\.0 in the median where 24 are needed\.$/,
  );
  expect(summariseSoak({ points: [], passes, seconds: 5 }, 24)).toBeNull();
});

test('growth is told from the first quarter of passes to the last, of however many', () => {
  const all = new SoakPeaks();
  for (let pass = 0; pass < 5_000; pass++) all.add(1_000 + pass);
  all.add(null);
  const peaks = all.all;
  expect(peaks.length).toBeLessThanOrEqual(400);
  const { firstPeakBytes, lastPeakBytes } = summariseSoak(
    { points: [point(0, 50)], passes: { ...noPasses, peakBytes: peaks }, seconds: 5 },
    null,
  )!;
  expect(Math.abs(firstPeakBytes! - 1_625)).toBeLessThan(40);
  expect(Math.abs(lastPeakBytes! - 5_375)).toBeLessThan(40);
  const one = summariseSoak(
    { points: [point(0, 50)], passes: { ...noPasses, peakBytes: [7] }, seconds: 5 },
    null,
  )!;
  expect([one.firstPeakBytes, one.lastPeakBytes]).toEqual([7, 7]);
});
