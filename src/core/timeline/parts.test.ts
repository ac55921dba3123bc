import { intraGraph, uniformWork } from '@/core/playback/work';
import { simulate } from '@/core/playback/simulate';
import { slotState } from '@/core/playback/slots';
import { rational } from '@/core/time/rational';
import { combinationOf, planCourse } from './course';
import { chargeParts, fewerStreams, partOfSlot, offsetsOfUses, type PartTimes } from './parts';
import type { Effect, Timeline } from './model';
import { clipItem, intra, timelineOf } from './testing/testTimeline';

const blur: Effect = { id: 'blur', on: true, kind: 'blur', radius: 0.02 };
const saturation: Effect = { id: 'sat', on: true, kind: 'saturation', amount: 1.1 };
const heavy = { ...clipItem('heavy', 0, 100), effects: [blur, saturation] };
const base = timelineOf([heavy]);
const timeline: Timeline = {
  ...base,
  tracks: [base.tracks[0]!, { id: 'v2', name: 'V2', on: true, items: [{ ...clipItem('light', 0, 50) }] }],
};
const plan = planCourse(timeline, { from: 0, slots: 100, speed: 1 }, new Map([['m', intra(200)]]));

/** A run whose stages take the given times per slot, as its simulator plays it. */
function run(durations: { read: number; decode: number; process: number }) {
  const work = uniformWork(intraGraph(100), rational(24), durations);
  const played = simulate(work);
  return {
    measured: { work, decisions: played.decisions },
    states: Uint8Array.from(played.dropped, (dropped) => (dropped ? slotState.dropped : slotState.shown)),
  };
}

function times(
  readShare: number,
  decodeShare: number,
  without: [string, string | null, number][],
): PartTimes {
  const uses = offsetsOfUses(plan)[100] as number;
  const column = (share: number) =>
    Float32Array.from({ length: uses }, (_, at) =>
      at < 100 ? (at % 2 === 0 ? 1_000 * share : 1_000 * (1 - share)) : 1_000,
    );
  return {
    readUs: column(readShare),
    decodeUs: column(decodeShare),
    combinations: plan.contents
      .map(combinationOf)
      .filter((key, at, all) => all.indexOf(key) === at)
      .map((combination) => ({
        combination,
        totalUs: 60_000,
        withoutUs: without.map(([itemId, effectId, us]) => ({ itemId, effectId, us })),
      })),
  };
}

test('a slow effect is charged down to its effect; what costs nothing is not named', () => {
  const { measured, states } = run({ read: 5_000, decode: 5_000, process: 60_000 });
  const charges = chargeParts(
    timeline,
    plan,
    measured,
    states,
    times(0.5, 0.5, [
      ['heavy', null, 5_000],
      ['heavy', 'blur', 8_000],
      ['heavy', 'sat', 59_900],
      ['light', null, 59_900],
    ]),
  );
  const dropped = states.filter((state) => state === slotState.dropped).length;
  expect(dropped).toBeGreaterThan(20);
  expect(charges.map(({ kind, label }) => `${kind} ${label}`)).toEqual(
    expect.arrayContaining(['track V1', 'item heavy', 'effect blur on heavy']),
  );
  expect(charges.find(({ effectId }) => effectId === 'blur')).toMatchObject({
    removes: dropped,
    of: dropped,
    at: 0,
  });
  expect(charges.some(({ effectId }) => effectId === 'sat')).toBe(false);
  expect(charges.some(({ label }) => label === 'light' || label === 'V2')).toBe(false);
  // Where several would have removed all, a slot is laid at the narrowest.
  expect(partOfSlot(timeline, charges, 10)?.effectId).toBe('blur');
  expect(partOfSlot(timeline, charges, 500)).toBeNull();
});

test('slow decoding is charged to the item that took its time', () => {
  const { measured, states } = run({ read: 5_000, decode: 70_000, process: 5_000 });
  const charges = chargeParts(
    timeline,
    plan,
    measured,
    states,
    times(0.5, 0.05, [
      ['heavy', null, 5_000],
      ['light', null, 55_000],
    ]),
  );
  expect(charges.some(({ label }) => label === 'light')).toBe(true);
  expect(charges.find(({ label }) => label === 'light')?.removes).toBeLessThan(charges[0]?.of as number);
  expect(charges.some(({ kind }) => kind === 'effect')).toBe(false);
});

test('of streams that decoding cannot carry, so many are named as it can', () => {
  const lanes = ['V1', 'V2', 'V3', 'V4'];
  const four: Timeline = {
    ...base,
    tracks: lanes.map((name) => ({ id: name, name, on: true, items: [clipItem(`of ${name}`, 0, 100)] })),
  };
  const course = planCourse(four, { from: 0, slots: 100, speed: 1 }, new Map([['m', intra(200)]]));
  const uses = offsetsOfUses(course)[100] as number;
  const even = new Float32Array(uses).fill(1_000);
  const shared: PartTimes = { readUs: even, decodeUs: even, combinations: [] };
  const of = (decode: number) => {
    const { measured, states } = run({ read: 5_000, decode, process: 5_000 });
    return fewerStreams(four, course, measured, states, shared);
  };
  const slot = 1e6 / 24;
  // Each of the four takes a quarter of decoding: three of them fit at 1.25, two at 1.8, one at 3.5.
  expect(of(1.25 * slot)).toMatchObject({ kind: 'streams', streams: 3, most: 4 });
  expect(of(1.8 * slot)).toMatchObject({ streams: 2, most: 4 });
  expect(of(3.5 * slot)).toMatchObject({ streams: 1, most: 4 });
  expect(of(0.5 * slot)).toBeNull();
  // A single track cannot be fewer.
  const { measured, states } = run({ read: 5_000, decode: 1.5 * slot, process: 5_000 });
  expect(
    fewerStreams(
      base,
      planCourse(base, { from: 0, slots: 100, speed: 1 }, new Map([['m', intra(200)]])),
      measured,
      states,
      shared,
    ),
  ).toBeNull();
});

test('a run without drops charges nothing', () => {
  const { measured, states } = run({ read: 5_000, decode: 5_000, process: 5_000 });
  expect(chargeParts(timeline, plan, measured, states, times(0.5, 0.5, []))).toEqual([]);
});

test('slots that show the same items are alike', () => {
  const { kinds } = plan.graph;
  expect(kinds[0]).toBe(kinds[49]);
  expect(kinds[50]).not.toBe(kinds[49]);
});
