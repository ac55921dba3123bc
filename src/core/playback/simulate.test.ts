import fc from 'fast-check';
import { simulate } from './simulate';
import { skippedAt } from './slots';
import { intraGraph } from './work';
import { droppedSlots, longGopGraph, randomWork, slotUs, steadyWork, traceOf } from './testing/made';

test('a player with time to spare drops nothing', () => {
  const run = simulate(steadyWork(intraGraph(200), { read: 5_000, decode: 10_000, process: 8_000 }));
  expect(run.droppedCount).toBe(0);
  expect([...run.presentedAt]).toEqual(Array.from({ length: 200 }, (_, slot) => slot * slotUs));
});

test('a link at half the needed rate shows about every second frame of all-intra media', () => {
  const run = simulate(steadyWork(intraGraph(1000), { read: 2 * slotUs, decode: 5_000, process: 5_000 }));
  const steady = run.dropped.subarray(100);
  expect(steady.reduce((sum, dropped) => sum + dropped, 0) / steady.length).toBeCloseTo(0.5, 1);
  expect(run.decisions.filter((where) => where === skippedAt.read).length).toBeGreaterThan(400);
});

test.each(['decode', 'process'] as const)(
  'a %s stage at half speed shows about every second frame and gives up the rest before it',
  (stage) => {
    const run = simulate(
      steadyWork(intraGraph(1000), { read: 1_000, decode: 1_000, process: 1_000, [stage]: 2 * slotUs }),
    );
    expect(run.droppedCount / 1000).toBeCloseTo(0.5, 1);
    const before = stage === 'decode' ? [skippedAt.decode] : [skippedAt.decode, skippedAt.process];
    expect(run.decisions.filter((value) => (before as number[]).includes(value)).length).toBeGreaterThan(400);
  },
);

test('long-GOP media that decodes too slowly goes on at key frames instead of never catching up', () => {
  const run = simulate(
    steadyWork(longGopGraph(40, 25), { read: 1_000, decode: 1.6 * slotUs, process: 5_000 }),
  );
  const shownPerGroup = Array.from(
    { length: 40 },
    (_, group) => run.dropped.subarray(group * 25, group * 25 + 25).filter((dropped) => dropped === 0).length,
  );
  expect(shownPerGroup.filter((shown) => shown > 0).length).toBeGreaterThan(15);
  expect(run.decisions.some((where) => where === skippedAt.read || where === skippedAt.decode)).toBe(true);
});

test('one held stage costs exactly the slots it covers', () => {
  const work = steadyWork(intraGraph(200), { read: 2_000, decode: 4_000, process: 3_000 });
  work.process[100] = 4 * slotUs + 3 * slotUs + 1_000; // its lead of four ready frames, and three slots more
  expect(droppedSlots(simulate(work))).toEqual([100, 101, 102]);
});

test('without skipping, the simulator gives the times of an independent slot-by-slot model', () => {
  fc.assert(
    fc.property(fc.integer(), fc.constantFrom(10_000, 30_000, 45_000), (seed, decode) => {
      const work = randomWork(seed, 150, true, { read: 12_000, decode, process: 9_000, present: 300 });
      const trace = traceOf(work);
      const run = simulate(work, { decisions: new Uint8Array(150) });
      expect([...run.dropped]).toEqual([...trace.state].map((state) => (state === 3 ? 1 : 0)));
      run.presentedAt.forEach((at, slot) => {
        if (run.dropped[slot] === 0) expect(at).toBeCloseTo(trace.presentedAt[slot]!, 3);
      });
    }),
    { numRuns: 60 },
  );
});

test('with kept choices, a faster stage never presents later nor drops more', () => {
  fc.assert(
    fc.property(
      fc.integer(),
      fc.boolean(),
      fc.constantFrom('read', 'decode', 'process', 'present'),
      fc.double({ min: 0, max: 1, noNaN: true }),
      (seed, intra, stage, ratio) => {
        const work = randomWork(seed, 240, intra, {
          read: 22_000,
          decode: 34_000,
          process: 28_000,
          present: 500,
        });
        const before = simulate(work);
        const kept = simulate(work, { decisions: before.decisions });
        const after = simulate(
          { ...work, [stage]: work[stage].map((value) => value * ratio) },
          { decisions: before.decisions },
        );
        expect([...kept.dropped]).toEqual([...before.dropped]);
        after.dropped.forEach((dropped, slot) => {
          if (dropped) expect(kept.dropped[slot]).toBe(1);
        });
      },
    ),
    { numRuns: 80 },
  );
});

test('slots are either presented within their period or dropped', () => {
  fc.assert(
    fc.property(fc.integer(), fc.boolean(), (seed, intra) => {
      const run = simulate(randomWork(seed, 240, intra, { read: 30_000, decode: 38_000, process: 30_000 }));
      run.dropped.forEach((dropped, slot) => {
        const at = run.presentedAt[slot]!;
        if (dropped) expect(at).toBeNaN();
        else expect(at >= slot * slotUs && at < (slot + 1) * slotUs).toBe(true);
      });
      expect(run.droppedCount).toBe(droppedSlots(run).length);
    }),
    { numRuns: 60 },
  );
});

test('every frame is shown when nothing may be skipped', () => {
  const run = simulate({
    ...steadyWork(intraGraph(50), { read: 1_000, decode: 3 * slotUs, process: 1_000 }),
    policy: 'every-frame',
  });
  expect(run.droppedCount).toBe(0);
  expect(run.presentedAt[49]! - run.presentedAt[48]!).toBeCloseTo(3 * slotUs);
});
