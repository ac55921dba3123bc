import fc from 'fast-check';
import { attribute, stageBit, stagesOf } from '../attribute';
import { findCures } from '../cures';
import { measuredWork, type MeasuredWork } from '../measuredWork';
import { simulate } from '../simulate';
import { defaultBufferDepths } from '../slots';
import { intraGraph } from '../work';
import { holdStage, longGopGraph, randomWork, slotUs, steadyWork, traceOf, traceOfSimulated } from './made';

const light = { read: 3_000, decode: 6_000, process: 4_000 };

/** A random run as measured: its own choices and services. */
function measuredRun(seed: number, intra: boolean): { measured: MeasuredWork; trace: ReturnType<typeof traceOfSimulated> } {
  const work = randomWork(seed, 240, intra, { read: 24_000, decode: 36_000, process: 30_000, present: 400 });
  const run = simulate(work);
  return { measured: { work, decisions: run.decisions }, trace: traceOfSimulated(work, run) };
}

test('charges sum to the drops, and fall only on dropped slots', () => {
  fc.assert(fc.property(fc.integer(), fc.boolean(), (seed, intra) => {
    const { measured, trace } = measuredRun(seed, intra);
    const { charges, countByCharge, dropped } = attribute(trace, measured);
    expect(Object.values(countByCharge).reduce((sum, count) => sum + count, 0)).toBe(dropped);
    trace.state.forEach((state, slot) => { expect(charges[slot] !== 0).toBe(state === 3); });
  }), { numRuns: 40 });
});

test('freeing a stage never adds drops, whatever is free already', () => {
  fc.assert(fc.property(fc.integer(), fc.boolean(), (seed, intra) => {
    const { measured, trace } = measuredRun(seed, intra);
    const { droppedWhenFree } = attribute(trace, measured);
    for (const set of [0, 1, 2, 3, 4, 5, 6]) {
      for (const stage of [1, 2, 4]) if (!(set & stage)) expect(droppedWhenFree[set | stage]!).toBeLessThanOrEqual(droppedWhenFree[set]!);
    }
  }), { numRuns: 40 });
});

test('a replay with the recorded choices agrees with the run in every slot', () => {
  fc.assert(fc.property(fc.integer(), fc.boolean(), (seed, intra) => {
    const { measured, trace } = measuredRun(seed, intra);
    expect(attribute(trace, measured).agreement).toBe(1);
  }), { numRuns: 20 });
});

test.each(['read', 'decode', 'process'] as const)('faults held in %s are recovered in number, place and cause', (stage) => {
  const work = steadyWork(intraGraph(240), light);
  holdStage(work, stage, 60, 1);
  holdStage(work, stage, 120, 3);
  const trace = traceOf(work);
  const { charges, dropped, agreement } = attribute(trace, measuredWork(trace, work.graph, slotUs, 'hold-time', defaultBufferDepths));
  const found = [...charges].flatMap((charge, slot) => (charge ? [[slot, stagesOf(charge).join('+')]] : []));
  expect(found).toEqual([[60, stage], [120, stage], [121, stage], [122, stage]]);
  expect(dropped).toBe(4);
  expect(agreement).toBe(1);
});

test('a presenter that oversleeps is charged itself', () => {
  const work = steadyWork(intraGraph(120), light);
  work.present[50] = slotUs + 500;
  const trace = traceOf(work);
  const { countByCharge } = attribute(trace, measuredWork(trace, work.graph, slotUs, 'hold-time', defaultBufferDepths));
  expect(countByCharge).toEqual({ [stageBit.present]: 1 });
});

test('two stages that are both too slow are charged jointly where neither alone would cure', () => {
  const work = steadyWork(intraGraph(400), { read: 2_000, decode: 1.3 * slotUs, process: 1.3 * slotUs });
  const run = simulate(work);
  const { charges, countByCharge } = attribute(traceOfSimulated(work, run), { work, decisions: run.decisions });
  expect(countByCharge[stageBit.decode | stageBit.process]!).toBeGreaterThan(0);
  expect([...charges].every((charge) => (charge & stageBit.read) === 0)).toBe(true);
});

test('services recovered from a trace are those that made it', () => {
  fc.assert(fc.property(fc.integer(), (seed) => {
    const work = randomWork(seed, 120, true, { read: 9_000, decode: 20_000, process: 12_000, present: 200 });
    const { work: recovered } = measuredWork(traceOf(work), work.graph, slotUs, 'hold-time', defaultBufferDepths);
    for (const stage of ['read', 'decode', 'process'] as const) recovered[stage].forEach((value, slot) => { expect(value).toBeCloseTo(work[stage][slot]!, 2); });
  }), { numRuns: 30 });
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
    const [cure] = findCures({ work, decisions }, bytes(300, 1e6), 'full', null);
    expect(cure).toMatchObject({ kind: 'volume', of: droppedCount });
    // 1 MB per 40 ms is 25 MB/s: less cannot do, and the read-ahead lets hardly less suffice.
    expect(cure?.kind === 'volume' && cure.bytesPerSecond / 25e6).toBeGreaterThan(0.95);
    expect(cure?.kind === 'volume' && cure.bytesPerSecond / 25e6).toBeLessThan(1.1);
  });

  test('slow processing is cured by half scale in proportion to its measured cost', () => {
    const work = steadyWork(intraGraph(300), { read: 2_000, decode: 5_000, process: 1.5 * slotUs });
    const { decisions, droppedCount } = simulate(work);
    const cures = findCures({ work, decisions }, bytes(300, 1e5), 'full', { full: 60_000, half: 20_000, quarter: 10_000 });
    expect(cures).toContainEqual({ kind: 'scale', scale: 'half', removes: droppedCount, of: droppedCount });
    const faster = cures.find((cure) => cure.kind === 'faster');
    expect(faster).toMatchObject({ stage: 'process' });
    expect(faster?.kind === 'faster' && faster.factor).toBeGreaterThan(1.3);
    expect(faster?.kind === 'faster' && faster.factor).toBeLessThan(1.6);
  });

  test('two slow stages are cured by a processor that does both, where neither alone is enough', () => {
    const work = steadyWork(intraGraph(300), { read: 2_000, decode: 1.4 * slotUs, process: 1.4 * slotUs });
    const { decisions, droppedCount } = simulate(work);
    const cures = findCures({ work, decisions }, bytes(300, 1e5), 'full', null);
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
    expect(findCures({ work, decisions }, bytes(300, 1e5), 'full', null).map(({ kind }) => kind)).toEqual(['faster']);
  });

  test('a run without drops has no cures, and a scale already small is not offered', () => {
    const good = steadyWork(intraGraph(100), light);
    expect(findCures({ work: good, decisions: new Uint8Array(100) }, bytes(100, 1), 'full', null)).toEqual([]);
    const work = steadyWork(longGopGraph(8, 25), { read: 1_000, decode: 1_000, process: 2 * slotUs });
    const { decisions } = simulate(work);
    const kinds = findCures({ work, decisions }, bytes(200, 1), 'quarter', { full: 80_000, half: 20_000, quarter: 80_000 }).map((cure) => cure.kind);
    expect(kinds).not.toContain('scale');
  });
});
