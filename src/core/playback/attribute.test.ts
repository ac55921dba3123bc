import fc from 'fast-check';
import { attribute, causeBit, causesOf } from './attribute';
import { mean } from '../stats/quantiles';
import { seededRandom } from '../stats/random';
import { findCures, type Cure } from './cures';
import { measuredWork, type ChosenWork } from './measuredWork';
import { modelTrace } from './modelTrace';
import { cureSentence } from '../sentences/playback';
import { simulate } from './simulate';
import { defaultBufferDepths, skippedAt, slotState } from './slots';
import { intraGraph, type Work } from './work';
import {
  holdStage,
  longGopGraph,
  randomWork,
  slotUs,
  steadyWork,
  traceOf,
  traceOfSimulated,
} from './testing/made';

const light = { read: 3_000, decode: 6_000, process: 4_000 };

/** A random run as measured: its own choices and services. */
function measuredRun(
  seed: number,
  intra: boolean,
): { measured: ChosenWork; trace: ReturnType<typeof traceOfSimulated> } {
  const work = randomWork(seed, 240, intra, { read: 24_000, decode: 36_000, process: 30_000, present: 400 });
  const run = simulate(work);
  return { measured: { work, decisions: run.decisions }, trace: traceOfSimulated(work, run) };
}

test('charges sum to the drops, and fall only on dropped slots', () => {
  fc.assert(
    fc.property(fc.integer(), fc.boolean(), (seed, intra) => {
      const { measured, trace } = measuredRun(seed, intra);
      const { charges, countByCharge, dropped } = attribute(trace, measured);
      expect(Object.values(countByCharge).reduce((sum, count) => sum + count, 0)).toBe(dropped);
      trace.state.forEach((state, slot) => {
        expect(charges[slot] !== 0).toBe(state === 3);
      });
    }),
    { numRuns: 40 },
  );
});

test('freeing a stage never adds drops, whatever is free already', () => {
  fc.assert(
    fc.property(fc.integer(), fc.boolean(), (seed, intra) => {
      const { measured, trace } = measuredRun(seed, intra);
      const { droppedWhenFree } = attribute(trace, measured);
      for (const set of [0, 1, 2, 3, 4, 5, 6]) {
        for (const stage of [1, 2, 4])
          if (!(set & stage))
            expect(droppedWhenFree[set | stage]!).toBeLessThanOrEqual(droppedWhenFree[set]!);
      }
    }),
    { numRuns: 40 },
  );
});

test('a replay with the recorded choices agrees with the run in every slot', () => {
  fc.assert(
    fc.property(fc.integer(), fc.boolean(), (seed, intra) => {
      const { measured, trace } = measuredRun(seed, intra);
      expect(attribute(trace, measured).agreement).toBe(1);
    }),
    { numRuns: 20 },
  );
});

test.each(['read', 'decode', 'process'] as const)(
  'faults held in %s are recovered in number, place and cause',
  (stage) => {
    const work = steadyWork(intraGraph(240), light);
    holdStage(work, stage, 60, 1);
    holdStage(work, stage, 120, 3);
    const trace = traceOf(work);
    const { charges, dropped, agreement } = attribute(
      trace,
      measuredWork(trace, work.graph, slotUs, 'hold-time', defaultBufferDepths),
    );
    const found = [...charges].flatMap((charge, slot) =>
      charge ? [[slot, causesOf(charge).join('+')]] : [],
    );
    expect(found).toEqual([
      [60, stage],
      [120, stage],
      [121, stage],
      [122, stage],
    ]);
    expect(dropped).toBe(4);
    expect(agreement).toBe(1);
  },
);

/** Work of which the decoder makes no picture in some slots. */
const refusing = (work: Work, ...slots: number[]): Work => ({
  ...work,
  refused: Uint8Array.from({ length: work.graph.slotCount }, (_, slot) => (slots.includes(slot) ? 1 : 0)),
});

test('what the decoder makes no picture of is charged to the media, and every stage keeps its own', () => {
  const work = refusing(steadyWork(intraGraph(240), light), 30, 61, 62);
  holdStage(work, 'process', 120, 2);
  const trace = traceOf(work);
  expect([30, 61, 62].map((slot) => trace.skipped[slot])).toEqual([
    skippedAt.media,
    skippedAt.media,
    skippedAt.media,
  ]);
  const measured = measuredWork(trace, work.graph, slotUs, 'hold-time', defaultBufferDepths);
  const { charges, dropped, agreement, policyAgreement, droppedWhenFree } = attribute(trace, measured);
  expect(
    [...charges].flatMap((charge, slot) => (charge ? [[slot, causesOf(charge).join('+')]] : [])),
  ).toEqual([
    [30, 'media'],
    [61, 'media'],
    [62, 'media'],
    [120, 'process'],
    [121, 'process'],
  ]);
  expect([dropped, agreement, policyAgreement, droppedWhenFree[7]]).toEqual([5, 1, 1, 3]);
  for (const cure of findCures(measured, trace.bytes, { scale: 'full', scaleCosts: null }))
    expect(cure.removes).toBeLessThanOrEqual(2);
});

test('frames that cannot be decoded drop alone, whatever else a rig is late with', () => {
  fc.assert(
    fc.property(
      fc.integer(),
      fc.boolean(),
      fc.uniqueArray(fc.integer({ min: 0, max: 239 }), { minLength: 1, maxLength: 30 }),
      (seed, intra, slots) => {
        const work = refusing(
          randomWork(seed, 240, intra, { read: 20_000, decode: 30_000, process: 26_000, present: 400 }),
          ...slots,
        );
        const run = simulate(work);
        for (const slot of slots) expect(run.dropped[slot]).toBe(1);
        const trace = traceOfSimulated(work, run);
        const { charges, countByCharge, dropped, agreement } = attribute(trace, {
          work,
          decisions: run.decisions,
        });
        expect(Object.values(countByCharge).reduce((sum, count) => sum + count, 0)).toBe(dropped);
        charges.forEach((charge, slot) => {
          expect(charge === causeBit.media).toBe(slots.includes(slot));
        });
        expect(agreement).toBe(1);
      },
    ),
    { numRuns: 30 },
  );
});

test('a rig with time to spare loses what cannot be decoded and nothing else, and a clip of which nothing can ends', () => {
  const work = steadyWork(longGopGraph(20, 12), light);
  const some = simulate({ ...refusing(work, 0, 5, 100), startUs: null });
  expect([...some.dropped].flatMap((dropped, slot) => (dropped ? [slot] : []))).toEqual([0, 5, 100]);
  const none = simulate({
    ...refusing(work, ...Array.from({ length: 240 }, (_, slot) => slot)),
    startUs: null,
  });
  expect(none.droppedCount).toBe(240);
});

test('a presenter that oversleeps is charged itself', () => {
  const work = steadyWork(intraGraph(120), light);
  work.present[50] = slotUs + 500;
  const trace = traceOf(work);
  const { countByCharge } = attribute(
    trace,
    measuredWork(trace, work.graph, slotUs, 'hold-time', defaultBufferDepths),
  );
  expect(countByCharge).toEqual({ [causeBit.present]: 1 });
});

test('two stages that are both too slow are charged jointly where neither alone would cure', () => {
  const work = steadyWork(intraGraph(400), { read: 2_000, decode: 1.3 * slotUs, process: 1.3 * slotUs });
  const run = simulate(work);
  const { charges, countByCharge } = attribute(traceOfSimulated(work, run), {
    work,
    decisions: run.decisions,
  });
  expect(countByCharge[causeBit.decode | causeBit.process]!).toBeGreaterThan(0);
  expect([...charges].every((charge) => (charge & causeBit.read) === 0)).toBe(true);
});

/** What of the drops is charged to sets of stages within a set. */
const within = (countByCharge: Readonly<Record<number, number>>, set: number) =>
  Object.entries(countByCharge).reduce(
    (sum, [bits, count]) => sum + ((Number(bits) & ~set) === 0 ? count : 0),
    0,
  );

test('a drop that only moves is not charged: three stages that are all too slow are late together', () => {
  const work = steadyWork(intraGraph(750), {
    read: 1.3 * slotUs,
    decode: 1.3 * slotUs,
    process: 1.3 * slotUs,
  });
  const run = simulate(work);
  const { countByCharge, dropped, droppedWhenFree } = attribute(traceOfSimulated(work, run), {
    work,
    decisions: run.decisions,
  });
  expect(dropped).toBeGreaterThan(150);
  for (const set of [1, 2, 4, 3, 5, 6])
    expect(within(countByCharge, set)).toBeLessThanOrEqual(dropped - droppedWhenFree[set]!);
  expect(within(countByCharge, 7)).toBe(dropped);
  expect(countByCharge[7]!).toBeGreaterThan(dropped / 2);
});

test('to no set of stages more is charged than freeing it removes, and to all of them just that', () => {
  let [charged, alone] = [0, 0];
  fc.assert(
    fc.property(
      fc.integer(),
      fc.boolean(),
      fc.record({
        read: fc.integer({ min: 4_000, max: 56_000 }),
        decode: fc.integer({ min: 4_000, max: 56_000 }),
        process: fc.integer({ min: 4_000, max: 56_000 }),
      }),
      (seed, intra, means) => {
        const work = randomWork(seed, 240, intra, { ...means, present: 400 });
        const run = simulate(work);
        const { countByCharge, dropped, droppedWhenFree } = attribute(traceOfSimulated(work, run), {
          work,
          decisions: run.decisions,
        });
        for (const set of [1, 2, 4, 3, 5, 6])
          expect(within(countByCharge, set)).toBeLessThanOrEqual(dropped - droppedWhenFree[set]!);
        expect(within(countByCharge, 7)).toBe(dropped - droppedWhenFree[7]!);
        charged += dropped;
        alone += [1, 2, 4].reduce((sum, bits) => sum + (countByCharge[bits] ?? 0), 0);
      },
    ),
    { numRuns: 30 },
  );
  // Neither are all drops told as joint.
  expect(alone / charged).toBeGreaterThan(0.5);
});

test('stalls at random places are charged as an independent model without them says', () => {
  const random = seededRandom(11);
  let [same, all] = [0, 0];
  for (let round = 0; round < 6; round++) {
    const quiet = steadyWork(intraGraph(600), { read: 12_000, decode: 16_000, process: 14_000 });
    const work = steadyWork(intraGraph(600), { read: 12_000, decode: 16_000, process: 14_000 });
    for (let stall = 0; stall < 10; stall++) {
      const column = work[(['read', 'decode', 'process'] as const)[Math.floor(random() * 3)]!];
      column[30 + stall * 55 + Math.floor(random() * 20)]! += (4 + random() * 12) * slotUs;
    }
    const trace = traceOf(work);
    const { charges } = attribute(
      trace,
      measuredWork(trace, work.graph, slotUs, 'hold-time', defaultBufferDepths),
    );
    const cured = (['read', 'decode', 'process'] as const).map(
      (stage) => traceOf({ ...work, [stage]: quiet[stage] }).state,
    );
    trace.state.forEach((state, slot) => {
      if (state !== slotState.dropped) return;
      all++;
      if (cured.some((states, bit) => charges[slot] === 1 << bit && states[slot] !== slotState.dropped))
        same++;
    });
  }
  expect(all).toBeGreaterThan(150);
  expect(same / all).toBeGreaterThan(0.99);
});

test.each(['read', 'decode', 'process'] as const)('one overloaded stage, %s, has all the drops', (stage) => {
  const work = steadyWork(intraGraph(400), { ...light, [stage]: 1.3 * slotUs });
  const run = simulate(work);
  const { countByCharge, dropped } = attribute(traceOfSimulated(work, run), {
    work,
    decisions: run.decisions,
  });
  expect(dropped).toBeGreaterThan(50);
  expect(countByCharge).toEqual({ [causeBit[stage]]: dropped });
});

test('services recovered from a trace are those that made it', () => {
  fc.assert(
    fc.property(fc.integer(), (seed) => {
      const work = randomWork(seed, 120, true, {
        read: 9_000,
        decode: 20_000,
        process: 12_000,
        present: 200,
      });
      const { work: recovered } = measuredWork(
        traceOf(work),
        work.graph,
        slotUs,
        'hold-time',
        defaultBufferDepths,
      );
      for (const stage of ['read', 'decode', 'process'] as const)
        recovered[stage].forEach((value, slot) => {
          expect(value).toBeCloseTo(work[stage][slot]!, 2);
        });
    }),
    { numRuns: 30 },
  );
});

test('skipped frames are given the cost of frames of their kind', () => {
  const trace = traceOf(steadyWork(intraGraph(10), light));
  trace.processEnd[4] = Number.NaN;
  trace.readEnd[5] = Number.NaN;
  const { work } = measuredWork(trace, intraGraph(10), slotUs, 'hold-time', defaultBufferDepths);
  expect(work.process[4]).toBeCloseTo(4_000);
  expect(work.read[5]).toBeCloseTo(3_000);
});

describe('cures', () => {
  const bytes = (slots: number, size: number) => new Float64Array(slots).fill(size);

  test('a slow volume is cured by the rate the media needs', () => {
    const work = steadyWork(intraGraph(300), { read: 1.5 * slotUs, decode: 5_000, process: 5_000 });
    const { decisions, droppedCount } = simulate(work);
    const [cure] = findCures({ work, decisions }, bytes(300, 1e6), { scale: 'full', scaleCosts: null });
    expect(cure).toMatchObject({ kind: 'volume', of: droppedCount });
    // 1 MB per 40 ms is 25 MB/s: less cannot do, and the read-ahead lets hardly less suffice.
    expect(cure?.kind === 'volume' && cure.bytesPerSecond / 25e6).toBeGreaterThan(0.95);
    expect(cure?.kind === 'volume' && cure.bytesPerSecond / 25e6).toBeLessThan(1.1);
  });

  test('slow processing is cured by half scale in proportion to its measured cost', () => {
    const work = steadyWork(intraGraph(300), { read: 2_000, decode: 5_000, process: 1.5 * slotUs });
    const { decisions, droppedCount } = simulate(work);
    const cures = findCures({ work, decisions }, bytes(300, 1e5), {
      scale: 'full',
      scaleCosts: { full: 60_000, half: 20_000, quarter: 10_000 },
    });
    expect(cures).toContainEqual({
      kind: 'scale',
      scale: 'half',
      removes: droppedCount,
      of: droppedCount,
      grade: 'solid',
    });
    const faster = cures.find((cure) => cure.kind === 'faster');
    expect(faster).toMatchObject({ stage: 'process' });
    expect(faster?.kind === 'faster' && faster.factor).toBeGreaterThan(1.3);
    expect(faster?.kind === 'faster' && faster.factor).toBeLessThan(1.6);
  });

  test('two slow stages are cured by a processor that does both, where neither alone is enough', () => {
    const work = steadyWork(intraGraph(300), { read: 2_000, decode: 1.4 * slotUs, process: 1.4 * slotUs });
    const { decisions, droppedCount } = simulate(work);
    const cures = findCures({ work, decisions }, bytes(300, 1e5), { scale: 'full', scaleCosts: null });
    const [best] = cures;
    expect(best?.kind).toBe('processor');
    expect(best?.kind === 'processor' && best.factor).toBeGreaterThan(1.2);
    expect(best?.kind === 'processor' && best.factor).toBeLessThan(1.6);
    expect(best!.removes).toBeGreaterThan(droppedCount * 0.85);
    for (const { removes, of } of cures) expect(removes).toBeGreaterThanOrEqual(of * 0.1); // trifles are not named
  });

  test('one slow stage is not dressed up as a need for a faster processor', () => {
    const work = steadyWork(intraGraph(300), { read: 2_000, decode: 1.5 * slotUs, process: 5_000 });
    const { decisions } = simulate(work);
    expect(
      findCures({ work, decisions }, bytes(300, 1e5), { scale: 'full', scaleCosts: null }).map(
        ({ kind }) => kind,
      ),
    ).toEqual(['faster']);
  });

  /** What is left when a cure is there and the player plays anew. */
  function leftWith(work: Work, cure: Cure): number {
    if (cure.kind === 'faster')
      return simulate({ ...work, [cure.stage]: work[cure.stage].map((us) => us / cure.factor) }).droppedCount;
    if (cure.kind === 'processor')
      return simulate({
        ...work,
        decode: work.decode.map((us) => us / cure.factor),
        process: work.process.map((us) => us / cure.factor),
      }).droppedCount;
    throw new Error(`${cure.kind} is not simulated here`);
  }

  /** A run as it is recorded: of what was given up nothing is known. */
  function recorded(work: Work): { measured: ChosenWork; dropped: number } {
    const run = simulate(work);
    const trace = modelTrace(work, run, bytes(work.graph.slotCount, 1e5));
    return {
      measured: measuredWork(trace, work.graph, slotUs, 'hold-time', defaultBufferDepths),
      dropped: run.droppedCount,
    };
  }

  test('what was not measured costs what it does near by: a stretch that decodes ten times slower is not cured by a little', () => {
    const work = steadyWork(intraGraph(400), { read: 2_000, decode: 9_000, process: 7_000 });
    work.decode.fill(90_000, 100, 200);
    const { measured, dropped } = recorded(work);
    expect(dropped).toBeGreaterThan(40);
    const [cure] = findCures(measured, bytes(400, 1e5), { scale: 'full', scaleCosts: null });
    expect(cure).toMatchObject({ kind: 'faster', stage: 'decode' });
    expect(Math.abs(leftWith(work, cure!) - (cure!.of - cure!.removes))).toBeLessThanOrEqual(4);
    // Nor is the mean, which headroom rests on, that of the light part: 29.25 ms.
    expect(mean(measured.work.decode) / 1000).toBeCloseTo(29.25, 0);
  });

  test('what a cure promises, playing anew with it gives', () => {
    const off: number[] = [];
    fc.assert(
      fc.property(
        fc.integer(),
        fc.record({
          read: fc.integer({ min: 2_000, max: 20_000 }),
          decode: fc.integer({ min: 9_000, max: 60_000 }),
          process: fc.integer({ min: 9_000, max: 60_000 }),
        }),
        (seed, means) => {
          const work = randomWork(seed, 400, true, means);
          const { measured } = recorded(work);
          for (const cure of findCures(measured, bytes(400, 1e5), { scale: 'full', scaleCosts: null })) {
            if (cure.kind !== 'faster' && cure.kind !== 'processor') continue;
            expect(leftWith(measured.work, cure)).toBeLessThanOrEqual(cure.of - cure.removes);
            off.push(Math.abs(leftWith(work, cure) - (cure.of - cure.removes)));
          }
        },
      ),
      { numRuns: 30, seed: 12 },
    );
    expect(off.length).toBeGreaterThan(20);
    // Of 400 slots: what was given up cost about what its neighbours did, stalls in it aside.
    expect(off.filter((slots) => slots <= 40).length / off.length).toBeGreaterThan(0.9);
  });

  test('a volume that did not answer is told as that, with its place, and no rate is to be bought', () => {
    const work = steadyWork(intraGraph(500), light);
    work.read[250]! += 2.1e6;
    const { measured, dropped } = recorded(work);
    expect(dropped).toBeGreaterThan(15);
    const cures = findCures(measured, bytes(500, 1e6), { scale: 'full', scaleCosts: null });
    expect(cures).toEqual([
      {
        kind: 'stalls',
        stalls: [{ slot: 250, us: expect.closeTo(2.1e6, -3) as number }],
        removes: dropped,
        of: dropped,
        grade: 'solid',
      },
    ]);
    expect(cureSentence(cures[0]!, (slot) => `01:00:${slot / 25}:00`)).toBe(
      `The volume did not answer for 2.1\u202fs at 01:00:10:00; answers as at other times would have removed all ${dropped} drops (solid).`,
    );
  });

  test('a volume that is slow besides keeps its rate to buy, for what a rate removes', () => {
    const work = steadyWork(intraGraph(500), { ...light, read: 1.5 * slotUs });
    work.read[250]! += 2.1e6;
    const { measured, dropped } = recorded(work);
    const volume = findCures(measured, bytes(500, 1e6), { scale: 'full', scaleCosts: null }).find(
      ({ kind }) => kind === 'volume',
    );
    expect(volume?.kind === 'volume' && volume.bytesPerSecond / 25e6).toBeGreaterThan(0.95);
    expect(volume!.removes).toBeLessThan(dropped - 15); // what dropped while there was no answer
    expect(volume!.removes).toBeGreaterThan(dropped * 0.5);
  });

  test('a run without drops has no cures, and a scale already small is not offered', () => {
    const good = steadyWork(intraGraph(100), light);
    expect(
      findCures({ work: good, decisions: new Uint8Array(100) }, bytes(100, 1), {
        scale: 'full',
        scaleCosts: null,
      }),
    ).toEqual([]);
    const work = steadyWork(longGopGraph(8, 25), { read: 1_000, decode: 1_000, process: 2 * slotUs });
    const { decisions } = simulate(work);
    const kinds = findCures({ work, decisions }, bytes(200, 1), {
      scale: 'quarter',
      scaleCosts: { full: 80_000, half: 20_000, quarter: 80_000 },
    }).map((cure) => cure.kind);
    expect(kinds).not.toContain('scale');
  });
});
