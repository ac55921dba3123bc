import fc from 'fast-check';
import { rational } from '@/core/time/rational';
import { summariseScrub, valueAt, type ScrubRequest } from './analyse';
import { builtInGesture, builtInGestures, fitted, gestureProblem } from './gesture';
import { scrubSentence } from '../sentences/timeline';

test('built-in gestures ascend in time, stay within their length, and come again from the same seed', () => {
  fc.assert(
    fc.property(
      fc.constantFrom(...builtInGestures),
      fc.integer({ min: 2, max: 5_000 }),
      fc.nat(),
      fc.constantFrom(2, 4, 8, -2, -4, -8),
      (kind, slots, seed, speed) => {
        const gesture = builtInGesture(kind, slots, rational(24), seed, speed);
        if (gesture.timesMs.length >= 2) expect(gestureProblem(gesture)).toBeNull();
        expect(builtInGesture(kind, slots, rational(24), seed, speed)).toEqual(gesture);
      },
    ),
  );
});

test('each gesture moves as its name says', () => {
  const of = (kind: (typeof builtInGestures)[number], speed?: number) =>
    builtInGesture(kind, 480, rational(24), 3, speed).targets;
  const steps = of('step-forward');
  expect(steps).toHaveLength(60);
  expect(steps.every((target, at) => at === 0 || target === (steps[at - 1] as number) + 1)).toBe(true);
  expect(
    of('step-backward').every((target, at, all) => at === 0 || target === (all[at - 1] as number) - 1),
  ).toBe(true);
  const shuttle = builtInGesture('shuttle', 480, rational(24), 1, 8);
  expect(shuttle.targets.at(-1)).toBeGreaterThan(400);
  // 8x at 24 a second: 480 slots in two and a half seconds.
  expect(shuttle.timesMs.at(-1)).toBeCloseTo(2_495, -2);
  expect(of('shuttle', -8)[0]).toBe(479);
  const drag = of('fast-drag');
  expect(
    drag.some((target, at) => at > 0 && target > (drag[at - 1] as number)) &&
      drag.some((target, at) => at > 0 && target < (drag[at - 1] as number)),
  ).toBe(true);
  expect(new Set(of('jumps')).size).toBeGreaterThan(12);
});

test('a recorded gesture fits something of another length by its share', () => {
  const recorded = { kind: 'recorded' as const, slots: 101, timesMs: [0, 50, 100], targets: [0, 50, 100] };
  expect(fitted(recorded, 201).targets).toEqual([0, 100, 200]);
  expect(fitted(recorded, 101)).toBe(recorded);
  expect(gestureProblem({ ...recorded, targets: [0, 50, 101] })?.message).toContain('outside');
  expect(gestureProblem({ ...recorded, timesMs: [0, 100, 50] })?.message).toContain('ascend');
  expect(gestureProblem({ ...recorded, timesMs: [0] })?.message).toContain('at least two');
});

const request = (
  atMs: number,
  target: number,
  shownMs: number | null,
  change: Partial<ScrubRequest> = {},
): ScrubRequest => ({
  atMs,
  target,
  shownMs,
  end: shownMs === null ? 'superseded' : 'shown',
  stoppedAfter: shownMs === null ? 'read' : null,
  readMs: 2,
  decodeMs: 10,
  processMs: 5,
  bytes: 100,
  packets: 1,
  fromKey: 0,
  wanted: target,
  proved: target,
  ...change,
});

test('latency counts from the request to the picture, of pictures that came', () => {
  const summary = summariseScrub([
    request(0, 10, 20),
    request(10, 11, null),
    request(30, 12, 70),
    request(100, 20, 120, { proved: 19 }),
  ]);
  expect(summary).toMatchObject({
    requests: 4,
    shown: 3,
    superseded: 1,
    wrong: 1,
    proved: true,
    latencyMs: { p50: 20, max: 40 },
    partsMs: { read: 2, decode: 10, process: 5, waiting: 3 },
  });
  expect(scrubSentence(summary)).toBe(
    'A position was on screen after 20\u202fms (p95 38\u202fms); 3 of 4 were shown, 1 was overtaken by newer ones, and the picture was 2.5 slots behind on average. 1 showed a wrong frame.',
  );
});

test('what could not be decoded has no latency, and what is not to be trusted is told apart from a wrong frame', () => {
  const requests = [
    request(0, 10, 20),
    request(30, 12, null, { end: 'refused' }),
    request(60, 14, 80, { proved: 12, doubtful: true }),
    request(90, 16, 110, { doubtful: true }),
  ];
  const summary = summariseScrub(requests);
  expect(summary).toMatchObject({
    requests: 4,
    shown: 3,
    superseded: 0,
    refused: 1,
    wrong: 1,
    doubtful: 2,
    doubtfulWrong: 1,
  });
  expect(scrubSentence(summary)).toMatch(
    /behind on average\. 1 could not be decoded\. 2 pictures are concealed or built on a frame that is missing, 1 of them provably another frame\.$/,
  );
});

test('the lag is the distance between playhead and picture over time', () => {
  // From the first picture at 10 ms: picture 0 until 60 ms while the playhead stands at 10 from 20 ms on.
  const { lagSlots } = summariseScrub([request(0, 0, 10), request(20, 10, 60)]);
  expect(lagSlots.most).toBe(10);
  expect(lagSlots.mean).toBeCloseTo((40 * 10) / 50);
  expect(valueAt({ timesMs: [0, 20], slots: [5, 7] }, 19)).toBe(5);
  expect(valueAt({ timesMs: [0, 20], slots: [5, 7] }, 20)).toBe(7);
});

test('nothing shown says so', () => {
  expect(scrubSentence(summariseScrub([request(0, 1, null)]))).toBe('None of 1 positions was shown.');
  expect(scrubSentence(summariseScrub([request(0, 1, null, { end: 'refused' })]))).toBe(
    'None of 1 positions was shown. 1 could not be decoded.',
  );
});
