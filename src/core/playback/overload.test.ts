import fc from 'fast-check';
import { rational } from '../time/rational';
import { attribute } from './attribute';
import { longestGapSlots } from './grade';
import { measuredWork } from './measuredWork';
import { simulate } from './simulate';
import { defaultBufferDepths, skippedAt, slotState } from './slots';
import { countStates } from './trace';
import { intraGraph, uniformWork, type Work } from './work';
import { allowedSlots } from './yield';
import { feedsOf, groupsOf } from './testing/made';
import { Rig, type RigSpec } from './testing/rig';

const rate = rational(24);
const slotUs = 1e6 / 24;
const second = 24;

function yieldOf(work: Work): { share: number; gap: number } {
  const run = simulate(work);
  const allowed = allowedSlots(simulate({ ...work, policy: 'every-frame' }).presentedAt, rate);
  return {
    share: (work.graph.slotCount - run.droppedCount) / allowed,
    gap: longestGapSlots(run.dropped.map((dropped) => (dropped ? slotState.dropped : slotState.shown))),
  };
}

const light = { read: 500, decode: 2_000, process: 4_000 };

test.each(['read', 'decode', 'process'] as const)(
  'steady overload in %s is met evenly: about every fifth slot at 1.25 slots a frame',
  (stage) => {
    const work = uniformWork(intraGraph(600), rate, { ...light, [stage]: 1.25 * slotUs });
    const { share, gap } = yieldOf(work);
    expect(share).toBeGreaterThanOrEqual(0.9);
    expect(gap).toBeLessThanOrEqual(3);
    // Not four good seconds and one frozen: every second loses its share.
    const { dropped } = simulate(work);
    // What was read ahead lasts for the first slots.
    for (let from = 168; from + 2 * second <= 600; from += second) {
      const lost = dropped.subarray(from, from + 2 * second).reduce((sum, value) => sum + value, 0);
      expect(lost).toBeGreaterThanOrEqual(5);
      expect(lost).toBeLessThanOrEqual(15);
    }
  },
);

test('whatever is overloaded, of media whose frames can be left out nearly all is shown that can be', () => {
  fc.assert(
    fc.property(
      fc.constantFrom('read', 'decode', 'process' as const),
      fc.double({ min: 1.05, max: 2, noNaN: true }),
      fc.constantFrom(1, 2),
      fc.constantFrom(12, 24),
      fc.constantFrom(1, 4),
      (stage, load, between, interval, speed) => {
        const graph = feedsOf(
          groupsOf(Math.ceil((480 * speed) / interval), interval, between),
          480,
          [0],
          speed,
        );
        const perUnit =
          stage === 'process' ? 1 : graph.weights.reduce((sum, weight) => sum + weight, 0) / 480;
        const { share, gap } = yieldOf(
          uniformWork(graph, rate, { ...light, decode: 1_000 / perUnit, [stage]: (load * slotUs) / perUnit }),
        );
        expect(share).toBeGreaterThanOrEqual(0.9);
        expect(gap).toBeLessThanOrEqual(Math.max(graph.keyInterval, second));
      },
    ),
    { numRuns: 40, seed: 14 },
  );
});

test('of media whose frames all refer to others, key frames carry on', () => {
  fc.assert(
    fc.property(
      fc.double({ min: 1.05, max: 2.5, noNaN: true }),
      fc.constantFrom(12, 24),
      (load, interval) => {
        const graph = feedsOf(groupsOf(480 / interval, interval, 0), 480, [0]);
        const { share, gap } = yieldOf(uniformWork(graph, rate, { ...light, decode: load * slotUs }));
        expect(share).toBeGreaterThanOrEqual(0.6);
        expect(gap).toBeLessThanOrEqual(Math.max(interval, second));
      },
    ),
    { numRuns: 30, seed: 14 },
  );
});

test('streams whose key frames do not coincide catch up each by itself', () => {
  const graph = feedsOf(groupsOf(30, 24, 2), 480, [0, 6, 12, 18]);
  const { share, gap } = yieldOf(uniformWork(graph, rate, { ...light, decode: (1.25 * slotUs) / 4 }));
  expect(share).toBeGreaterThanOrEqual(0.9);
  expect(gap).toBeLessThanOrEqual(second);
});

test('after a second of stall in any stage all is clean within a key interval and a second', () => {
  fc.assert(
    fc.property(
      fc.constantFrom('read', 'decode', 'process' as const),
      fc.integer({ min: 60, max: 200 }),
      fc.constantFrom(0, 2),
      fc.constantFrom(12, 24, 36),
      fc.constantFrom(0, 1, 2),
      (stage, at, between, interval, held) => {
        const graph = feedsOf(groupsOf(Math.ceil(360 / interval), interval, between), 360, [0]);
        const work = uniformWork(graph, rate, {
          read: 0.2 * slotUs,
          decode: 0.5 * slotUs,
          process: 0.4 * slotUs,
        });
        work[stage][at] = (work[stage][at] as number) + 1e6;
        const { dropped } = simulate({ ...work, lagUs: new Float64Array(360).fill(held * 0.5 * slotUs) });
        expect(dropped.subarray(0, at).every((value) => value === 0)).toBe(true);
        expect(dropped.lastIndexOf(1)).toBeLessThan(at + second + interval + second);
      },
    ),
    { numRuns: 40, seed: 14 },
  );
});

test('stalls of a light clip cost the slots that they last for, and none after', () => {
  fc.assert(
    fc.property(
      fc.double({ min: 11, max: 20, noNaN: true }),
      fc.double({ min: 26, max: 40, noNaN: true }),
      (decodeSlots, readSlots) => {
        const work = uniformWork(intraGraph(240), rate, {
          read: 0.02 * slotUs,
          decode: 0.03 * slotUs,
          process: 0.02 * slotUs,
        });
        work.decode[68] = decodeSlots * slotUs;
        work.read[150] = readSlots * slotUs;
        const { dropped, ends } = simulate(work);
        const inSlot = (time: number) => Math.floor(time / slotUs);
        const isDropped = (slot: number) => dropped[slot] === 1;
        const slots = [...dropped.keys()].filter(isDropped);
        // The slot in which a stall ends may be too far gone.
        expect(
          slots
            .filter((slot) => slot < 109)
            .every((slot) => slot >= 68 && slot <= inSlot(ends.decode[68] as number)),
        ).toBe(true);
        expect(
          slots
            .filter((slot) => slot >= 109)
            .every((slot) => slot >= 150 && slot <= inSlot(ends.read[150] as number)),
        ).toBe(true);
      },
    ),
    { numRuns: 40, seed: 14 },
  );
});

test('two frames that were slow to process do not make the player give up those that follow', () => {
  fc.assert(
    fc.property(
      fc.double({ min: 0.3, max: 1, noNaN: true }),
      fc.double({ min: 3, max: 20, noNaN: true }),
      fc.integer({ min: 1, max: 8 }),
      (decodeSlots, slowSlots, gap) => {
        const work = uniformWork(intraGraph(300), rate, {
          read: 0.02 * slotUs,
          decode: decodeSlots * slotUs,
          process: 0.2 * slotUs,
        });
        for (const slot of [60, 60 + gap]) work.process[slot] = slowSlots * slotUs;
        const { dropped, ends } = simulate(work);
        const over = Math.max(...[60, 60 + gap].map((slot) => ends.process[slot] || 0)) / slotUs;
        expect(dropped.lastIndexOf(1)).toBeLessThan(over + 1.25 * second);
      },
    ),
    { numRuns: 60, seed: 14 },
  );
});

test('nothing is given up before the start: buffers are filled first, whatever that takes', () => {
  // An item that begins at frame 47 of a group of 49: its first slot decodes 48 frames.
  const table = groupsOf(8, 49, 2);
  const work = uniformWork(feedsOf(table, 120, [47]), rate, {
    read: 300,
    decode: 0.6 * slotUs,
    process: 0.5 * slotUs,
  });
  const run = simulate(work);
  expect(run.droppedCount).toBe(0);
  expect(-run.startUs).toBeGreaterThan(20 * 0.6 * slotUs);
  const heavy = simulate(uniformWork(intraGraph(200), rate, { read: 100, decode: 3 * slotUs, process: 100 }));
  const first = heavy.decisions.findIndex((where) => where !== skippedAt.none);
  expect(first).toBeGreaterThanOrEqual(defaultBufferDepths.ready + defaultBufferDepths.decoded);
});

/** Rigs whose stages share two cores, as real ones do. */
const rigs: readonly (readonly [string, RigSpec, number])[] = [
  [
    'all-intra',
    {
      graph: intraGraph(360),
      cores: 2,
      decodeUs: 40_000,
      decodeParallel: 2,
      held: 0,
      processUs: () => 70_000,
      processParallel: 2,
      readUs: 1_500,
      noise: 0.3,
    },
    0.85,
  ],
  [
    'long-GOP at four times the speed',
    {
      graph: feedsOf(groupsOf(70, 24, 2), 360, [0], 4),
      cores: 2,
      decodeUs: 18_000,
      decodeParallel: 2,
      held: 1,
      processUs: () => 60_000,
      processParallel: 2,
      readUs: 1_500,
      noise: 0.3,
    },
    0.85,
  ],
  [
    'two streams, key frames apart',
    {
      graph: feedsOf(groupsOf(20, 24, 2), 360, [0, 9]),
      cores: 2,
      decodeUs: 16_000,
      decodeParallel: 4,
      held: 3,
      processUs: () => 70_000,
      processParallel: 2,
      readUs: 1_500,
      noise: 0.3,
    },
    0.8,
  ],
  [
    'long-GOP, every frame referred to',
    {
      graph: feedsOf(groupsOf(14, 30, 0), 360, [0]),
      cores: 2,
      decodeUs: 31_000,
      decodeParallel: 2,
      held: 1,
      processUs: () => 50_000,
      processParallel: 1,
      readUs: 1_500,
      noise: 0.3,
    },
    0.75,
  ],
];

describe.each(rigs)('on a rig whose stages share its cores, %s', (_, spec, least) => {
  const plays = [1, 2, 3].map((seed) => ({
    every: new Rig(spec, slotUs, 'every-frame', seed).run(),
    held: new Rig(spec, slotUs, 'hold-time', seed).run(),
  }));

  test('nearly all is shown that the rig can, without long gaps', () => {
    const shares = plays.map(
      ({ every, held }) => countStates(held.state).shown / allowedSlots(every.presentedAt, rate),
    );
    expect(shares.reduce((sum, share) => sum + share, 0) / shares.length).toBeGreaterThanOrEqual(least);
    for (const { held } of plays)
      expect(longestGapSlots(held.state)).toBeLessThanOrEqual(Math.max(spec.graph.keyInterval, second));
    for (const { every } of plays)
      expect(allowedSlots(every.presentedAt, rate)).toBeLessThan(0.95 * spec.graph.slotCount);
  });

  test('a replay gives every slot as it was, with the recorded choices and, but for a few, with its own', () => {
    for (const { held } of plays) {
      const { agreement, policyAgreement } = attribute(
        held,
        measuredWork(held, spec.graph, slotUs, 'hold-time', defaultBufferDepths),
      );
      expect(agreement).toBe(1);
      expect(policyAgreement).toBeGreaterThanOrEqual(0.95);
    }
  });
});
