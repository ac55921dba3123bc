import { copyFile, readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { countIn, doubtfulFrames, type ClipFaults } from '@/core/media/faults';
import { encodePacketTable, isDisposable, isKey } from '@/core/media/packetTable';
import { causeBit } from '@/core/playback/attribute';
import { skippedAt, slotState } from '@/core/playback/slots';
import type { Trace } from '@/core/playback/trace';
import { rational } from '@/core/time/rational';
import { emptyTimeline, type Item, type Timeline } from '@/core/timeline/model';
import type { DecodePass } from '@/core/decode/result';
import type { DemoClip } from '@/demo/clips';
import { smallIntra, smallLongGop, smallTenBit } from '@/demo/smallClips';
import { writeOver } from '@/demo/writeOver';
import { probeClip } from '../media/probe';
import { Decoder, packetOf } from '../codec/decoder';
import { FrameNoter } from '../rendition/notes';
import { faultsMet, scrubTimeline } from '../scrub/scrubTimeline';
import { OpenTimeline } from '../timeline/openTimeline';
import { playAtLeisure } from '../testing/leisure';
import { PatientHand } from '../testing/patientHand';
import { writeTestMedia } from '../testing/testMedia';
import { runTimeline, specOf, streamsOf, testMedia } from '../testing/testTimelineRun';
import { analyse, runTrial, smallClip, startProcess, workFolder } from '../testing/testTrial';
import type { TimelineTrialRecord } from '@/core/kinds/shared/timeline';

/** Place of the version in a coded frame of the ten-bit clip: behind the frame's size, its name and its header's size. */
const laterVersion = { at: 10, bytes: Uint8Array.of(0, 9) };
let copies = 0;

/** A copy of a clip of ours with frames written over. */
async function damaged(
  clip: DemoClip,
  frames: readonly number[],
  part?: Parameters<typeof writeOver>[2],
): Promise<string> {
  const whole = await smallClip(clip);
  const path = join(await workFolder(), `damaged-${copies++}-${whole.split('/').at(-1) ?? ''}`);
  await copyFile(whole, path);
  await writeOver(path, frames, part);
  return path;
}

const slotsWith = ({ skipped }: Trace, where: number) =>
  [...skipped].flatMap((value, slot) => (value === where ? [slot] : []));
const mediaCharges = (charges: Uint8Array) =>
  [...charges].flatMap((charge, slot) => (charge === causeBit.media ? [slot] : []));

test('frames that cannot be decoded drop their slots, each for its reason, and the run goes on to its end', async () => {
  const path = await damaged(smallTenBit, [7, 20, 21]);
  await writeOver(path, [30], laterVersion);
  const run = await playAtLeisure(path);
  expect(run.trace.length).toBe(48);
  expect(slotsWith(run.trace, skippedAt.media)).toEqual([7, 20, 21, 30]);
  expect([7, 20, 21, 30].map((slot) => run.trace.state[slot])).toEqual([
    slotState.dropped,
    slotState.dropped,
    slotState.dropped,
    slotState.dropped,
  ]);
  const { summary, charges } = analyse(run);
  expect(mediaCharges(charges)).toEqual([7, 20, 21, 30]);
  expect(summary.attribution).toMatchObject({ countByCharge: { [causeBit.media]: 4 }, agreement: 1 });
  expect(run.faults).toEqual({
    clips: [
      {
        media: '',
        name: '',
        faults: {
          damage: [
            [7, 7],
            [20, 21],
          ],
          feature: [[30, 30]],
        },
      },
    ],
    doubtful: [],
  });
});

test('every frame: what cannot be decoded is left out, and the rate counts what was shown', async () => {
  const run = await runTrial(await damaged(smallTenBit, [0, 10, 47]), {
    settings: { policy: 'every-frame', threads: 2 },
  });
  expect(run.end.kind).toBe('done');
  expect([...run.trace.state].flatMap((state, slot) => (state === slotState.shown ? [] : [slot]))).toEqual([
    0, 10, 47,
  ]);
  const { summary, charges } = analyse(run, { policy: 'every-frame' });
  expect(mediaCharges(charges)).toEqual([0, 10, 47]);
  expect([summary.shown, summary.dropped]).toEqual([45, 3]);
  const [first, last] = [run.trace.presentedAt[1]!, run.trace.presentedAt[46]!];
  expect(summary.achievedRate).toBeCloseTo((44 * 1e6) / (last - first), 6);
});

/** Frames of the long-GOP clip: a reference, and the key frame after it. */
const [reference, keyFrame] = [27, 48] as const;

test.each([
  ['hold-time', 1, playAtLeisure],
  ['hold-time', 2, playAtLeisure],
  ['every-frame', 2, runTrial],
] as const)(
  'a lost reference is told from one that nothing refers to, with frame threads too: %s, %i threads',
  async (policy, threads, play) => {
    // Known whole, and damaged since: what refers to what is told by frames that are not damaged.
    const whole = await smallClip(smallLongGop);
    const { packets } = await probeClip(whole);
    const alone = packets.slot.find((frame, row) => frame > 72 && isDisposable(packets, row))!;
    const run = await play(whole, {
      settings: { policy, threads },
      readFrom: await damaged(smallLongGop, [reference, alone]),
    });
    const faults = run.faults?.clips[0]?.faults ?? {};
    expect(faults.damage).toEqual([
      [reference, reference],
      [alone, alone],
    ]);
    expect(slotsWith(run.trace, skippedAt.media)).toEqual([reference, alone]);
    // What is coded after it in its group is shown, and not to be trusted: up to the next key frame, not into it.
    const builtOn = faults['built-on'] ?? [];
    expect(builtOn.at(-1)?.[1]).toBe(keyFrame - 1);
    expect(run.faults?.doubtful).toEqual(
      [...builtOn, ...(faults.concealed ?? [])].sort((a, b) => a[0] - b[0]),
    );
    const { summary } = analyse(run, { policy });
    expect(summary.doubtful).toBeGreaterThan(0);
    expect(summary.doubtful).toBeLessThanOrEqual(countIn(run.faults?.doubtful));
  },
);

test('frames that the decoder conceals are shown, counted and marked', async () => {
  const path = join(await workFolder(), 'concealed.mxf');
  await writeTestMedia(path, {
    encoder: 'mpeg2video',
    pixelFormat: 'yuv422p',
    width: 720,
    height: 576,
    gop: 1,
    frames: 24,
  });
  await writeOver(path, [9, 15], 'middle');
  const run = await runTrial(path, { settings: { policy: 'every-frame' } });
  expect(run.trace.state.every((state) => state === slotState.shown || state === slotState.wrong)).toBe(true);
  expect(run.faults).toEqual({
    clips: [
      {
        media: '',
        name: '',
        faults: {
          concealed: [
            [9, 9],
            [15, 15],
          ],
        },
      },
    ],
    doubtful: [
      [9, 9],
      [15, 15],
    ],
  });
  expect(analyse(run, { policy: 'every-frame' }).summary.doubtful).toBe(2);
});

test('what earlier runs met of a clip marks its slots, and is not told as met again', async () => {
  const knownFaults: ClipFaults = { damage: [[3, 3]], concealed: [[5, 6]], 'built-on': [[8, 9]] };
  const run = await runTrial(await smallClip(smallTenBit), {
    settings: { policy: 'every-frame' },
    knownFaults,
  });
  expect(run.faults).toEqual({
    clips: [],
    doubtful: [
      [5, 6],
      [8, 9],
    ],
  });
  expect(analyse(run, { policy: 'every-frame' }).summary).toMatchObject({
    dropped: 0,
    doubtful: 4,
    doubtfulWrong: 0,
  });
});

test('a trial fails only when nothing at all can be decoded, and says why', async () => {
  const all = Array.from({ length: smallTenBit.frames }, (_, frame) => frame);
  // The library would not offer such a file: it is looked at whole, and read damaged.
  const whole = await smallClip(smallTenBit);
  const run = await runTrial(whole, {
    settings: { policy: 'every-frame' },
    readFrom: await damaged(smallTenBit, all),
  });
  expect(run.end).toMatchObject({
    kind: 'failed',
    message: expect.stringMatching(
      /^This clip could not be decoded: its data is damaged\. Copy the file again/,
    ) as string,
  });
  const later = await runTrial(whole, { readFrom: await damaged(smallTenBit, all, laterVersion) });
  expect(later.end).toMatchObject({
    kind: 'failed',
    message: expect.stringContaining('Another copy will not help') as string,
  });
  // Some decoders say nothing at all.
  const silent = join(await workFolder(), 'silent.mxf');
  await writeTestMedia(silent, {
    encoder: 'mpeg2video',
    pixelFormat: 'yuv422p',
    width: 720,
    height: 576,
    gop: 1,
    frames: 12,
  });
  const emptied = join(await workFolder(), 'emptied.mxf');
  await copyFile(silent, emptied);
  await writeOver(
    emptied,
    Array.from({ length: 12 }, (_, frame) => frame),
  );
  expect(
    (await runTrial(silent, { settings: { policy: 'every-frame' }, readFrom: emptied })).end,
  ).toMatchObject({
    kind: 'failed',
    message: expect.stringMatching(/gave no picture at all|could not be decoded/) as string,
  });
  const oneLeft = await runTrial(whole, {
    settings: { policy: 'every-frame' },
    readFrom: await damaged(smallTenBit, all.slice(0, -1)),
  });
  expect([oneLeft.end.kind, oneLeft.trace.state.at(-1), oneLeft.trace.length]).toEqual([
    'done',
    slotState.shown,
    48,
  ]);
});

const item = (id: string, media: string, start: number, length: number): Item => ({
  id,
  name: id,
  start,
  length,
  source: { kind: 'clip', media, in: 0, speed: rational(1) },
  effects: [],
});
const timelineOf = (...tracks: Item[][]): Timeline => ({
  ...emptyTimeline('Tidewrack', rational(24), 480, 270),
  tracks: tracks.map((items, at) => ({ id: `v${at}`, name: `V${at + 1}`, on: true, items })),
});

test('on a timeline the slot of a damaged layer drops, the clip is named, and a clip that cannot be opened takes only its own slots', async () => {
  const media = {
    bad: await testMedia(await damaged(smallTenBit, [5])),
    good: await testMedia(await smallClip(smallIntra)),
    closed: await testMedia(await smallClip({ ...smallLongGop, file: 'closed.mp4', frames: 12 })),
  };
  // A codec that no decoder is there for.
  const closed = {
    ...media.closed,
    spec: { ...media.closed.spec, setup: { ...media.closed.spec.setup, codecId: 0 } },
  };
  const spec = specOf(
    timelineOf([item('under', 'good', 0, 40)], [item('over', 'bad', 2, 20), item('last', 'closed', 30, 6)]),
    { ...media, closed },
  );
  const run = await runTimeline(spec, {}, { policy: 'every-frame' });
  expect(run.end.kind).toBe('done');
  expect(slotsWith(run.trace, skippedAt.media)).toEqual([7, 30, 31, 32, 33, 34, 35]);
  const byName = new Map(run.faults?.clips.map(({ media: id, name, faults }) => [id, { name, faults }]));
  expect(byName.get('bad')).toEqual({ name: media.bad.ref.name, faults: { damage: [[5, 5]] } });
  expect(byName.get('closed')?.faults).toEqual({ feature: [[0, 5]], 'built-on': [[6, 11]] });
  expect(byName.has('good')).toBe(false);
  // Where nothing else is to be decoded, it ends before it begins.
  const alone = await runTimeline(
    specOf(timelineOf([item('last', 'closed', 0, 6)]), { closed }),
    {},
    { policy: 'every-frame' },
  );
  expect(alone.end).toMatchObject({
    kind: 'failed',
    message: expect.stringMatching(/There is no decoder for .*closed\.mp4 on this rig/) as string,
  });
});

const scrubOf = (bad: Awaited<ReturnType<typeof testMedia>>, threads: number, targets: number[]) => ({
  source: streamsOf(bad),
  settings: {
    kind: 'scrub',
    scale: 'half',
    threads,
    warm: true,
    gesture: { kind: 'recorded', gestureId: '', name: '' },
  } as const,
  gesture: { kind: 'recorded' as const, slots: 48, timesMs: targets.map((_, at) => at), targets },
});

async function scrub(bad: Awaited<ReturnType<typeof testMedia>>, threads: number, targets: number[]) {
  const { source, settings, gesture } = scrubOf(bad, threads, targets);
  const opened = await OpenTimeline.open(source, { warm: true });
  const hand = new PatientHand();
  const { requests, failure } = await scrubTimeline(opened, source.timeline, settings, gesture, {
    onProgress: () => hand.saw(),
    clock: hand,
  });
  const [faults] = faultsMet(opened);
  await opened.close();
  return { requests, failure, faults: faults?.faults ?? {} };
}

test('a scrub goes on over what cannot be decoded and tells which positions those were', async () => {
  const bad = await testMedia(await damaged(smallTenBit, [12, 30]));
  const { requests, failure, faults } = await scrub(bad, 0, [3, 12, 13, 30, 5]);
  expect(failure).toBeNull();
  expect(requests.map(({ target, end }) => [target, end])).toEqual([
    [3, 'shown'],
    [12, 'refused'],
    [13, 'shown'],
    [30, 'refused'],
    [5, 'shown'],
  ]);
  expect(faults).toEqual({
    damage: [
      [12, 12],
      [30, 30],
    ],
  });
});

test('a scrub trial none of whose positions has a picture fails with the reason, and tells what it met', async () => {
  const bad = await testMedia(await damaged(smallTenBit, [12]));
  let record: Partial<TimelineTrialRecord> = {};
  const host = await startProcess(
    'timeline',
    scrubOf(bad, 0, [12]),
    {
      record: (told) => {
        record = { ...record, ...told.record };
      },
    },
    60_000,
  );
  expect(await host.ended).toMatchObject({
    kind: 'failed',
    message: expect.stringMatching(/decode/) as string,
  });
  expect(record.requests?.map(({ target, end }) => [target, end])).toEqual([[12, 'refused']]);
  expect(record.faults?.clips.map(({ faults }) => faults)).toEqual([{ damage: [[12, 12]] }]);
});

test('a scrub over a lost reference says which pictures are built on it', async () => {
  const whole = await testMedia(await smallClip(smallLongGop));
  const bad = { ...whole, spec: { ...whole.spec, path: await damaged(smallLongGop, [reference]) } };
  const targets = [reference - 5, reference - 1, reference, reference + 1, keyFrame - 1, keyFrame, 3];
  const { requests, faults } = await scrub(bad, 1, targets);
  expect(requests.map(({ end }) => end)).toEqual([
    'shown',
    'shown',
    'refused',
    'shown',
    'shown',
    'shown',
    'shown',
  ]);
  expect(faults.damage).toEqual([[reference, reference]]);
  expect(requests.map(({ target, doubtful = false }) => [target, doubtful])).toEqual(
    targets.map((target) => [target, doubtfulFrames(faults).has(target)]),
  );
  expect(requests.find(({ target }) => target === keyFrame - 1)).toMatchObject({ doubtful: true });
  expect(requests.find(({ target }) => target === keyFrame)).not.toHaveProperty('doubtful');
});

async function decode(path: string) {
  const probed = await probeClip(path);
  const passes: DecodePass[] = [];
  let faults: ClipFaults | null = null;
  const host = await startProcess(
    'decode',
    {
      path,
      setup: probed.setup,
      format: probed.format,
      packets: encodePacketTable(probed.packets),
      settings: { kind: 'decode-rate', passSeconds: 1, passes: 2 },
      cores: 'all',
    },
    {
      pass: ({ pass }) => passes.push(pass),
      faults: (told) => {
        ({ faults } = told);
      },
    },
  );
  return { end: await host.ended, passes, faults };
}

test('a decode measurement counts what is refused apart from what it decodes', async () => {
  // Early in the clip, so that a slow machine comes by all of them in a pass.
  const { end, passes, faults } = await decode(await damaged(smallTenBit, [1, 2, 5]));
  expect(end.kind).toBe('done');
  expect(passes).toHaveLength(2);
  for (const { frames, refused } of passes) {
    expect(refused).toBeGreaterThanOrEqual(3);
    expect(frames).toBeGreaterThan(refused ?? 0);
  }
  expect(faults).toEqual({
    damage: [
      [1, 2],
      [5, 5],
    ],
  });
});

/** The numbers in a clip's pictures. */
async function codesOf(path: string): Promise<number[]> {
  const { packets, setup, format } = await probeClip(path);
  const bytes = await readFile(path);
  const decoder = await Decoder.open(setup, { threads: 1, lowDelay: true, rate: format.rate });
  const noter = new FrameNoter();
  const codes: number[] = [];
  for (let row = 0; row < packets.length; row++) {
    const packet = packetOf(
      bytes.subarray(packets.offset[row], packets.offset[row]! + packets.size[row]!),
      packets.slot[row]!,
      isKey(packets, row),
    );
    await decoder.send(packet);
    packet.free();
    for (let frame = await decoder.receive(); frame; frame = await decoder.receive()) {
      codes.push((await noter.note(frame)).code);
      frame.free();
    }
  }
  noter.close();
  decoder.close();
  return codes;
}

test('a rendition keeps its length: where a frame cannot be decoded the one before is repeated, and every other is proved', async () => {
  for (const [frames, repeated] of [
    [
      [0, 13, 14],
      [1, 12, 12],
    ],
    [
      [22, 47],
      [21, 46],
    ],
  ] as const) {
    const sourcePath = await damaged(smallTenBit, frames);
    const source = await probeClip(sourcePath);
    const outputPath = `${sourcePath}.made.mov`;
    const host = await startProcess('rendition', {
      sourcePath,
      outputPath,
      presetId: 'prores-proxy',
      raster: 'full',
      rate: source.format.rate,
      frames: source.frames,
      identity: source.identity,
      startTimecode: source.startTimecode,
      threads: 2,
      sampleFrames: null,
    });
    const end = await host.ended;
    if (end.kind !== 'done') throw new Error(JSON.stringify(end));
    expect(end.last.work?.frames).toBe(48);
    expect(countIn(end.last.work?.faults?.damage)).toBe(frames.length);
    expect(end.last.check).toMatchObject({
      method: 'frame code',
      frames: 48,
      same: 48,
      wrong: 0,
      missing: 0,
    });
    // By another reading, every frame of the rendition carries its own number but for the repeated ones.
    const expected = Array.from({ length: 48 }, (_, frame) => frame);
    frames.forEach((frame, at) => {
      expected[frame] = repeated[at]!;
    });
    expect(await codesOf(outputPath)).toEqual(expected);
  }
});
