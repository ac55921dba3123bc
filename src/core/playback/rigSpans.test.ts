import fc from 'fast-check';
import { seededRandom } from '../stats/random';
import { rational } from '../time/rational';
import { modelTrace } from './modelTrace';
import { answerSentence, cureSentence } from '../sentences/playback';
import { simulate } from './simulate';
import { summarise } from './summary';
import { clearSpans, rigSpan, type RigSpan } from './rigSpans';
import { intraGraph, type Work } from './work';
import { slotUs, steadyWork } from './testing/made';

const slots = 750;
const graph = intraGraph(slots);

/** Half-second spans of a run, quiet and steady but where something was. */
function spansOf(disturbed: (at: number) => Partial<RigSpan>): RigSpan[] {
  return Array.from({ length: 60 }, (_, at) => ({
    toUs: (at + 1) * 500_000,
    lostShare: 0,
    slowness: 1,
    ...disturbed(at),
  }));
}

const ran = (work: Work) => modelTrace(work, simulate(work), new Float64Array(slots).fill(100_000));

/** The work of a rig whose processor took longer for its stages between two seconds. Slower work comes later, so that what lies between them is sought again. */
function slowed(work: Work, from: number, to: number, times: number): Work {
  let found = work;
  for (let pass = 0; pass < 5; pass++) {
    const trace = ran(found);
    const isThen = (start: Float64Array, slot: number) => {
      const at = Number.isNaN(start[slot]) ? slot * slotUs : (start[slot] as number);
      return at >= from * 1e6 && at < to * 1e6;
    };
    found = {
      ...work,
      decode: work.decode.map((us, slot) => (isThen(trace.decodeStart, slot) ? us * times : us)),
      process: work.process.map((us, slot) => (isThen(trace.processStart, slot) ? us * times : us)),
    };
  }
  return found;
}

const summed = (work: Work, spans: readonly RigSpan[] | null) =>
  summarise({
    trace: ran(work),
    graph,
    rate: rational(25),
    policy: 'hold-time',
    buffers: work.buffers,
    scale: 'full',
    scaleCosts: null,
    spans,
  }).summary;

const durations = { read: 4_000, decode: 32_000, process: 20_000 };

test.each([
  ['others', { lostShare: 1 - 1 / 1.8 }, 'others had the cores'],
  ['slowness', { slowness: 1.8 }, 'the machine itself had become slower'],
] as const)(
  'drops that the rig made by %s are its, and no hardware is asked for',
  (reason, change, words) => {
    const work = slowed(steadyWork(graph, durations), 8, 14, 1.8);
    const spans = spansOf((at) => (at >= 16 && at < 28 ? change : {}));
    const summary = summed(work, spans);
    expect(summary.dropped).toBeGreaterThan(20);
    expect(summary.cures.map((cure) => cure.kind)).toEqual(['quiet']);
    expect(summary.cures[0]).toMatchObject({ reason, of: summary.dropped });
    expect(summary.cures[0]?.removes).toBeGreaterThanOrEqual(summary.dropped * 0.95);
    expect(answerSentence(summary, 25)).toContain(`because ${words}`);
    // Without knowing of the rig a faster processor is asked for.
    expect(summed(work, null).cures[0]?.kind).not.toBe('quiet');
  },
);

test("an overload stays the hardware's on a rig that others disturbed in passing", () => {
  const work = steadyWork(graph, { ...durations, decode: 52_000 });
  const summary = summed(
    work,
    spansOf((at) => (at === 20 ? { lostShare: 0.1 } : {})),
  );
  expect(summary.cures[0]).toMatchObject({ kind: 'faster', stage: 'decode' });
  expect(summary.cures.some((cure) => cure.kind === 'quiet' || cure.besides === true)).toBe(false);
});

test('where both made drops, hardware is asked for only what it removes beyond a quiet rig', () => {
  const slow = steadyWork(graph, { ...durations, decode: 48_000 });
  const work = slowed(slow, 6, 22, 1.6);
  const summary = summed(
    work,
    spansOf((at) => (at >= 12 && at < 44 ? { lostShare: 1 - 1 / 1.6 } : {})),
  );
  const [first, ...others] = summary.cures;
  expect(first).toMatchObject({ kind: 'quiet', reason: 'others' });
  expect(others.every((cure) => cure.besides === true)).toBe(true);
  const second = others.find(({ kind }) => kind === 'faster');
  // Together they cannot remove more than there were; the quiet rig leaves what an undisturbed run drops.
  expect((first?.removes ?? 0) + (second?.removes ?? 0)).toBeLessThanOrEqual(summary.dropped);
  const left = summary.dropped - (first?.removes ?? 0);
  expect(Math.abs(left - simulate(slow).droppedCount)).toBeLessThanOrEqual(0.02 * slots);
  expect(cureSentence(second as NonNullable<typeof second>)).toMatch(
    /^On a quiet and steady rig decoding .* as fast would have removed another \d+ of \d+ drops \(\w+\)\.$/,
  );
});

test('the time that stages wanted and did not get is told per stage', () => {
  const work = steadyWork(graph, { read: 4_000, decode: 10_000, process: 5_000 });
  const { lostMs } = summed(
    work,
    spansOf((at) => (at >= 20 && at < 40 ? { lostShare: 0.5 } : {})),
  );
  // 10 of 30 seconds, half of 10 and of 5 ms in each of 25 slots a second.
  expect(lostMs?.decode).toBeCloseTo(1_250, -1.5);
  expect(lostMs?.process).toBeCloseTo(625, -1.5);
});

test('noise of the pulse makes no slow machine', () => {
  const random = seededRandom(15);
  for (let run = 0; run < 20; run++) {
    const noisy = clearSpans(
      spansOf(() => ({
        slowness: 1 + 0.08 * (random() + random() + random() - 1.5),
        lostShare: 0.015 * random(),
      })),
    );
    expect(noisy.every(({ slowness, lostShare }) => slowness === 1 && lostShare === 0)).toBe(true);
  }
});

test("of any slow stretch the drops are found to be the machine's, but for some at its ends", () => {
  const spec = fc.record({
    from: fc.integer({ min: 2, max: 10 }),
    seconds: fc.integer({ min: 2, max: 12 }),
    times: fc.double({ min: 1.2, max: 2.5, noNaN: true }),
    decode: fc.integer({ min: 10_000, max: 39_000 }),
  });
  fc.assert(
    fc.property(spec, ({ from, seconds, times, decode }) => {
      const work = slowed(steadyWork(graph, { ...durations, decode }), from, from + seconds, times);
      const summary = summed(
        work,
        spansOf((at) => (at >= 2 * from && at < 2 * (from + seconds) ? { slowness: times } : {})),
      );
      const [cure] = summary.cures;
      if (summary.dropped <= 10) return;
      expect(cure).toMatchObject({ kind: 'quiet', reason: 'slowness' });
      expect(Math.abs(summary.dropped - (cure?.removes ?? 0))).toBeLessThanOrEqual(0.02 * slots);
    }),
    { numRuns: 12, seed: 15 },
  );
});

test('a span says what a sample told, and nothing of what it did not', () => {
  const sample = { trialLoad: 0.7, othersLoad: 0.2, lostShare: 0.1, siblingShare: 0.3, pulseUs: 180 };
  const on = { cores: 4, referenceUs: 120 };
  const { use, ...span } = rigSpan(5, sample, on);
  expect(span).toEqual({ toUs: 5, lostShare: 0.1, slowness: 1.5 });
  expect(use?.siblingShare).toBe(0.3);
  expect(use?.trialCores).toBeCloseTo(2.8, 6);
  expect(use?.freeCores).toBeCloseTo(3.2, 6);
  expect(rigSpan(5, { ...sample, lostShare: null, siblingShare: null, pulseUs: null }, on)).toEqual({
    toUs: 5,
    lostShare: 0,
    slowness: 1,
    use: null,
  });
  expect(rigSpan(5, sample, { cores: 4, referenceUs: null }).slowness).toBe(1);
});
