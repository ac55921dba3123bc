import { copyFile, rename, truncate } from 'node:fs/promises';
import { join } from 'node:path';
import { causesOf } from '@/core/playback/attribute';
import { rational } from '@/core/time/rational';
import { slotState } from '@/core/playback/slots';
import type { Trace } from '@/core/playback/trace';
import { smallIntra, smallLongGop, smallTenBit } from '@/demo/smallClips';
import { expectedDrops } from '../playback/faults';
import { analyse, runTrial, smallClip, workFolder, type TestRun } from '../testing/testTrial';
import type { InjectedFault } from '@/core/playback/injectedFault';

/** Causes of the drops of a run, by slot. */
function found(run: TestRun): Map<number, string> {
  const { charges } = analyse(run);
  return new Map(
    [...run.trace.state].flatMap((state, slot): [number, string][] =>
      state === slotState.dropped ? [[slot, causesOf(charges[slot]!).join('+')]] : [],
    ),
  );
}

const faults: InjectedFault[] = [
  { stage: 'read', slot: 36, slots: 1 },
  { stage: 'decode', slot: 68, slots: 2 },
  { stage: 'process', slot: 80, slots: 1 },
  { stage: 'read', slot: 108, slots: 3 },
  { stage: 'process', slot: 120, slots: 2 },
];

/** Slots a second at which the faults are injected: slowly, so that only a stall can drop a slot by itself. */
const faultRate = 12;
const faultSlotUs = 1e6 / faultRate;
/** Work of a stage that takes so much of a slot was held up by the machine: by itself it takes a thirtieth. */
const stalledUs = faultSlotUs / 3;

interface Span {
  readonly fromUs: number;
  readonly toUs: number;
}

/** Moments after t0 at which the machine did not run this process for long: then it may not have run the trial either. */
async function withStalls(work: () => Promise<TestRun>): Promise<{ run: TestRun; stalls: readonly Span[] }> {
  const stalls: { fromMs: number; toMs: number }[] = [];
  let last = Date.now();
  const timer = setInterval(() => {
    const now = Date.now();
    if (now - last >= 80) stalls.push({ fromMs: last, toMs: now });
    last = now;
  }, 10);
  try {
    const run = await work();
    const afterBegin = (ms: number) => (ms - run.conditions!.beganAtMs!) * 1_000;
    return {
      run,
      stalls: stalls.map(({ fromMs, toMs }) => ({ fromUs: afterBegin(fromMs), toUs: afterBegin(toMs) })),
    };
  } finally {
    clearInterval(timer);
  }
}

/**
 * Work that the trial itself measured as held up by more than what was injected. On a virtual clock, where the machine
 * holds nothing up, `playerTruth.test.ts` demands that the same faults are found without any exception.
 */
function heldUp(trace: Trace): readonly Span[] {
  const spans: Span[] = [];
  for (let slot = 0; slot < trace.length; slot++) {
    const due = slot * faultSlotUs;
    const done = [
      { stage: 'read', from: trace.readStart, to: trace.readEnd },
      { stage: 'decode', from: trace.decodeStart, to: trace.decodeEnd },
      { stage: 'process', from: trace.processStart, to: trace.processEnd },
    ];
    for (const { stage, from, to } of done) {
      const fault = faults.find((injected) => injected.stage === stage && injected.slot === slot);
      // What was held begins when it is let go.
      const fromUs = fault ? (slot + fault.slots) * faultSlotUs : from[slot]!;
      // NaN where it was not done: then this is false.
      if (to[slot]! - fromUs > stalledUs) spans.push({ fromUs, toUs: to[slot]! });
    }
    if (trace.wokeAt[slot]! - due > stalledUs) spans.push({ fromUs: due, toUs: trace.wokeAt[slot]! });
  }
  return spans;
}

test('injected faults are recovered exactly in number, place and cause', async () => {
  const path = await smallClip(smallIntra);
  const expected = new Map<number, string>(expectedDrops(faults));
  const { run, stalls } = await withStalls(() =>
    runTrial(path, { settings: { faults, scale: 'half', slotLimit: 132 }, rate: rational(faultRate) }),
  );
  expect(run.end.kind).toBe('done');
  // What is held back until its slot has passed is dropped on any machine, and every drop has a cause.
  const drops = found(run);
  for (const slot of expected.keys()) expect(drops.has(slot)).toBe(true);
  expect([...drops.values()]).not.toContain('');
  // And besides what a stall of the machine may explain, just these are, each for its own cause.
  const spans = [...stalls, ...heldUp(run.trace)];
  const explained = (slot: number) =>
    spans.some(
      ({ fromUs, toUs }) => slot * faultSlotUs > fromUs - 500_000 && slot * faultSlotUs < toUs + 1_500_000,
    );
  const unexplained = (slots: ReadonlyMap<number, string>) => [...slots].filter(([slot]) => !explained(slot));
  expect(unexplained(drops)).toEqual(unexplained(expected));
}, 60_000);

test('a light clip is shown whole, and the number in each picture proves it', async () => {
  const run = await runTrial(await smallClip(smallTenBit));
  expect(run.conditions).toMatchObject({ decoder: 'prores' });
  expect(run.findings).toMatchObject({ frameCode: true });
  expect(run.conditions!.startLatencyMs).toBeGreaterThan(0);
  expect(run.findings!.scaleCosts!.full).toBeGreaterThan(0);
  expect(run.findings!.coreCosts!.full).toBeGreaterThan(0);
  const { summary } = analyse(run);
  expect(summary.slots).toBe(48);
  expect(summary.wrong).toBe(0);
  run.trace.state.forEach((state, slot) => {
    expect(run.trace.shownFrame[slot]).toBe(state === slotState.dropped ? -1 : slot);
  });
  // Presentation never comes before its time, and stages follow each other.
  run.trace.presentedAt.forEach((at, slot) => {
    if (Number.isNaN(at)) return;
    expect(at).toBeGreaterThanOrEqual((slot * 1e6) / 24);
    expect(run.trace.readEnd[slot]!).toBeLessThanOrEqual(run.trace.decodeEnd[slot]!);
    expect(run.trace.decodeEnd[slot]!).toBeLessThanOrEqual(run.trace.processEnd[slot]!);
  });
});

test.each([
  ['intra', smallIntra],
  ['long-GOP with B-frames', smallLongGop],
])('every frame of %s media is shown in order when nothing may be skipped', async (_, clip) => {
  const run = await runTrial(await smallClip(clip), {
    settings: { policy: 'every-frame', scale: 'quarter', threads: 2 },
  });
  expect(run.end.kind).toBe('done');
  expect([...run.trace.shownFrame]).toEqual(Array.from({ length: clip.frames }, (_unused, slot) => slot));
  expect([...run.trace.state].every((state) => state === slotState.shown)).toBe(true);
  expect(analyse(run, { policy: 'every-frame' }).summary.timesRealTime).toBeGreaterThan(0);
});

test('decoding alone leaves the process stage out', async () => {
  const run = await runTrial(await smallClip(smallIntra), {
    settings: { policy: 'every-frame', processing: false },
  });
  expect(run.findings).toEqual({ scaleCosts: null, frameCode: false });
  expect(run.trace.length).toBe(240);
});

test('a decoder held for longer than the read-ahead of long-GOP media goes on, and the replay agrees', async () => {
  const settings = { faults: [{ stage: 'decode', slot: 30, slots: 30 }] as InjectedFault[] };
  const path = await smallClip(smallLongGop);
  const run = await runTrial(path, { settings, rate: rational(12) }); // slowly, so that a busy machine catches up as well
  const { dropped, attribution } = analyse(run, settings).summary;
  expect(run.end.kind).toBe('done');
  expect(dropped).toBeGreaterThanOrEqual(30);
  expect(
    [...run.trace.state.subarray(100)].some((state) => state === slotState.shown || state === slotState.late),
  ).toBe(true);
  expect(attribution!.agreement).toBeGreaterThan(0.95);
  expect(attribution!.countByCharge[2]!).toBeGreaterThanOrEqual(28);
});

test('pictures come only when somebody looks, and show presented frames', async () => {
  const path = await smallClip(smallIntra);
  const [unseen, seen] = [
    await runTrial(path, { settings: { slotLimit: 48 } }),
    await runTrial(path, { settings: { slotLimit: 144 }, viewers: 1 }),
  ];
  expect(unseen.pictures).toHaveLength(0);
  expect(seen.pictures.length).toBeGreaterThan(0);
  for (const { frame, jpeg } of seen.pictures) {
    expect([jpeg[0], jpeg[1]]).toEqual([0xff, 0xd8]);
    expect([slotState.shown, slotState.late]).toContain(seen.trace.state[frame]);
  }
});

test('a trial that is killed, hangs or is cancelled says so and keeps what was saved', async () => {
  const path = await smallClip(smallIntra);
  const killed = await runTrial(path, {
    during: (host) => {
      process.kill(host.pid!, 'SIGKILL');
    },
  });
  expect(killed.end).toMatchObject({
    kind: 'crashed',
    message: expect.stringContaining('SIGKILL') as string,
  });
  expect(killed.trace.length).toBeGreaterThan(0);

  const hung = await runTrial(path, {
    watchdogMs: 1_500,
    during: (host) => {
      process.kill(host.pid!, 'SIGSTOP');
    },
  });
  expect(hung.end).toMatchObject({
    kind: 'hung',
    message: expect.stringContaining('No frame moved') as string,
    // Each of its threads stood still because it was stopped.
    detail: expect.stringMatching(/^([^\n]+ T [^\n]*\n)+[^\n]+ T [^\n]*$/) as string,
  });

  const cancelled = await runTrial(path, {
    during: (host) => {
      host.cancel();
    },
  });
  expect(cancelled.end.kind).toBe('cancelled');
  expect(cancelled.trace.length).toBeGreaterThan(0);
  expect(cancelled.trace.length).toBeLessThan(240);
});

test('a clip that vanishes, is replaced or cut short ends the trial with the reason', async () => {
  const path = await smallClip(smallIntra);
  const moved = join(await workFolder(), 'moved.mov');
  await copyFile(path, moved);
  const vanished = await runTrial(moved, { during: () => rename(moved, `${moved}.away`) });
  expect(vanished.end).toMatchObject({
    kind: 'failed',
    message: expect.stringContaining('is not there') as string,
  });
  expect(vanished.trace.length).toBeGreaterThan(0);

  const cut = join(await workFolder(), 'short.mov');
  await copyFile(path, cut);
  await truncate(cut, 400_000);
  const short = await runTrial(path, { readFrom: cut });
  expect(short.end).toMatchObject({
    kind: 'failed',
    message: expect.stringContaining('cut short') as string,
  });

  const absent = await runTrial(path, { readFrom: join(await workFolder(), 'never.mov') });
  expect(absent.end).toMatchObject({
    kind: 'failed',
    message: expect.stringContaining('is not there') as string,
  });
});
