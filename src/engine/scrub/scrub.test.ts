import { execFile, fork } from 'node:child_process';
import { join } from 'node:path';
import { promisify } from 'node:util';
import { AV_LOG_FATAL } from 'node-av/constants';
import { Log } from 'node-av/lib';
import { summariseScrub } from '@/core/scrub/analyse';
import type { Gesture } from '@/core/scrub/gesture';
import { smallIntra, smallLongGop } from '@/demo/smallClips';
import type { WatchedProcess } from '@/server/runner/shared/watchedProcess';
import { processBytes } from '../activity';
import { scrubTimeline } from './scrubTimeline';
import { OpenTimeline } from '../timeline/openTimeline';
import type { TimelineSpec } from '../timeline/spec';
import type { FromViewer, ToViewer } from '../timeline/viewerSpec';
import { PatientHand } from '../testing/patientHand';
import { writeTestMedia } from '../testing/testMedia';
import { smallClip, startProcess, workFolder } from '../testing/testTrial';
import { streamsOf, testMedia } from '../testing/testTimelineRun';
import type { TimelineTrialRecord, TimelineTrialSettings } from '@/core/kinds/shared/timeline';

Log.setLevel(AV_LOG_FATAL);
const run = promisify(execFile);

let long: TimelineSpec;
let intra: TimelineSpec;

beforeAll(async () => {
  long = streamsOf(await testMedia(await smallClip(smallLongGop)));
  intra = streamsOf(await testMedia(await smallClip(smallIntra)));
});

async function scrub(spec: TimelineSpec, gesture: Gesture, hand?: PatientHand) {
  const opened = await OpenTimeline.open(spec, { warm: true });
  const settings = {
    kind: 'scrub',
    scale: 'full',
    threads: 1,
    warm: true,
    gesture: { kind: 'recorded', gestureId: '', name: '' },
  } as const;
  const { requests } = await scrubTimeline(opened, spec.timeline, settings, gesture, {
    onProgress: () => hand?.saw(),
    clock: hand,
  });
  await opened.close();
  return requests;
}

const unhurried = (targets: number[]): Gesture => ({
  kind: 'recorded',
  slots: 48,
  timesMs: targets.map((_, at) => at * 500),
  targets,
});

test.each(['long', 'intra'] as const)('an unhurried hand sees every position, exactly: %s', async (name) => {
  const targets = [0, 1, 2, 30, 29, 28, 5, 40];
  const requests = await scrub(name === 'long' ? long : intra, unhurried(targets), new PatientHand());
  expect(requests.map(({ target }) => target)).toEqual(targets);
  const summary = summariseScrub(requests);
  expect(summary).toMatchObject({ requests: 8, shown: 8, superseded: 0, wrong: 0, proved: true });
  requests.forEach(({ wanted, proved, target }) => expect([wanted, proved]).toEqual([target, target]));
  // Frames of an all-intra clip are their own key frames.
  expect(requests.some(({ fromKey }) => fromKey > 0)).toBe(name === 'long');
});

test('a hand faster than the pictures gets the newest: what is overtaken is given up, what is shown is exact', async () => {
  const targets = Array.from({ length: 200 }, (_, at) => (at * 29) % 48);
  const requests = await scrub(long, {
    kind: 'recorded',
    slots: 48,
    timesMs: targets.map((_, at) => at),
    targets,
  });
  const summary = summariseScrub(requests);
  expect(summary.superseded).toBeGreaterThan(0);
  expect(summary.shown + summary.superseded).toBe(200);
  expect(summary.wrong).toBe(0);
  expect(requests.at(-1)).toMatchObject({ end: 'shown', target: targets.at(-1) });
  for (const { end, stoppedAfter } of requests) expect(stoppedAfter === null).toBe(end === 'shown');
});

async function runTest(
  source: TimelineSpec,
  settings: TimelineTrialSettings,
  gesture: Gesture | null = null,
  during?: (host: WatchedProcess<'timeline'>) => void,
) {
  let record: Partial<TimelineTrialRecord> = {};
  const notes: string[] = [];
  const host: WatchedProcess<'timeline'> = await startProcess(
    'timeline',
    { source, settings, gesture },
    {
      progress: ({ progress }) => {
        notes.push(progress.note);
        during?.(host);
      },
      record: (told) => {
        record = { ...record, ...told.record };
      },
    },
  );
  const end = await host.ended;
  return { end, record, notes };
}

test('a scrub trial in its own process leaves its requests and how cold they were read', async () => {
  const { end, record } = await runTest(
    intra,
    { kind: 'scrub', scale: 'half', threads: 0, warm: false, gesture: { kind: 'jumps', seed: 1, speed: 4 } },
    unhurried([3, 40, 7]),
  );
  expect(end.kind).toBe('done');
  expect(record.requests).toHaveLength(3);
  expect(record.cold?.method).toMatch(/direct|evicted/);
});

test('a ramp plays more and more until it drops or reaches its most', async () => {
  const { end, record, notes } = await runTest(intra, {
    kind: 'ramp',
    family: 'streams',
    most: 2,
    seconds: 1,
    scales: ['quarter', 'full'],
    threads: 1,
    warm: true,
  });
  expect({ end, notes, record }).toMatchObject({ end: { kind: 'done' } });
  const probes = record.probes ?? [];
  expect(probes.map(({ scale }) => scale)).toEqual(expect.arrayContaining(['quarter', 'full']));
  expect(probes[0]).toMatchObject({ scale: 'quarter', level: 1, slots: 24 });
  for (const { dropped, charge } of probes) expect(charge > 0).toBe(dropped > 0);
});

test('a calibration times every effect at every scale, in 8 bits and in 16', async () => {
  // Large enough that what an effect takes stands above a busy machine's noise.
  const path = join(await workFolder(), 'calibration', 'large.mov');
  await writeTestMedia(path, {
    encoder: 'mjpeg',
    pixelFormat: 'yuvj422p',
    width: 1280,
    height: 720,
    frames: 2,
  });
  const large = streamsOf(await testMedia(path));
  const { end, record, notes } = await runTest(large, { kind: 'calibration', threads: 1, warm: true });
  expect(end.kind).toBe('done');
  const { scales = [], deep = [] } = record.costs ?? {};
  for (const costs of [scales, deep])
    expect(costs.map(({ scale }) => scale)).toEqual(['full', 'half', 'quarter']);
  for (const { baseUs, effects } of [...scales, ...deep]) {
    expect(baseUs).toBeGreaterThan(0);
    expect(Object.keys(effects)).toHaveLength(7);
  }
  expect(scales[0]?.effects.blur).toBeGreaterThan(0);
  expect(deep[0]?.effects.blur).toBeGreaterThan(0);
  expect(notes).toEqual(
    expect.arrayContaining(['half scale, blur, in 8 bits', 'half scale, blur, in 16 bits']),
  );
});

test('a cancelled test ends at once', async () => {
  const { end } = await runTest(
    intra,
    { kind: 'ramp', family: 'grades', most: 64, seconds: 30, scales: ['full'], threads: 0, warm: true },
    null,
    (host) => host.cancel(),
  );
  expect(end.kind).toBe('cancelled');
});

describe('the viewer of a page', () => {
  async function view(
    spec: TimelineSpec,
    talk: (
      say: (message: ToViewer) => void,
      next: (matches: (told: FromViewer) => boolean) => Promise<FromViewer>,
      pid: number,
    ) => Promise<void>,
    { before = [], cold = false }: { before?: readonly ToViewer[]; cold?: boolean } = {},
  ) {
    const child = fork(join(await workFolder(), 'build', 'viewer.mjs'), [], { serialization: 'advanced' });
    const told: FromViewer[] = [];
    let wake: () => void = () => undefined;
    child.on('message', (message: FromViewer) => {
      told.push(message);
      wake();
    });
    let from = 0;
    const next = async (matches: (message: FromViewer) => boolean): Promise<FromViewer> => {
      for (;;) {
        const found = told.slice(from).findIndex(matches);
        if (found >= 0) {
          from += found + 1;
          return told[from - 1] as FromViewer;
        }
        await new Promise<void>((resolve) => {
          wake = resolve;
        });
      }
    };
    for (const message of before) child.send(message);
    child.send({ type: 'open', spec, scale: 'half', cold } satisfies ToViewer);
    await talk(
      (message) => {
        child.send(message);
      },
      next,
      child.pid!,
    );
    child.kill('SIGKILL');
  }
  const still =
    (slot: number) =>
    ({ state, jpeg }: FromViewer) =>
      state.slot === slot && !state.playing && jpeg !== null;

  test('shows the slot that was asked for last, plays on from there both ways, and stops', async () => {
    await view(long, async (say, next) => {
      await next(still(0));
      for (const slot of [3, 9, 20]) say({ type: 'show', slot, jump: slot });
      const shown = await next(still(20));
      expect(shown.state.tookMs?.process).toBeGreaterThan(0);
      expect(shown.jpeg?.subarray(0, 2)).toEqual(Uint8Array.of(0xff, 0xd8));
      say({ type: 'play', run: 1, from: 20, speed: 1, loop: null });
      const playing = await next(({ state, jpeg }) => state.playing && jpeg !== null && state.slot > 22);
      expect(playing.state.speed).toBe(1);
      say({ type: 'play', run: 2, from: 30, speed: -2, loop: null });
      await next(
        ({ state, jpeg }) =>
          state.playing && state.run === 2 && state.speed === -2 && jpeg !== null && state.slot < 28,
      );
      say({ type: 'stop' });
      await next(({ state }) => !state.playing && state.tookMs !== null);
    });
  });

  test('shows the slot that was asked for just before the edit that makes room for it, and one asked for before all else', async () => {
    const emptied = {
      ...intra.timeline,
      tracks: intra.timeline.tracks.map((track) => ({ ...track, items: [] })),
    };
    await view({ ...intra, timeline: emptied }, async (say, next) => {
      await next(still(0));
      // The page says where its playhead is at once, and what was edited a little later.
      say({ type: 'show', slot: 5, jump: 5 });
      await next(still(0));
      say({ type: 'edit', timeline: intra.timeline, looks: {} });
      await next(still(5));
      say({ type: 'show', slot: 7, jump: 7 });
      say({ type: 'edit', timeline: intra.timeline, looks: {} });
      await next(still(7));
    });
    await view(
      intra,
      async (_say, next) => {
        await next(still(9));
      },
      { before: [{ type: 'show', slot: 9, jump: 9 }] },
    );
  });

  test('reads every jump from the volume where it is asked to, tells what came from where, and what it kept', async () => {
    await view(
      intra,
      async (say, next, pid) => {
        await next(still(0));
        const jumpTo = async (slot: number, jump: number) => {
          const before = processBytes(pid)!.movedBytes;
          say({ type: 'show', slot, jump });
          const { state } = await next(still(slot));
          const [frame] = state.frames;
          expect(state).toMatchObject({ jump, cold: true });
          expect(frame).toMatchObject({ media: 'm', frame: slot, volume: 'Edit room', simulated: false });
          return { frame: frame!, moved: processBytes(pid)!.movedBytes - before };
        };
        const far = await jumpTo(30, 1);
        expect(far.frame.from).toMatch(/^(past|emptied)$/);
        expect(far.frame.bytes).toBeGreaterThan(0);
        // The system counts as many bytes.
        expect(far.moved).toBeGreaterThanOrEqual(far.frame.bytes);
        await jumpTo(4, 2);
        const again = await jumpTo(30, 3);
        expect(again.frame).toMatchObject({ from: 'kept', bytes: 0 });
        // A picture that nobody jumped for answers no jump.
        say({ type: 'scale', scale: 'quarter' });
        expect((await next(still(30))).state.jump).toBe(0);
      },
      { cold: true },
    );
    await view(intra, async (say, next) => {
      say({ type: 'show', slot: 30, jump: 1 });
      const { state } = await next(still(30));
      expect(state.cold).toBe(false);
      expect(state.frames[0]).toMatchObject({ from: 'cache', frame: 30 });
    });
  });

  test('looked at otherwise while it plays, it plays on', async () => {
    const whole = (speed: number) => ({ run: 1, from: 0, speed, loop: { from: 0, to: 40 } });
    await view(long, async (say, next) => {
      await next(still(0));
      say({ type: 'play', ...whole(1) });
      const plays = (cold: boolean) =>
        next(({ state, jpeg }) => state.playing && state.run === 1 && state.cold === cold && jpeg !== null);
      await plays(false);
      // As a page sends it that was told to play just before its reading was chosen.
      say({ type: 'open', spec: long, scale: 'quarter', cold: true });
      await plays(true);
      say({ type: 'scale', scale: 'half' });
      await plays(true);
      say({ type: 'stop' });
      await next(({ state }) => !state.playing && state.tookMs !== null);
    });
  });

  test('what lies in the cache by the last jump is put out of it for the next', async () => {
    const opened = await OpenTimeline.open(long, { warm: false, cache: 'through' });
    const { path } = long.media.m!;
    const reader = await opened.media.get('m')!.openReader();
    const { packets } = opened.media.get('m')!;
    for (let row = 0; row < packets.length; row++)
      await reader.read(packets.offset[row]!, packets.size[row]!);
    const resident = async () =>
      Number((await run('fincore', ['--bytes', '--noheadings', '--raw', '--output', 'RES', path])).stdout);
    expect(await resident()).toBeGreaterThan(0);
    expect(await opened.emptyCaches()).toEqual(new Map([['m', 'emptied']]));
    expect(await resident()).toBe(0);
    await reader.close();
    await opened.close();
  });

  test('follows edits and scales, and says what is wrong', async () => {
    await view(intra, async (say, next) => {
      await next(still(0));
      say({ type: 'show', slot: 5, jump: 5 });
      const before = await next(still(5));
      const [track] = intra.timeline.tracks;
      const edited = {
        ...intra.timeline,
        tracks: [
          {
            ...track!,
            items: track!.items.map((item) => ({
              ...item,
              effects: [{ id: 'e', on: true, kind: 'blur' as const, radius: 0.1 }],
            })),
          },
        ],
      };
      say({ type: 'edit', timeline: edited, looks: {} });
      const after = await next(still(5));
      expect(Buffer.from(after.jpeg!).equals(Buffer.from(before.jpeg!))).toBe(false);
      say({ type: 'scale', scale: 'quarter' });
      const small = await next(still(5));
      expect(small.jpeg!.length).toBeLessThan(before.jpeg!.length);
      say({
        type: 'open',
        spec: { ...intra, media: { m: { ...intra.media.m!, path: '/gone.mov' } } },
        scale: 'half',
        cold: false,
      });
      const told = await next(({ state }) => state.problem !== null);
      expect(told.state.problem).toContain('/gone.mov');
    });
  });
});
