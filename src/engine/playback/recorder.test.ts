import { skippedAt, slotState } from '@/core/playback/slots';
import { RunStart } from './runStart';
import { decodeTrace } from '@/core/playback/trace';
import { monotonicUs } from '../clock';
import { expectedDrops, FaultInjector } from './faults';
import { TraceRecorder } from './traceRecorder';

const depths = { read: 3, decoded: 2, ready: 1 };

function finish(recorder: TraceRecorder, slot: number, state: number = slotState.shown): void {
  for (const column of [
    'readStart',
    'readEnd',
    'decodeStart',
    'decodeEnd',
    'processStart',
    'processEnd',
  ] as const)
    recorder.note(column, slot, monotonicUs());
  recorder.setShownFrame(slot, { frame: slot, isProved: false });
  recorder.present(slot, slot * 1000, state, depths);
}

test('batches follow each other without gap and hold only settled slots', () => {
  const recorder = new TraceRecorder(4, new Float64Array([10, 20, 30, 40]));
  recorder.start.us = monotonicUs();
  expect(recorder.takeBatch()).toBeNull();
  finish(recorder, 0);
  finish(recorder, 2); // slot 1 is still under way
  expect(recorder.takeBatch()).toMatchObject({ from: 0, count: 1 });
  expect(recorder.takeBatch()).toBeNull();
  recorder.skip(1, skippedAt.decode);
  expect(recorder.takeBatch()).toBeNull(); // given up, but its slot is not over
  recorder.present(1, Number.NaN, slotState.dropped, depths);
  const batch = recorder.takeBatch()!;
  expect(batch).toMatchObject({ from: 1, count: 2 });
  const trace = decodeTrace(batch.data);
  expect([...trace.state]).toEqual([slotState.dropped, slotState.shown]);
  expect([...trace.skipped]).toEqual([skippedAt.decode, skippedAt.none]);
  expect([...trace.bytes]).toEqual([20, 30]);
  expect([...trace.shownFrame]).toEqual([-1, 2]);
  expect([trace.readDepth[0], trace.decodedDepth[0], trace.readyDepth[0]]).toEqual([3, 2, 1]);
});

test('times are given out from t0, also those of the read-ahead', () => {
  const recorder = new TraceRecorder(1, new Float64Array(1));
  const marked = recorder.note('readStart', 0, monotonicUs());
  recorder.start.us = marked + 5_000;
  finish(recorder, 0);
  recorder.note('readStart', 0, monotonicUs());
  const trace = decodeTrace(recorder.takeBatch()!.data);
  expect(trace.readEnd[0]).toBeLessThan(0);
  expect(recorder.relative('processEnd', 0)).toBeCloseTo(trace.processEnd[0]!, 3);
});

test('a frame number that is not the slot is a wrong frame where pictures carry one, and only there', () => {
  for (const [isProved, state] of [
    [true, slotState.wrong],
    [false, slotState.shown],
  ] as const) {
    const recorder = new TraceRecorder(1, new Float64Array(1));
    recorder.start.us = 0;
    recorder.setShownFrame(0, { frame: 99, isProved });
    recorder.present(0, 10, slotState.shown, depths);
    expect(recorder.trace.state[0]).toBe(state);
  }
});

test('a frame finished after its slot was passed does not count as shown', () => {
  const recorder = new TraceRecorder(1, new Float64Array(1));
  recorder.start.us = monotonicUs();
  recorder.present(0, Number.NaN, slotState.dropped, depths);
  recorder.setShownFrame(0, { frame: 0, isProved: false });
  expect(recorder.trace.shownFrame[0]).toBe(-1);
});

test('what is under way at the end is given up where it was', () => {
  const recorder = new TraceRecorder(5, new Float64Array(5));
  recorder.start.us = 0;
  const reached: (readonly ('readEnd' | 'decodeEnd' | 'processEnd')[])[] = [
    [],
    ['readEnd'],
    ['readEnd', 'decodeEnd'],
    ['readEnd', 'decodeEnd', 'processEnd'],
  ];
  reached.forEach((columns, slot) => {
    recorder.note('readStart', slot, monotonicUs());
    columns.forEach((column) => recorder.note(column, slot, monotonicUs()));
    recorder.present(slot, Number.NaN, slotState.dropped, depths);
  });
  recorder.closePending(); // slot 4 was never passed: it stays open
  expect([...recorder.trace.skipped]).toEqual([
    skippedAt.read,
    skippedAt.decode,
    skippedAt.process,
    skippedAt.present,
    skippedAt.none,
  ]);
  expect(recorder.takeBatch()).toMatchObject({ from: 0, count: 4 });
  expect([recorder.shown, recorder.dropped, recorder.settled]).toEqual([0, 4, 4]);
});

describe('injected faults', () => {
  const faults = [
    { stage: 'read', slot: 3, slots: 2 },
    { stage: 'process', slot: 9, slots: 1 },
  ] as const;

  test('name the slots that must drop, with their cause', () => {
    expect([...expectedDrops(faults)]).toEqual([
      [3, 'read'],
      [4, 'read'],
      [9, 'process'],
    ]);
  });

  test('hold their stage until the last slot has passed, and leave all others alone', async () => {
    const start = new RunStart();
    start.us = monotonicUs();
    const injector = new FaultInjector(faults, 20_000, start);
    let passed = 0;
    for (const other of [injector.hold('decode', 3), injector.hold('read', 4)])
      void other.then(() => {
        passed++;
      });
    await Promise.resolve(); // without any waiting
    await Promise.resolve();
    expect(passed).toBe(2);
    const holding = injector.hold('read', 3);
    expect(injector.isHolding).toBe(true);
    await holding;
    expect(injector.isHolding).toBe(false);
    expect(monotonicUs() - start.us).toBeGreaterThanOrEqual(5 * 20_000);
  });

  test('wait for t0 while it is unknown', async () => {
    const start = new RunStart();
    const injector = new FaultInjector([{ stage: 'read', slot: 0, slots: 1 }], 1_000, start);
    let over = false;
    const holding = injector.hold('read', 0).then(() => {
      over = true;
    });
    await new Promise((resolve) => {
      setTimeout(resolve, 30);
    });
    expect(over).toBe(false);
    start.us = monotonicUs();
    await holding;
    expect(over).toBe(true);
  });
});
