import fc from 'fast-check';
import {
  feedsOf,
  groupsOf,
  randomWork,
  randomWorkOf,
  slotUs,
  steadyWork,
} from '@/core/playback/testing/made';
import { attribute, causeBit } from '@/core/playback/attribute';
import { measuredWork } from '@/core/playback/measuredWork';
import { simulate, type Simulated } from '@/core/playback/simulate';
import { defaultBufferDepths, skippedAt, slotState, type Policy } from '@/core/playback/slots';
import type { Trace } from '@/core/playback/trace';
import { intraGraph, type Work } from '@/core/playback/work';
import { seededRandom } from '@/core/stats/random';
import { expectedDrops } from './faults';
import { jointFaults, playTimed } from '../testing/timedPlayer';
import type { InjectedFault } from '@/core/playback/injectedFault';

/*
 * The player itself, with stages of known length on a clock that passes only when nothing is left to do:
 * what it reads, decodes, processes, shows and gives up is to be what the simulator says of the same work.
 */

const outcomes = (trace: Trace) =>
  Array.from(trace.state, (state) => (state === slotState.dropped ? 'dropped' : 'shown')).join(' ');
const outcomesOf = ({ dropped }: Simulated) =>
  Array.from(dropped, (isDropped) => (isDropped ? 'dropped' : 'shown')).join(' ');

async function compare(made: Work, policy: Policy): Promise<{ trace: Trace; simulated: Simulated }> {
  const { trace, startUs } = await playTimed(made, policy);
  const work: Work = { ...made, policy, startUs: -startUs };
  const simulated = simulate(work);
  expect(trace.length).toBe(work.graph.slotCount);
  expect(outcomes(trace)).toBe(outcomesOf(simulated));
  for (const [measured, ends] of [
    [trace.presentedAt, simulated.presentedAt],
    [trace.processEnd, simulated.ends.process],
    [trace.readEnd, simulated.ends.read],
    [trace.decodeEnd, simulated.ends.decode],
  ] as const) {
    const apart = [...measured].flatMap((at, slot) =>
      trace.state[slot] === slotState.dropped || Math.abs(at - ends[slot]!) < 0.01
        ? []
        : [[slot, at, ends[slot]]],
    );
    expect(apart).toEqual([]);
  }
  return { trace, simulated };
}

/** Presented by a presenter that is never late. */
const onTime = (work: Work): Work => ({ ...work, present: new Float64Array(work.graph.slotCount) });
const runs = 40;
const load = fc.record({
  read: fc.integer({ min: 2_000, max: 30_000 }),
  decode: fc.integer({ min: 2_000, max: 44_000 }),
  process: fc.integer({ min: 2_000, max: 48_000 }),
});

test.each<Policy>(['hold-time', 'every-frame'])(
  'played under %s, random work gives slot by slot what the simulator says',
  async (policy) => {
    let dropped = 0;
    await fc.assert(
      fc.asyncProperty(fc.integer(), fc.boolean(), load, async (seed, intra, means) => {
        const { simulated } = await compare(onTime(randomWork(seed, 240, intra, means)), policy);
        dropped += simulated.droppedCount;
      }),
      { numRuns: runs },
    );
    // Neither idle rigs alone, nor such as show nothing.
    expect(dropped > 0).toBe(policy === 'hold-time');
    expect(dropped).toBeLessThan(runs * 200);
  },
);

test('streams whose key frames fall apart, at speed and backwards too, catch up in the player as in the simulator', async () => {
  await fc.assert(
    fc.asyncProperty(
      fc.integer(),
      fc.uniqueArray(fc.integer({ min: 0, max: 30 }), { minLength: 1, maxLength: 4 }),
      fc.constantFrom(1, 3, 4, -1, -4),
      load,
      async (seed, begins, speed, means) => {
        const frames = 160 * Math.abs(speed);
        const first = speed > 0 ? 0 : frames;
        const graph = feedsOf(
          groupsOf(Math.ceil((frames + 40) / 12), 12),
          160,
          begins.map((begin) => begin + first),
          speed,
        );
        // A unit's packets share its time.
        const perPacket = { ...means, decode: means.decode / begins.length };
        await compare(onTime(randomWorkOf(graph, seed, perPacket)), 'hold-time');
      },
    ),
    { numRuns: runs },
  );
});

test('what the decoder makes no picture of is passed by both in the same slots', async () => {
  await fc.assert(
    fc.asyncProperty(
      fc.integer(),
      fc.boolean(),
      load,
      fc.uniqueArray(fc.integer({ min: 0, max: 239 }), { minLength: 1, maxLength: 30 }),
      async (seed, intra, means, slots) => {
        const work = onTime(randomWork(seed, 240, intra, means));
        const refused = new Uint8Array(work.graph.slotCount);
        for (const slot of slots) refused[slot] = 1;
        const { trace } = await compare({ ...work, refused }, 'hold-time');
        trace.skipped.forEach((where, slot) => {
          if (where === skippedAt.media) expect(refused[slot]).toBe(1);
        });
      },
    ),
    { numRuns: runs },
  );
});

test('the buffers are filled before t0, by the player as by the simulator', async () => {
  const random = seededRandom(3);
  for (let round = 0; round < 10; round++) {
    const work = onTime(
      randomWork(Math.floor(random() * 1e9), 240, round % 2 === 0, {
        read: 9_000,
        decode: 50_000,
        process: 12_000,
      }),
    );
    const { startUs } = await playTimed(work, 'hold-time');
    const filled = -simulate({ ...work, startUs: null }).startUs;
    // It looks every two milliseconds whether they are full.
    expect(startUs).toBeGreaterThanOrEqual(filled);
    expect(startUs).toBeLessThanOrEqual(filled + 2_000);
  }
});

test('of its own record a run is told again: services that it had, choices that it made, all drops charged', async () => {
  await fc.assert(
    fc.asyncProperty(fc.integer(), fc.boolean(), load, async (seed, intra, means) => {
      const work = onTime(randomWork(seed, 240, intra, means));
      const { trace } = await playTimed(work, 'hold-time');
      const measured = measuredWork(trace, work.graph, slotUs, 'hold-time', defaultBufferDepths);
      const { agreement, policyAgreement, dropped, countByCharge } = attribute(trace, measured);
      expect(agreement).toBe(1);
      // What it gave up it did not measure: a choice that hung on a hair may go otherwise.
      expect(policyAgreement).toBeGreaterThanOrEqual(0.95);
      expect(Object.values(countByCharge).reduce((sum, count) => sum + count, 0)).toBe(dropped);
      for (let slot = 0; slot < trace.length; slot++)
        if (trace.state[slot] !== slotState.dropped)
          expect(measured.work.process[slot]).toBeCloseTo(work.process[slot]!, 1);
    }),
    { numRuns: 20 },
  );
});

test('injected faults are found exactly, of one stage and of two together', async () => {
  const stage = fc.constantFrom('read', 'decode', 'process' as const);
  const pair = fc.constantFrom(
    ['read', 'decode'] as const,
    ['read', 'process'] as const,
    ['decode', 'process'] as const,
  );
  const injected = fc.record({
    held: stage,
    joint: pair,
    slots: fc.integer({ min: 2, max: 5 }),
    at: fc.integer({ min: 50, max: 90 }),
    apart: fc.integer({ min: 60, max: 90 }),
  });
  await fc.assert(
    fc.asyncProperty(injected, async ({ held, joint: [earlier, later], slots, at, apart }) => {
      const work = steadyWork(intraGraph(240), { read: 3_000, decode: 6_000, process: 5_000 });
      const alone: InjectedFault[] = [{ stage: held, slot: at, slots }];
      const both = jointFaults(earlier, later, at + apart, slots);
      const { trace } = await playTimed(onTime(work), 'hold-time', [...alone, ...both]);
      const { charges } = attribute(
        trace,
        measuredWork(trace, work.graph, slotUs, 'hold-time', defaultBufferDepths),
      );
      const found = new Map(
        [...charges].flatMap((charge, slot) => (charge === 0 ? [] : [[slot, charge] as const])),
      );
      const end = at + apart + slots;
      // Having caught up with both, the player may give up a slot or two more: their fault as well.
      for (const slot of [end, end + 1])
        if (found.has(slot)) {
          expect(found.get(slot)! & ~(causeBit[earlier] | causeBit[later])).toBe(0);
          found.delete(slot);
        }
      const expected = new Map([...expectedDrops(alone)].map(([slot, of]) => [slot, causeBit[of]]));
      for (let slot = at + apart; slot < end; slot++)
        expected.set(slot, slot === at + apart ? causeBit[later] : causeBit[earlier] | causeBit[later]);
      expect([...found]).toEqual([...expected]);
    }),
    { numRuns: 15 },
  );
});
