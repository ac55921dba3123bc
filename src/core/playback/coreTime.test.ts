import { rational } from '../time/rational';
import { mean } from '../stats/quantiles';
import { decodeBeside } from './coreTime';
import { measuredWork } from './measuredWork';
import { modelTrace } from './modelTrace';
import type { RigSpan } from './rigSpans';
import { simulate } from './simulate';
import { defaultBufferDepths, slotState } from './slots';
import { summarise } from './summary';
import { emptyTrace, type Trace } from './trace';
import { intraGraph } from './work';
import { slotUs, steadyWork } from './testing/made';

const cores = 2;
const slots = 120;
const stepUs = 250;
const spanUs = 500_000;

interface Machine {
  /** processor time of a frame, µs */ readonly decode: number;
  readonly process: number;
  /** threads of the decoder, each with a frame of its own */ readonly threads: number;
}

/**
 * A machine whose cores are shared out evenly, step by step, among all that want one: threads of a decoder that take a packet as soon
 * as one of them is free and give frames in order as far as there is room, and one thread that processes. Every frame is played.
 */
function runOn({ decode, process, threads }: Machine): { trace: Trace; spans: RigSpan[]; slotUs: number } {
  const trace = emptyTrace(slots);
  const inFlight: { slot: number; left: number }[] = [];
  const decoded: number[] = [];
  let [sent, processing, left, now, usedUs, waitedUs, heldSince] = [0, -1, 0, 0, 0, 0, Number.NaN];
  const spans: RigSpan[] = [];
  for (let slot = 0; slot < slots; slot++) {
    trace.readStart[slot] = 0;
    trace.readEnd[slot] = 0.001;
  }
  while (Number.isNaN(trace.processEnd[slots - 1])) {
    for (let moved = true; moved;) {
      moved = false;
      const head = inFlight[0];
      if (head && head.left <= 0 && decoded.length < defaultBufferDepths.decoded) {
        inFlight.shift();
        trace.decodeEnd[head.slot] = now;
        if (heldSince === heldSince) trace.decodeHeldUs[head.slot] = now - heldSince;
        heldSince = Number.NaN;
        decoded.push(head.slot);
        moved = true;
      } else if (head && head.left <= 0 && Number.isNaN(heldSince)) heldSince = now;
      if (sent < slots && inFlight.length < threads) {
        if (sent > 0) trace.decodeDone[sent - 1] = now;
        trace.decodeStart[sent] = now;
        inFlight.push({ slot: sent++, left: decode });
        moved = true;
      }
      if (processing < 0 && decoded.length > 0) {
        processing = decoded.shift() as number;
        trace.processStart[processing] = now;
        left = process;
        moved = true;
      }
    }
    const busy = inFlight.filter((one) => one.left > 0);
    const wanting = busy.length + (processing < 0 ? 0 : 1);
    const share = Math.min(1, cores / Math.max(1, wanting)) * stepUs;
    for (const one of busy) one.left -= share;
    usedUs += share * wanting;
    waitedUs += (stepUs - share) * wanting;
    now += stepUs;
    if (processing >= 0 && (left -= share) <= 0) {
      trace.processEnd[processing] = trace.presentedAt[processing] = now;
      trace.state[processing] = slotState.shown;
      processing = -1;
    }
    if (now % spanUs === 0) {
      spans.push({
        toUs: now,
        lostShare: 0,
        slowness: 1,
        use: {
          cores,
          trialCores: usedUs / spanUs,
          freeCores: cores,
          siblingShare: waitedUs / (usedUs + waitedUs),
        },
      });
      usedUs = waitedUs = 0;
    }
  }
  trace.decodeDone[slots - 1] = trace.decodeEnd[slots - 1] as number;
  return { trace, spans, slotUs: now / slots };
}

/** Mean decode times of a run as measured, and as they would be where processing took so many times as long. */
function toldOf(machine: Machine, ratio: number) {
  const { trace, spans } = runOn(machine);
  const measured = measuredWork(trace, intraGraph(slots), slotUs, 'every-frame', defaultBufferDepths);
  const beside = decodeBeside(
    measured,
    trace,
    spans,
    machine.process,
  )?.(measured.work.decode, { process: ratio, decode: 1, quiet: false });
  if (!beside) throw new Error('The rig told nothing.');
  return {
    measuredUs: mean(measured.work.decode),
    besideUs: mean(beside),
    processUs: mean(measured.work.process) * ratio,
  };
}

test.each([
  ['where processing is the limit, the decoder works ahead', { decode: 50_000, process: 60_000, threads: 2 }],
  [
    'where both want the same cores, decoding takes longer than alone',
    { decode: 70_000, process: 30_000, threads: 2 },
  ],
  ['a decoder of many threads', { decode: 60_000, process: 50_000, threads: 4 }],
  ['a decoder of one thread, and a core for each', { decode: 40_000, process: 30_000, threads: 1 }],
])('decode times beside lighter processing are those of a run with it: %s', (_, machine) => {
  for (const ratio of [0.6, 0.3, 0.15]) {
    const { besideUs, processUs } = toldOf(machine, ratio);
    const limit = Math.max(besideUs, processUs);
    expect(Math.abs(limit / runOn({ ...machine, process: machine.process * ratio }).slotUs - 1)).toBeLessThan(
      0.1,
    );
  }
});

test('what decoders hide while they wait for room comes to light', () => {
  const { measuredUs, besideUs } = toldOf({ decode: 50_000, process: 60_000, threads: 2 }, 0.3);
  expect(measuredUs).toBeLessThan(0.7 * besideUs);
});

const costs = { full: 50_000, half: 20_000, quarter: 8_000 };
const use = { cores, trialCores: 2, freeCores: 2, siblingShare: 0.3 };

/** A run that processing holds back, with cores that are taken all the time. */
function heldBack(spans: readonly RigSpan[] | null) {
  const graph = intraGraph(500);
  const work = steadyWork(graph, { read: 2_000, decode: 20_000, process: 50_000 });
  const trace = modelTrace(work, simulate(work), new Float64Array(500).fill(1e5));
  return summarise({
    trace,
    graph,
    rate: rational(25),
    policy: 'hold-time',
    buffers: work.buffers,
    scale: 'full',
    scaleCosts: costs,
    coreCosts: costs,
    spans,
  }).summary;
}

test('a scale promises no more than the cores allow', () => {
  const spans = Array.from({ length: 40 }, (_, at) => ({
    toUs: (at + 1) * spanUs,
    lostShare: 0,
    slowness: 1,
    use,
  }));
  const best = (summary: ReturnType<typeof heldBack>) =>
    Math.max(0, ...summary.cures.filter(({ kind }) => kind === 'scale').map(({ removes }) => removes));
  const unaware = heldBack(null);
  expect(best(unaware)).toBe(unaware.dropped);
  // Two cores for 50 ms a slot: at half scale 50 + 20 of 100 ms go to processing and decoding, and that is under a slot's two times 40.
  expect(best(heldBack(spans))).toBe(unaware.dropped);
  // As busy, but with decoding that took the other core whole: what scale saves is not enough.
  const busier = spans.map((span) => ({ ...span, use: { ...use, trialCores: 3.4, freeCores: 2 } }));
  expect(best(heldBack(busier))).toBeLessThan(0.5 * unaware.dropped);
});

test('without what the rig told nothing is corrected', () => {
  const { trace } = runOn({ decode: 50_000, process: 60_000, threads: 2 });
  const measured = measuredWork(trace, intraGraph(slots), slotUs, 'every-frame', defaultBufferDepths);
  expect(decodeBeside(measured, trace, [], 50_000)).toBeNull();
  expect(
    decodeBeside(
      measured,
      trace,
      [
        { toUs: 1, lostShare: 0, slowness: 1 },
        { toUs: 2, lostShare: 0, slowness: 1 },
      ],
      50_000,
    ),
  ).toBeNull();
});

test('cores that others took count against what plays on beside them, not on a rig that they leave alone', () => {
  const { trace, spans } = runOn({ decode: 50_000, process: 60_000, threads: 2 });
  const measured = measuredWork(trace, intraGraph(slots), slotUs, 'every-frame', defaultBufferDepths);
  const told = (freeCores: number, quiet: boolean) => {
    const beside = spans.map((span) => ({ ...span, use: { ...span.use!, freeCores } }));
    return mean(
      decodeBeside(measured, trace, beside, 60_000)!(measured.work.decode, {
        process: 0.5,
        decode: 1,
        quiet,
      }),
    );
  };
  expect(told(1, false)).toBeGreaterThan(1.8 * told(2, false));
  expect(told(1, true)).toBe(told(2, true));
  expect(told(0, false)).toBe(mean(measured.work.decode)); // nothing is known
});
