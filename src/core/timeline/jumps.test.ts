import { jumpFigures, JumpWatch, type Jump } from './jumps';

const jump = (latencyMs: number, kept = false): Jump => ({
  slot: 0,
  latencyMs,
  readMs: 0,
  decodeMs: 0,
  processMs: 0,
  kept,
});

test('a picture ends its own jump, from when it was asked for, and those it overtook', () => {
  const watch = new JumpWatch();
  expect([watch.begin(100), watch.begin(130), watch.begin(190)]).toEqual([1, 2, 3]);
  expect(watch.shown(2, 200)).toBe(70);
  expect(watch.overtaken).toBe(1);
  // One overtaken has no picture, and none ends twice.
  expect([watch.shown(1, 210), watch.shown(2, 210), watch.shown(0, 210)]).toEqual([null, null, null]);
  expect(watch.shown(3, 250)).toBe(60);
  expect(watch.overtaken).toBe(1);
});

test('what was asked for under other conditions is not told under these', () => {
  const watch = new JumpWatch();
  const before = watch.begin(0);
  watch.begin(1);
  watch.shown(2, 5);
  watch.clear();
  expect(watch.overtaken).toBe(0);
  const waits = watch.begin(10);
  watch.clear();
  expect([watch.shown(before, 20), watch.shown(waits, 20)]).toEqual([null, null]);
  expect(watch.begin(30)).toBe(4);
});

test('figures are of all jumps, kept ones counted', () => {
  expect(jumpFigures([])).toBeNull();
  const figures = jumpFigures([jump(10), jump(30), jump(20, true), jump(100)]);
  expect(figures).toMatchObject({ medianMs: 25, worstMs: 100, kept: 1 });
  expect(figures!.p95Ms).toBeGreaterThan(30);
  expect(figures!.p95Ms).toBeLessThan(100);
});
