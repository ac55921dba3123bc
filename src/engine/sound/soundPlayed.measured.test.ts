import { join } from 'node:path';
import { soundState } from '@/core/playback/sound';
import type { Trace } from '@/core/playback/trace';
import { writeTestMedia } from '../testing/testMedia';
import { steadyModel } from '../testing/testStorage';
import { runTimeline, streamsOf, testMedia } from '../testing/testTimelineRun';
import { analyse, runTrial, workFolder } from '../testing/testTrial';

/* Real runs, whose sound is worked out by a thread of its own. */

const media = {
  encoder: 'libx264',
  pixelFormat: 'yuv420p',
  frames: 100,
  options: { preset: 'ultrafast' },
} as const;

async function clip(name: string, audio = true): Promise<string> {
  const path = join(await workFolder(), 'sound-played', name);
  await writeTestMedia(path, { ...media, audio });
  return path;
}

const on = { sound: 'on' } as const;
const late = ({ sound }: Trace) => [...sound].filter((state) => state === soundState.underRun).length;
const bytesOf = ({ soundBytes }: Trace) => soundBytes.reduce((sum, bytes) => sum + bytes, 0);

test('a clip’s sound goes along, slot by slot; off, or without any, there is none and nothing is read', async () => {
  const path = await clip('along.mov');
  const run = await runTrial(path, { settings: on });
  expect(run.end.kind).toBe('done');
  const { trace, probed } = run;
  expect(trace.length).toBe(100);
  expect(trace.sound).not.toContain(soundState.silent);
  expect(trace.sound).not.toContain(soundState.broken);
  const { packets } = probed.sound!;
  const all = packets.size.reduce((sum, bytes) => sum + bytes, 0);
  // What is given up on a busy machine is not read.
  expect(bytesOf(trace)).toBeLessThanOrEqual(all);
  expect(bytesOf(trace)).toBeGreaterThan(all / 2);
  const { sound } = analyse(run).summary;
  expect(sound).toMatchObject({ slots: 100, underRuns: late(trace), broken: 0 });
  for (const ms of [sound!.readMs, sound!.decodeMs, sound!.mixMs]) expect(ms).toBeGreaterThan(0);
  expect(run.findings!.soundProblem).toBeUndefined();

  for (const silent of [
    await runTrial(path, { settings: { sound: 'off' } }),
    await runTrial(await clip('silent.mov', false), { settings: on }),
  ]) {
    expect(silent.end.kind).toBe('done');
    expect([...new Set(silent.trace.sound), bytesOf(silent.trace)]).toEqual([soundState.silent, 0]);
    expect(analyse(silent).summary.sound).toBeUndefined();
  }
});

test('a store that answers too late for sound makes under-runs; the pictures, with more reads under way, do not suffer', async () => {
  const path = await clip('slow.mov');
  const slow = steadyModel(200);
  const standIn = { ...slow, link: { ...slow.link, roundTripUs: 75_000 } };
  const settings = { ...on, underWay: 16, processing: false } as const;
  const run = await runTrial(path, { settings, standIn });
  const quick = await runTrial(path, { settings, standIn: steadyModel(200) });
  expect([run.end.kind, quick.end.kind]).toEqual(['done', 'done']);
  // Its packets lie one by one between the pictures: 75 ms for what sounds 40 ms.
  expect(late(run.trace)).toBeGreaterThan(late(quick.trace) + 10);
  const first = run.trace.sound.indexOf(soundState.underRun);
  // What was read ahead sounds first.
  expect(first).toBeGreaterThan(20);
  // What is given up is not worked out, and has no times.
  const givenUp = [...run.trace.soundReadUs].filter((us) => us < 0).length;
  expect(givenUp).toBeGreaterThan(0);
  expect(givenUp).toBeLessThanOrEqual(late(run.trace));
  expect(analyse(run, settings).summary.sound).toMatchObject({
    underRuns: late(run.trace),
    firstUnderRun: first,
  });
});

test('where every frame is shown, sound follows the pictures: none is left out, and none is late', async () => {
  const run = await runTrial(await clip('every.mov'), { settings: { ...on, policy: 'every-frame' } });
  expect(run.end.kind).toBe('done');
  expect(run.trace.soundReadUs.every((us) => us >= 0)).toBe(true);
  expect(late(run.trace)).toBe(0);
  expect(bytesOf(run.trace)).toBe(run.probed.sound!.packets.size.reduce((sum, bytes) => sum + bytes, 0));
});

test('a timeline’s items sound together, each read by itself; at another speed than its own it is silent', async () => {
  // Where every frame is shown none is left out.
  const every = { scale: 'quarter', policy: 'every-frame' } as const;
  const spec = streamsOf(await testMedia(await clip('streams.mov')), 2);
  const one = streamsOf(await testMedia(await clip('stream.mov')), 1);
  const run = await runTimeline(spec, {}, { ...on, ...every });
  const alone = await runTimeline(one, {}, { ...on, ...every });
  expect([run.end.kind, alone.end.kind]).toEqual(['done', 'done']);
  expect(run.trace.sound).not.toContain(soundState.silent);
  expect(bytesOf(run.trace)).toBe(2 * bytesOf(alone.trace));
  expect(bytesOf(alone.trace)).toBeGreaterThan(0);
  const fast = await runTimeline(one, { speed: 2 }, { ...on, ...every });
  expect(new Set(fast.trace.sound)).toEqual(new Set([soundState.silent]));
});

test('a run that is cancelled ends with its sound', async () => {
  const run = await runTrial(await clip('cancelled.mov'), {
    settings: on,
    during: (host) => host.send({ type: 'cancel' }),
  });
  expect(run.end.kind).toBe('cancelled');
  expect(run.trace.length).toBeLessThan(100);
  expect(run.trace.sound).not.toContain(soundState.silent);
});
