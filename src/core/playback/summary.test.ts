import { rational } from '../time/rational';
import { gradeOf, longestGapSlots } from './grade';
import { measuredWork } from './measuredWork';
import { judgeSelfCheck } from './selfCheck';
import { count } from '../format';
import { answerSentence, cureSentence } from '../sentences/playback';
import { defaultBufferDepths } from './slots';
import { dropsByCharge, summarise } from './summary';
import { countStates, decodeTrace, emptyTrace, encodeTrace, joinTraces } from './trace';
import { decodeTraceView, encodeTraceView, viewOfTrace } from './traceView';
import { clipGraph, firstSlots, intraGraph } from './work';
import { packetTableFrom } from '../media/packetTable';
import { holdStage, slotUs, steadyWork, traceOf } from './testing/made';

const states = (shown: number, ...dropped: number[]) => {
  const state = new Uint8Array(shown).fill(1);
  for (const slot of dropped) state[slot] = 3;
  return state;
};

test('grades follow the share of drops and the longest gap', () => {
  expect(gradeOf(states(100))).toBe('solid');
  expect(gradeOf(states(200, 10, 11))).toBe('workable');
  expect(gradeOf(states(1000, 10, 11, 12))).toBe('rough'); // three in a row
  expect(gradeOf(states(100, 1, 3, 5))).toBe('rough'); // 3 %
  expect(gradeOf(states(100, ...Array.from({ length: 11 }, (_, i) => i * 2)))).toBe('stalled');
  expect(gradeOf(new Uint8Array(5))).toBeNull();
  // Wrong frames count as dropped, also between such: four in a row that were not right.
  const wrong = states(1000, 10, 12);
  wrong[11] = wrong[13] = 4;
  expect(gradeOf(wrong)).toBe('rough');
  expect(longestGapSlots(wrong)).toBe(1);
  expect(longestGapSlots(states(20, 3, 4, 5, 9))).toBe(3);
});

function heldRun() {
  const work = steadyWork(intraGraph(250), { read: 3_000, decode: 6_000, process: 4_000 });
  holdStage(work, 'decode', 80, 3);
  const trace = traceOf(work);
  return {
    trace,
    ...summarise({
      trace,
      graph: work.graph,
      rate: rational(25),
      policy: 'hold-time',
      buffers: defaultBufferDepths,
      scale: 'full',
      scaleCosts: null,
    }),
  };
}

test('a summary counts, names and says', () => {
  const { summary } = heldRun();
  expect(summary).toMatchObject({
    slots: 250,
    shown: 247,
    dropped: 3,
    wrong: 0,
    grade: 'rough',
    firstDropSlot: 80,
    longestGapSlots: 3,
    dropsPerMinute: 18,
  });
  expect(summary.achievedRate).toBeCloseTo(24.7);
  expect(summary.pacingMs!.p50).toBe(0);
  expect(answerSentence(summary, 25)).toBe('3 of 250 slots dropped; decoding was late for 3.');
  expect(answerSentence({ ...summary, dropped: 0 }, 25)).toBe('All 250 slots were shown.');
  expect(answerSentence({ ...summary, dropped: 0, timesRealTime: 2, achievedRate: 50 }, 25)).toBe(
    "Every frame was shown at 50.0 frames per second: 2.00x the clip's 25.",
  );
  expect(answerSentence({ ...summary, timesRealTime: 2, achievedRate: 50 }, 25)).toBe(
    "Every frame that decodes was shown at 50.0 frames per second: 2.00x the clip's 25; 3 of 250 slots could not be decoded.",
  );
  expect(count(1234567)).toBe('1\u2009234\u2009567');
  expect(cureSentence({ kind: 'volume', bytesPerSecond: 31.26e6, removes: 3, of: 3 })).toBe(
    'A volume that sustains 31.3\u202fMB/s would have removed all 3 drops.',
  );
  expect(cureSentence({ kind: 'scale', scale: 'half', removes: 2, of: 3 })).toBe(
    'Half scale would have removed 2 of 3 drops.',
  );
});

test('every frame has a rate for a result, and no grade', () => {
  const trace = traceOf(steadyWork(intraGraph(11), { read: 1, decode: 1, process: 1 }));
  trace.presentedAt.forEach((_, slot) => {
    trace.presentedAt[slot] = slot * 10_000;
  });
  const { summary } = summarise({
    trace,
    graph: intraGraph(11),
    rate: rational(25),
    policy: 'every-frame',
    buffers: defaultBufferDepths,
    scale: 'full',
    scaleCosts: null,
  });
  expect(summary).toMatchObject({
    grade: null,
    timesRealTime: 4,
    achievedRate: 100,
    pacingMs: null,
    cures: [],
  });
});

test('a trace survives being packed in pieces and joined', () => {
  const { trace } = heldRun();
  const joined = joinTraces([
    decodeTrace(encodeTrace(trace, 0, 100)),
    decodeTrace(Buffer.from(encodeTrace(trace, 100))),
  ]);
  expect(joined).toEqual(trace);
  expect(countStates(joined.state)).toEqual({ shown: 247, late: 0, dropped: 3, wrong: 0, finished: 250 });
  expect(countStates(emptyTrace(4).state).finished).toBe(0);
  expect(() => decodeTrace(new Uint8Array(7))).toThrow('bytes per slot');
});

test('a trace that was packed before decoders were told apart from their frames is read', () => {
  const { trace } = heldRun();
  const slots = trace.length;
  // Its columns in order: `arrival` stood where `decodeHeldUs` stands, and `decodeDone` was not there.
  const columns = [
    'bytes',
    'readStart',
    'readEnd',
    'decodeStart',
    'decodeEnd',
    'processStart',
    'processEnd',
    'wokeAt',
    'presentedAt',
    'decodeHeldUs',
    'shownFrame',
    'readDepth',
    'decodedDepth',
    'readyDepth',
    'state',
    'skipped',
  ] as const;
  const packed = Buffer.concat(
    columns.map((name) => Buffer.from(trace[name].buffer, trace[name].byteOffset, trace[name].byteLength)),
  );
  const read = decodeTrace(packed, slots);
  expect(read).toEqual({ ...trace, decodeDone: trace.decodeEnd });
  expect(joinTraces([read]).presentedAt).toEqual(trace.presentedAt);
  expect(() => decodeTrace(packed, slots - 1)).toThrow('bytes per slot');
});

test('a view holds what the page draws, and survives packing', () => {
  const { trace, charges } = heldRun();
  trace.processEnd[12] = Number.NaN;
  const view = viewOfTrace(
    trace,
    charges,
    slotUs,
    measuredWork(trace, intraGraph(250), slotUs, 'hold-time', defaultBufferDepths).work,
  );
  expect(view.processMs[12]).toBeNaN();
  expect(view.decodeMs[10]).toBeCloseTo(6);
  expect(view.decodeMs[80]).toBeGreaterThan(100);
  expect(view.charge[81]).toBe(2);
  const packed = encodeTraceView(view);
  expect(decodeTraceView(packed.buffer as ArrayBuffer)).toEqual(view);
  expect(() => decodeTraceView(new ArrayBuffer(5))).toThrow('bytes per slot');
});

describe('self-check', () => {
  const expected = new Map([
    [80, 'decode'],
    [81, 'decode'],
    [82, 'decode'],
  ] as const);

  test('trusts a rig that finds exactly what was injected', () => {
    const { trace, charges } = heldRun();
    const verdict = judgeSelfCheck(trace, charges, expected, slotUs, 1);
    expect(verdict).toMatchObject({ trusted: true, reasons: [], jitterMs: { p99: 0 } });
  });

  test('says what is wrong otherwise', () => {
    const { trace, charges } = heldRun();
    trace.wokeAt.fill(Number.NaN).forEach((_, slot) => {
      trace.wokeAt[slot] = slot * slotUs + 9_000;
    });
    charges[81] = 1;
    const verdict = judgeSelfCheck(
      trace,
      charges,
      new Map([...expected, [200, 'read' as const]].filter(([slot]) => slot !== 80) as [number, 'decode'][]),
      slotUs,
      0.9,
    );
    expect(verdict.trusted).toBe(false);
    expect(verdict.reasons.join(' ')).toMatch(
      /1 of 3 injected drops were not seen.*1 slot dropped that no fault explains.*1 drop was charged to the wrong stage.*90.0\s%.*9.0\sms late/s,
    );
  });
});

test('drops are told by their charges; under every frame they are the media’s', () => {
  expect(dropsByCharge({ attribution: { countByCharge: { 1: 4, 16: 2 } }, dropped: 6 })).toEqual({
    1: 4,
    16: 2,
  });
  expect(dropsByCharge({ attribution: null, dropped: 3 })).toEqual({ 16: 3 });
  expect(dropsByCharge({ attribution: null, dropped: 0 })).toEqual({});
});

test('a run of some slots of a clip reads what they need, also where that is coded behind the last of them', () => {
  const row = (pts: number, key: boolean) => ({
    offset: 0,
    size: 10 + pts,
    pts,
    dts: 0,
    key,
    disposable: pts % 3 !== 0,
    type: 'P' as const,
  });
  const table = packetTableFrom([
    row(0, true),
    row(3, false),
    row(1, false),
    row(2, false),
    row(6, false),
    row(4, false),
    row(5, false),
  ]);
  expect([...clipGraph(table, 3).bytes]).toEqual([10, 13 + 11, 12]);
  expect([...clipGraph(table).bytes]).toEqual([10, 24, 12, 0, 16 + 14, 15, 0]);
  expect(firstSlots(clipGraph(table), 2)).toMatchObject({ slotCount: 2, intra: false });
  expect(clipGraph(table, 99).slotCount).toBe(7);
});
