import { copyFile, mkdir, truncate } from 'node:fs/promises';
import { join } from 'node:path';
import type { OpeningSettings } from '@/core/kinds/opening';
import type { TimelineTrialRecord } from '@/core/kinds/shared/timeline';
import { median } from '@/core/stats/quantiles';
import {
  clipOpening,
  openingParts,
  summariseOpening,
  type OpeningRecord,
  type OpeningSummary,
} from '@/core/tasks/opening';
import { runThrough } from '@/core/timeline/loads';
import { smallIntra, smallLongGop } from '@/demo/smallClips';
import type { WatchedProcess } from '@/server/runner/shared/watchedProcess';
import type { TimelineSpec } from '../timeline/spec';
import { richMedia, writeTestMedia } from '../testing/testMedia';
import { steadyModel } from '../testing/testStorage';
import { specOf, testMedia, type TestMedia } from '../testing/testTimelineRun';
import { smallClip, startProcess, workFolder } from '../testing/testTrial';

/** What is made of a clip as a whole. */
const wholeParts = ['header', 'pictures', 'sound'] as const;
let media: TestMedia[];

/** MB/s of all that was read, over the whole time. */
const linkUse = ({ parts, elapsedMs }: OpeningSummary) =>
  openingParts.reduce((sum, part) => sum + parts[part].bytes, parts.first.bytes) / 1000 / elapsedMs;

beforeAll(async () => {
  const withSound = join(await workFolder(), 'opening', 'sound.mov');
  await writeTestMedia(withSound, richMedia);
  media = [];
  for (const path of [await smallClip(smallIntra), await smallClip(smallLongGop), withSound])
    media.push(await testMedia(path));
});

/** Clips one after the other. */
function oneByOne(of: readonly TestMedia[], standIn: TestMedia['spec']['standIn'] = null): TimelineSpec {
  const named = of.map((one, at) => ({ id: `m${at}`, ref: one.ref }));
  const [first] = of as [TestMedia, ...TestMedia[]];
  const timeline = runThrough(named, first.ref.rate, first.ref, 1);
  const specs = of.map((one, at) => [`m${at}`, { ...one, spec: { ...one.spec, standIn } }] as const);
  return specOf(timeline, Object.fromEntries(specs));
}

async function open(
  source: TimelineSpec,
  change: Partial<OpeningSettings> = {},
  during?: (host: WatchedProcess<'timeline'>, record: OpeningRecord) => void,
) {
  let record: Partial<TimelineTrialRecord> = {};
  const settings: OpeningSettings = { kind: 'opening', lanes: 1, threads: 1, warm: false, ...change };
  const host: WatchedProcess<'timeline'> = await startProcess(
    'timeline',
    { source, settings, gesture: null },
    {
      record: (told) => {
        record = { ...record, ...told.record };
        if (told.record.opening) during?.(host, told.record.opening);
      },
    },
  );
  const end = await host.ended;
  const { opening } = record;
  return { end, cold: record.cold, opening, summary: opening ? summariseOpening(opening) : null };
}

test.each([1, 2])('all of a timeline is there in its order, cold, %i at a time', async (lanes) => {
  const { end, cold, opening, summary } = await open(oneByOne(media), { lanes });
  expect(end.kind).toBe('done');
  // What the codec library reads by itself goes through the cache, which was emptied.
  expect(cold?.method).toBe('evicted');
  expect(opening?.clips.map(({ problem, isFirst }) => [problem, isFirst])).toEqual([
    [null, true],
    [null, false],
    [null, false],
  ]);
  const steps = opening!.clips.map((clip) => wholeParts.map((part) => clip[part]));
  expect(steps.map((parts) => parts.map((step) => step !== null))).toEqual([
    [true, true, false],
    [true, true, false],
    [true, true, true],
  ]);
  const [header, pictures] = steps[0]!;
  expect(opening!.first!.fromMs).toBeGreaterThanOrEqual(header!.toMs);
  expect(pictures!.fromMs).toBeGreaterThanOrEqual(opening!.first!.toMs);
  for (const step of steps.flat().filter((one) => one != null)) {
    expect(step.bytes).toBeGreaterThan(0);
    expect(step.readMs).toBeGreaterThan(0);
    expect(step.readMs).toBeLessThanOrEqual(step.toMs - step.fromMs);
  }
  // Nobody works on two clips at a time.
  for (const lane of new Set(opening!.clips.map((clip) => clip.lane))) {
    const own = opening!.clips
      .filter((clip) => clip.lane === lane)
      .flatMap((clip) => openingParts.flatMap((part) => clip[part] ?? []));
    own
      .sort((a, b) => a.fromMs - b.fromMs)
      .forEach(({ fromMs }, at) => {
        if (at > 0) expect(fromMs).toBeGreaterThanOrEqual(own[at - 1]!.toMs);
      });
  }
  expect(summary).toMatchObject({ clips: 3, whole: 3, problems: 0 });
  expect(summary!.soundMs).toBe(steps[2]![2]!.toMs);
  expect(summary!.firstMs).toBeLessThan(summary!.picturesMs!);
  expect(summary!.agreement).toBeGreaterThan(0.5);
  expect(summary!.agreement).toBeLessThan(1.05);
});

test('clips are opened to their own first picture, each from nothing, and no further', async () => {
  const { end, cold, opening, summary } = await open(oneByOne(media), { each: 'picture' });
  expect(end.kind).toBe('done');
  expect(cold?.method).toBe('evicted');
  expect(opening!.first).toBeNull();
  opening!.clips.forEach((clip, at) => {
    expect(clip).toMatchObject({
      media: `m${at}`,
      isFirst: false,
      pictures: null,
      sound: null,
      problem: null,
    });
    const { firstByteMs, indexMs, pictureMs } = clipOpening(clip)!;
    expect(firstByteMs).toBeGreaterThan(0);
    expect(indexMs).toBeGreaterThan(firstByteMs);
    expect(pictureMs).toBeGreaterThan(indexMs);
    // The first picture needs its own packet, and nothing of the others.
    const { packets } = media[at]!.probed;
    expect(clip.picture!.bytes).toBeGreaterThanOrEqual(packets.size[0]!);
    expect(clip.picture!.bytes).toBeLessThan(packets.size.reduce((sum, size) => sum + size, 0) / 2);
  });
  expect(summary).toMatchObject({ clips: 3, whole: 3, firstMs: null, each: { clips: 3 } });
});

test('what a store’s answer takes stands in the first byte, and with each question more in the index and the picture', async () => {
  const answerMs = 40;
  const slow = { ...steadyModel(400), link: { ...steadyModel(400).link, roundTripUs: answerMs * 1_000 } };
  const { opening } = await open(oneByOne(media, slow), { each: 'picture' });
  for (const clip of opening!.clips) {
    const { firstByteMs, indexMs, pictureMs } = clipOpening(clip)!;
    expect(firstByteMs).toBeGreaterThanOrEqual(answerMs);
    expect(indexMs).toBeGreaterThanOrEqual(firstByteMs);
    expect(pictureMs - indexMs).toBeGreaterThanOrEqual(answerMs);
  }
});

test('behind a slow stand-in bytes are waited for, and a source twice as fast saves what was foretold', async () => {
  // So slow that the work on the bytes is little beside waiting for them, on a slow machine too.
  const bytesPerSecond = 0.3;
  const opened = async (times: number) =>
    (await open(oneByOne(media, steadyModel(times * bytesPerSecond)))).summary!;
  // In turn, and the median of three: one of them may fall into a stretch in which others have the machine.
  const pairs: (readonly [slow: OpeningSummary, fast: OpeningSummary])[] = [];
  for (let pair = 0; pair < 3; pair++) pairs.push([await opened(1), await opened(2)]);
  for (const [slow] of pairs) expect(slow.hold).toBe('read');
  const off = pairs.map(([slow, fast]) => 1 - fast.elapsedMs / slow.elapsedMs - slow.twice.read);
  expect(Math.abs(median(off))).toBeLessThan(0.1);
  // The model's link carries all that was asked for, and no more a second than it can.
  expect(linkUse(pairs[0]![0])).toBeLessThan(bytesPerSecond * 1.05);
  expect(linkUse(pairs[0]![0])).toBeGreaterThan(bytesPerSecond * 0.5);
});

test('lanes share a stand-in: two at a time take no less than its link needs', async () => {
  const bytesPerSecond = 0.6;
  const { summary } = await open(oneByOne(media, steadyModel(bytesPerSecond)), { lanes: 2 });
  expect(linkUse(summary!)).toBeLessThan(bytesPerSecond * 1.05);
});

test('a clip that cannot be taken apart is named, the others are opened', async () => {
  const path = join(await workFolder(), 'opening', 'broken.mov');
  await copyFile(media[2]!.spec.path, path);
  // Its index lies at the end.
  await truncate(path, 20_000);
  const { packets, ...rest } = media[2]!.spec;
  const { opening, summary, end } = await open(
    oneByOne([media[0]!, { ...media[2]!, spec: { ...rest, packets, path } }]),
  );
  expect(end.kind).toBe('done');
  expect(opening!.clips[1]!.problem).toMatch(/cannot be read/);
  expect(opening!.clips[1]!.pictures).toBeNull();
  expect(summary).toMatchObject({ whole: 1, problems: 1 });
});

test('where the volume refuses to be read, the run ends and says so', async () => {
  const refusing = { ...steadyModel(2), fault: { kind: 'read-error' as const, atSeconds: 0.05 } };
  const { end } = await open(oneByOne(media, refusing));
  expect(end.kind === 'failed' && end.message).toMatch(/read error from the device/);
  const gone = join(await workFolder(), 'opening', 'gone.mov');
  const { end: empty } = await open(oneByOne([{ ...media[0]!, spec: { ...media[0]!.spec, path: gone } }]));
  expect(empty.kind === 'failed' && empty.message).toMatch(/is not there/);
});

test('cancelled on the way, what came before is kept', async () => {
  let isTold = false;
  const { end, opening } = await open(oneByOne(media, steadyModel(0.3)), {}, (host, record) => {
    if (isTold || record.first === null) return;
    isTold = true;
    host.send({ type: 'cancel' });
  });
  expect(end.kind).toBe('cancelled');
  expect(opening?.first).not.toBeNull();
  expect(opening?.clips.some(({ pictures }) => pictures === null)).toBe(true);
});

test('files of a sequence, and a card’s transport stream, open as a clip does', async () => {
  const folder = join(await workFolder(), 'opening', 'pictures');
  await mkdir(folder, { recursive: true });
  const png = { encoder: 'png', pixelFormat: 'rgb24', frames: 6 };
  await writeTestMedia(join(folder, 'plate.%04d.png'), png);
  const card = join(folder, 'card.m2ts');
  await writeTestMedia(card, { encoder: 'mpeg2video', pixelFormat: 'yuv420p', frames: 24, audio: true });
  const both = [await testMedia(join(folder, 'plate.####.png')), await testMedia(card)];
  const roundTripUs = 20_000;
  const model = steadyModel(400);
  const far = { ...model, link: { ...model.link, roundTripUs } };
  for (const each of ['picture', 'whole'] as const) {
    const { end, opening } = await open(oneByOne(both, far), { each });
    expect(end.kind).toBe('done');
    expect(opening!.clips.map(({ problem }) => problem)).toEqual([null, null]);
    const [pictures] = opening!.clips;
    // The index of pictures is the first file's own header; each file is asked for twice: to open it, and to read it.
    const drawn = pictures![each === 'picture' ? 'picture' : 'pictures']!;
    expect(drawn.readMs).toBeGreaterThanOrEqual((2 * roundTripUs) / 1000);
    expect(drawn.bytes).toBeGreaterThanOrEqual(both[0]!.probed.packets.size[0]!);
  }
});
