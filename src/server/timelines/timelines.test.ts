import { mediaRefOf } from '@/core/timeline/mediaRef';
import { join } from 'node:path';
import { playedKinds, trialConditions } from '@/core/kinds/kinds';
import { rational } from '@/core/time/rational';
import { emptyTimeline, lengthOf, type Timeline } from '@/core/timeline/model';
import { getClips, updateClips, type ClipWithVolume } from '@/db/queries/clips';
import { addLook, getVersion, keepVersion } from '@/db/queries/timelines';
import { getTrial } from '@/db/queries/trials';
import { saveGroups } from '@/db/queries/footage';
import { removeVolume } from '@/db/queries/volumes';
import { smallIntra, smallLongGop } from '@/demo/smallClips';
import { workFolder } from '@/engine/testing/testTrial';
import { thisRigId } from '@/engine/rig';
import { PictureServer } from '../runner/pictureServer';
import { ViewerServer } from '../runner/viewerServer';
import { forecastOf } from './timelineForecast';
import { filesFor, specFor } from './timelineMedia';
import {
  copyTimeline,
  createEmpty,
  createLoad,
  createTimeline,
  deleteTimeline,
  nameVersion,
  requireTimeline,
  saveDocument,
  timelinesOfRig,
  versionDocument,
  versionsOf,
} from './timelines';
import { createLook } from './looks';
import { exportTimeline, importTimeline, relinkTimeline } from './interchange';
import { readEditor } from './editor';
import { gesturesKept, saveGesture, testsByIds } from './timelineTrials';
import { cancelTrial, deleteTrial } from '../kinds/trialControls';
import { readTrialList } from '../trials/trialList';
import { runsOfTimeline, traceViewOf } from './playedTrials';
import { decodeTraceView } from '@/core/playback/traceView';
import { measureTrial, newId, onTestDatabase, scannedClip } from '../testing/testDatabase';
import { requireTrial } from '../platform/trialQueue';
import { startScrub } from '../kinds/scrub';
import { startRamp } from '../kinds/ramp';
import { startCosts } from '../kinds/calibration';
import { startPlayback, startTimelinePlayback } from '../kinds/playback';

onTestDatabase();

let long: ClipWithVolume;
let intra: ClipWithVolume;
beforeAll(async () => {
  long = await scannedClip(smallLongGop);
  intra = await scannedClip(smallIntra);
});

const run = {
  scale: 'half',
  policy: 'every-frame',
  read: 'originals',
  volumeId: null,
  threads: 0,
  warm: false,
  depth: 'kept',
  fields: 'woven',
  meanwhile: 'nothing',
  sound: 'on',
  decodeOn: [] as never[],
  cache: 'past' as const,
  underWay: 1,
  from: 0,
  to: null,
  speed: 1,
  loops: 1,
  prerendered: false,
} as const;

function cutOf(...clips: ClipWithVolume[]): Timeline {
  const base = emptyTimeline('Tidewrack, test', rational(24), 480, 270);
  const items = clips.map((clip, at) => ({
    id: `i${at}`,
    name: clip.path,
    start: at * 20,
    length: 20,
    source: { kind: 'clip' as const, media: clip.id, in: 2, speed: rational(1) },
    effects: [],
  }));
  return {
    ...base,
    media: Object.fromEntries(clips.map((clip) => [clip.id, mediaRefOf(clip)!])),
    tracks: [{ id: 'v1', name: 'V1', on: true, items }],
  };
}

test('a timeline is saved over the state it was made from, and over no other', async () => {
  const id = await createEmpty('Reel one', rational(25), 1280, 720);
  const document = { ...cutOf(long), name: 'Reel one, cut' };
  expect(await saveDocument(id, { revision: 1, document })).toEqual({ revision: 2 });
  await expect(saveDocument(id, { revision: 1, document })).rejects.toMatchObject({
    status: 409,
  });
  expect(await requireTimeline(id)).toMatchObject({
    name: 'Reel one, cut',
    revision: 2,
    slots: 20,
    document: { rate: { num: 24 } },
  });
  await expect(saveDocument(id, { revision: 2, document: { ...document, media: {} } })).rejects.toThrow(
    'is not in the timeline',
  );
  await expect(saveDocument('none', { revision: 1, document })).rejects.toMatchObject({
    status: 404,
  });
  const copy = await copyTimeline(id, 'Reel one, copy');
  expect((await requireTimeline(copy)).document).toEqual({ ...document, name: 'Reel one, copy' });
  await deleteTimeline(copy);
  expect((await timelinesOfRig()).some((row) => row.id === copy)).toBe(false);
  const page = await readEditor(id);
  expect(page.clips.rows.map((clip) => clip.id)).toEqual(expect.arrayContaining([long.id, intra.id]));
  expect(page.volumes).toContainEqual([long.volumeId, long.volumeName]);
});

test('versions keep what was named or played, once each', async () => {
  const id = await createTimeline(cutOf(long));
  expect(await nameVersion(id, 'first cut')).toBe(1);
  expect(await nameVersion(id, 'still the first')).toBe(1);
  await saveDocument(id, { revision: 1, document: { ...cutOf(long), startTimecode: '02:00:00:00' } });
  expect(await keepVersion(id, (await requireTimeline(id)).document, null)).toBe(2);
  expect((await versionsOf(id)).map(({ number, name }) => [number, name])).toEqual([
    [2, null],
    [1, 'still the first'],
  ]);
  expect((await versionDocument(id, '1')).startTimecode).toBe('01:00:00:00');
  await expect(versionDocument(id, '9')).rejects.toMatchObject({ status: 404 });
});

/** An interchange file as it is asked to be imported. */
const asked = (fileName: string, text: string, store = true) => ({
  fileName,
  text,
  rate: rational(24),
  store,
  chosen: {},
});

test('a file that is only read tells what would be lost, and leaves nothing', async () => {
  const before = (await timelinesOfRig()).length;
  const text = 'TITLE: SOUND\n001  A001  A  C  00:00:00:00 00:00:01:00 01:00:00:00 01:00:01:00\n';
  expect(await importTimeline(asked('sound.edl', text, false))).toMatchObject({
    id: null,
    name: 'SOUND',
    items: 0,
    notes: ['Line 2: event 001 is for A, not for the picture, and was left out.'],
  });
  expect((await timelinesOfRig()).length).toBe(before);
});

test('what is exported is imported again and finds its clips; what cannot be read says where', async () => {
  const id = await createTimeline(cutOf(long, intra));
  for (const format of ['otio', 'edl'] as const) {
    const { text, fileName, losses } = await exportTimeline(id, format, null);
    expect(fileName).toBe(`Tidewrack_test.${format}`);
    expect(losses).toEqual(expect.any(Array));
    const report = await importTimeline(asked(fileName, text));
    expect(report).toMatchObject({ missing: [], choices: [], items: 2, slots: 40, tracks: 1 });
    const { document } = await requireTimeline(report.id!);
    // As it came it is kept, with nothing linked.
    const [kept] = await versionsOf(report.id!);
    expect(kept).toMatchObject({ number: 1, name: 'as imported' });
    const { media: unlinked } = await versionDocument(report.id!, '1');
    expect(Object.values(unlinked).every(({ clipId }) => clipId === null)).toBe(true);
    const items = document.tracks[0]!.items.map(({ source, length }) => ({
      media: source.kind === 'clip' ? document.media[source.media] : undefined,
      length,
    }));
    expect(items.map(({ media, length }) => [media?.contentHash, length])).toEqual([
      [long.contentHash, 20],
      [intra.contentHash, 20],
    ]);
    // Both volumes may have a copy of both: the timeline is not strewn over them.
    const linked = await getClips(items.map(({ media }) => media?.clipId ?? ''));
    expect(new Set(linked.map(({ volumeId }) => volumeId)).size).toBe(1);
  }
  await expect(importTimeline(asked('cut.edl', '001 A V C 01:00'))).rejects.toThrow(
    'cut.edl cannot be read. Line 1',
  );
  await expect(importTimeline(asked('cut.otio', '{"OTIO_SCHEMA": 3}'))).rejects.toThrow(
    'cut.otio cannot be read',
  );
});

test('missing media are relinked by what is known of them, and named when nothing matches', async () => {
  const document = cutOf(long, intra);
  const broken: Timeline = {
    ...document,
    media: {
      [long.id]: { ...document.media[long.id]!, clipId: 'gone' },
      [intra.id]: {
        ...document.media[intra.id]!,
        clipId: null,
        name: 'nobody.mov',
        contentHash: null,
        startTimecode: null,
      },
    },
  };
  const id = await createTimeline(broken);
  const { found, missing, revision, document: linked } = await relinkTimeline(id);
  expect(found).toMatchObject([
    { mediaId: long.id, name: broken.media[long.id]!.name, by: 'content', file: { path: long.path } },
  ]);
  expect(missing).toEqual([{ mediaId: intra.id, name: 'nobody.mov' }]);
  expect(revision).toBe(2);
  expect(linked.media[long.id]!.clipId).toBe(long.id);
});

test('looks are taken in with their size, and refused with the line that is wrong', async () => {
  const look = await createLook('dusk.cube', 'LUT_1D_SIZE 2\n0 0 0\n1 1 1\n');
  expect(look).toMatchObject({ name: 'dusk', dimensions: 1, size: 2 });
  await expect(createLook('bad.cube', 'LUT_1D_SIZE 2\n0 0 x\n1 1 1\n')).rejects.toThrow(
    'bad.cube cannot be read. Line 2',
  );
});

test('loads are built from clips and timelines', async () => {
  const input = { clipIds: [], timelineId: null, count: 3, seconds: 1, rate: null };
  const load = async (change: object) =>
    (
      await requireTimeline(
        await createLoad({ ...input, ...change } as unknown as Parameters<typeof createLoad>[0]),
      )
    ).document;
  const streams = await load({ kind: 'streams', clipIds: [long.id] });
  expect([streams.tracks.length, lengthOf(streams)]).toEqual([3, 25]);
  expect(
    (await load({ kind: 'grades', clipIds: [intra.id], count: 2 })).tracks[0]!.items[0]!.effects,
  ).toHaveLength(6);
  expect(lengthOf(await load({ kind: 'run-through', clipIds: [long.id, intra.id] }))).toBe(50);
  const id = await createTimeline(cutOf(long, intra));
  expect(
    (await load({ kind: 'conform', timelineId: id, rate: rational(48) })).tracks[0]!.items[1],
  ).toMatchObject({ start: 40, length: 40 });
  const minute = await load({ kind: 'worst-minute', timelineId: id });
  expect([lengthOf(minute), minute.name]).toEqual([40, 'Tidewrack, test, heaviest minute']);
  await expect(load({ kind: 'streams', clipIds: ['none'] })).rejects.toMatchObject({
    status: 409,
    field: 'clipIds',
  });
});

test('proxies are read where the footage has a lighter form, and the run says what it read', async () => {
  await saveGroups(await thisRigId(), [
    { footageId: newId('footage'), name: 'Test', joining: [long.id, intra.id] },
  ]);
  await updateClips([long.id, intra.id], { frames: 40 });
  const [heavy, light] = [long, intra].sort(
    (a, b) => (b.meanBitsPerSecond ?? 0) - (a.meanBitsPerSecond ?? 0),
  ) as [ClipWithVolume, ClipWithVolume];
  const timeline = cutOf(heavy);
  const read = async (form: 'originals' | 'proxies') =>
    (await filesFor(timeline, new Set([heavy.id]), { read: form, volumeId: null })).media[heavy.id];
  expect(await read('originals')).toMatchObject({ clipId: heavy.id, role: 'original', path: heavy.path });
  expect(await read('proxies')).toMatchObject({ clipId: light.id, role: 'rendition', path: light.path });
  // The frames that are shown are those of the file that is read.
  const spec = await specFor(timeline, { [heavy.id]: (await read('proxies'))! });
  expect(spec.timeline.media[heavy.id]?.rate).toEqual(light.format?.rate);
  await updateClips([long.id], { frames: smallLongGop.frames, footageId: null });
  await updateClips([intra.id], { frames: smallIntra.frames, footageId: null });
});

test('a run of a timeline is measured, judged by part, and shown again from what was kept', async () => {
  const id = await createTimeline(cutOf(long, intra));
  const trialId = await startTimelinePlayback(id, run);
  await measureTrial(trialId);
  const trial = (await getTrial(trialId, playedKinds))!;
  expect(trial).toMatchObject({
    status: 'done',
    progress: { slotCount: 40 },
    summary: { slots: 40, shown: 40, wrong: 0 },
    subject: {
      timeline: { id, version: 1, read: 'originals', missing: [], course: { from: 0, slots: 40, speed: 1 } },
    },
  });
  expect(trial.conditions?.run?.afterwards).toMatchObject({ frameCode: true });
  expect(trial.conditions?.run?.afterwards).not.toHaveProperty('parts');
  expect(decodeTraceView((await traceViewOf(trialId)).slice().buffer).slots).toBe(40);
  expect((await runsOfTimeline(id)).map((row) => row.id)).toEqual([trialId]);
  expect((await getVersion(id, 1))?.document.name).toBe('Tidewrack, test');
  await expect(startTimelinePlayback(id, { ...run, from: 60 })).rejects.toMatchObject({ field: 'from' });
  await expect(
    startTimelinePlayback(await createEmpty('Empty', rational(24), 100, 100), run),
  ).rejects.toThrow('is empty');
});

test('an interlaced clip is played field by field as a timeline at twice its rate; one without fields is refused', async () => {
  const asked = { ...run, clipId: intra.id, fields: 'each' as const };
  await expect(startPlayback(asked)).rejects.toMatchObject({ field: 'fields' });
  await updateClips([intra.id], { identity: { ...intra.identity!, scan: 'top field first' } });
  const { num, den } = intra.format!.rate;
  const trial = (await getTrial(await startPlayback(asked), playedKinds))!;
  expect(trial.settings).toMatchObject({ fields: 'deinterlaced', depth: 'kept', policy: 'every-frame' });
  const { timeline } = trial.subject;
  expect(timeline).toMatchObject({
    rate: rational(2 * num, den),
    slots: 2 * intra.frames!,
    course: { from: 0, slots: 2 * intra.frames! },
  });
  expect(trialConditions(trial)).toMatchObject({
    Fields: 'deinterlaced: a slot shows the field of its time',
  });
  await updateClips([intra.id], { identity: intra.identity });
});

test('a held run drops what is late and charges it to parts of the timeline', async () => {
  const id = await createTimeline(cutOf(intra));
  const trialId = await startTimelinePlayback(id, { ...run, policy: 'hold-time', speed: -1 });
  await measureTrial(trialId);
  const trial = (await getTrial(trialId, playedKinds))!;
  expect(trial).toMatchObject({ status: 'done', summary: { slots: 20, wrong: 0 } });
  expect(trial.summary?.parts).toEqual(expect.any(Array));
  expect(trial.summary?.attribution?.agreement).toBeGreaterThan(0.9);
});

test('scrub trials, ramps and calibrations are queued with their conditions, run, and kept', async () => {
  const [id] = await startScrub({
    clipId: intra.id,
    timelineId: null,
    read: 'originals',
    volumeId: null,
    threads: 0,
    depth: 'kept' as const,
    fields: 'woven' as const,
    warm: false,
    scale: 'half',
    decodeOn: [] as never[],
    cache: 'past' as const,
    underWay: 1,
    gestures: ['step-forward'],
    gestureId: null,
    seed: 4,
    speed: 4,
  });
  expect(await getTrial(id!)).toMatchObject({
    kind: 'scrub',
    status: 'queued',
    settings: { gesture: { kind: 'step-forward', seed: 4 } },
  });
  await measureTrial(id!);
  const test = await requireTrial(id!, ['scrub']);
  expect(test).toMatchObject({
    status: 'done',
    summary: { wrong: 0, proved: true },
  });
  expect(test.outcome).toContain('A position was on screen after');
  expect((await testsByIds([id!, 'none'])).map((row) => row.id)).toEqual([id]);
  // The timeline that holds one clip for its tests is in no list.
  expect(
    (await timelinesOfRig()).some(
      ({ name }) => name === test.subject.timeline.name && test.subject.timeline.id.startsWith('clip-'),
    ),
  ).toBe(false);

  const ramp = await startRamp({
    clipId: intra.id,
    timelineId: null,
    decodeOn: [] as never[],
    cache: 'past' as const,
    underWay: 1,
    family: 'grades',
    most: 2,
    seconds: 1,
    scales: ['quarter'],
    read: 'originals',
    volumeId: null,
    threads: 0,
    depth: 'kept' as const,
    fields: 'woven' as const,
    warm: true,
  });
  await expect(deleteTrial(ramp)).rejects.toThrow('Cancel the trial first');
  await cancelTrial(ramp);
  expect(await requireTrial(ramp)).toMatchObject({ status: 'cancelled' });
  await expect(cancelTrial(ramp)).rejects.toThrow('has already ended');
  await deleteTrial(ramp);
  const costs = await startCosts({ clipId: intra.id, timelineId: null, threads: 0 });
  await measureTrial(costs);
  expect(await requireTrial(costs)).toMatchObject({
    status: 'done',
    summary: { width: intra.format!.width },
  });
  const listed = await readTrialList({ kind: 'calibration' });
  expect(listed.trials.map((row) => row.id)).toEqual([costs]);
});

test('a recorded gesture is kept, replayed, and refused when it makes no sense', async () => {
  const gesture = { kind: 'recorded' as const, slots: 10, timesMs: [0, 40], targets: [1, 8] };
  await expect(saveGesture('odd', { ...gesture, targets: [1, 99] })).rejects.toThrow('outside');
  const gestureId = await saveGesture('over the cut', gesture);
  expect((await gesturesKept()).map(({ name }) => name)).toEqual(['over the cut']);
  const [id] = await startScrub({
    clipId: long.id,
    timelineId: null,
    read: 'originals',
    volumeId: null,
    threads: 0,
    depth: 'kept' as const,
    fields: 'woven' as const,
    warm: true,
    scale: 'quarter',
    decodeOn: [] as never[],
    cache: 'past' as const,
    underWay: 1,
    gestures: ['recorded'],
    gestureId,
    seed: 1,
    speed: 4,
  });
  await measureTrial(id!);
  const { record } = await requireTrial(id!, ['scrub']);
  // Targets keep their share of the length.
  expect(record?.requests.map(({ target }) => target)).toEqual([
    Math.round((1 / 9) * (smallLongGop.frames - 1)),
    Math.round((8 / 9) * (smallLongGop.frames - 1)),
  ]);
  await expect(
    startScrub({
      clipId: long.id,
      timelineId: null,
      read: 'originals',
      volumeId: null,
      threads: 0,
      depth: 'kept' as const,
      fields: 'woven' as const,
      warm: true,
      scale: 'quarter',
      decodeOn: [] as never[],
      cache: 'past' as const,
      underWay: 1,
      gestures: ['recorded'],
      gestureId: 'none',
      seed: 1,
      speed: 4,
    }),
  ).rejects.toMatchObject({ status: 404 });
});

test('a forecast names what is still to be measured before it says anything', async () => {
  const id = await createTimeline(cutOf(long, intra));
  const { forecast, missing } = await forecastOf(id, run);
  expect(forecast).toBeNull();
  expect(missing.map(({ what }) => what)).toEqual(
    expect.arrayContaining([`the decode rate of ${long.path}`, 'how fast Shuttle SSD reads']),
  );
});

test('a look that a timeline names is given to its run', async () => {
  await addLook({
    id: 'look-test',
    name: 'Test',
    cube: 'LUT_1D_SIZE 2\n0 0 0\n1 1 1\n',
    dimensions: 1,
    size: 2,
  });
  const document = cutOf(long);
  const id = await createTimeline({
    ...document,
    tracks: [
      {
        ...document.tracks[0]!,
        items: document.tracks[0]!.items.map((item) => ({
          ...item,
          effects: [{ id: 'l', on: true, kind: 'lut' as const, lookId: 'look-test', name: 'Test' }],
        })),
      },
    ],
  });
  expect((await specFor((await requireTimeline(id)).document, {})).looks).toEqual({
    'look-test': expect.stringContaining('LUT_1D_SIZE') as string,
  });
});

test('a page’s viewer answers through the runner, waits while something is measured, and comes back when its process dies', async () => {
  const viewers = new ViewerServer(join(await workFolder(), 'build', 'viewer.mjs'));
  const pictures = new PictureServer((request, response) => viewers.answer(request, response));
  const address = `http://127.0.0.1:${await pictures.listen()}/viewers/v-test`;
  const say = async (body: object, headers = { 'content-type': 'application/json' }) =>
    (await fetch(address, { method: 'POST', headers, body: JSON.stringify(body) })).status;
  // What never comes ends the test instead of keeping it waiting.
  const stream = (await fetch(address, { signal: AbortSignal.timeout(20_000) })).body!.getReader();
  /** What the stream says from now on, up to some words. */
  const until = async (words: string) => {
    let text = '';
    while (!text.includes(words)) text += Buffer.from((await stream.read()).value!).toString('latin1');
    return text;
  };
  try {
    expect(
      await say({
        type: 'document',
        document: cutOf(long),
        read: 'originals',
        scale: 'quarter',
        cold: false,
      }),
    ).toBe(200);
    const broken = { ...cutOf(long), media: {} };
    expect(
      await say({ type: 'document', document: broken, read: 'originals', scale: 'full', cold: false }),
    ).toBe(400);
    expect(await say({ type: 'show', slot: 'first', jump: 1 })).toBe(400);
    expect(await say({ type: 'show', slot: 1, jump: 1 }, { 'content-type': 'text/plain' })).toBe(415);
    await say({ type: 'show', slot: 7, jump: 1 });
    expect(await until('"slot":7')).toContain('"problem":null');
    viewers.pause();
    await until('A trial is running');
    expect(await say({ type: 'show', slot: 1, jump: 1 })).toBe(409);
    viewers.resume();
    expect(await say({ type: 'show', slot: 9, jump: 1 })).toBe(200);
    await until('"slot":9');
    process.kill(viewers.pids[0]!, 'SIGKILL');
    await until('The viewer ended unexpectedly. Move the playhead to start it again.');
    expect(await say({ type: 'show', slot: 3, jump: 1 })).toBe(200);
    expect(await until('"slot":3')).not.toContain('ended unexpectedly');
  } finally {
    viewers.close();
    pictures.close();
  }
});

test('a few viewers at most have a process; one that nobody looks at makes room', async () => {
  const viewers = new ViewerServer(join(await workFolder(), 'build', 'viewer.mjs'));
  const pictures = new PictureServer((request, response) => viewers.answer(request, response));
  const address = `http://127.0.0.1:${await pictures.listen()}/viewers`;
  const look = async (id: string) => {
    const control = new AbortController();
    const { status } = await fetch(`${address}/${id}`, { signal: control.signal });
    return { status, leave: () => control.abort() };
  };
  const open = async (id: string) =>
    (
      await fetch(`${address}/${id}`, {
        method: 'POST',
        headers: { 'content-type': 'application/json' },
        body: JSON.stringify({
          type: 'document',
          document: cutOf(long),
          read: 'originals',
          scale: 'quarter',
          cold: false,
        }),
      })
    ).status;
  try {
    for (let page = 0; page < 9; page++) expect(await open(`left-${page}`)).toBe(200);
    expect(viewers.pids).toHaveLength(4);
    const looked = [];
    for (let page = 0; page < 4; page++) looked.push(await look(`page-${page}`));
    expect(looked.map(({ status }) => status)).toEqual([200, 200, 200, 200]);
    expect((await look('page-5')).status).toBe(409);
    expect(await open('page-5')).toBe(409);
    expect(await open('page-2')).toBe(200);
    looked[0]!.leave();
    let fifth = await look('page-5');
    // The server hears in its own time that a page has left.
    while (fifth.status === 409) fifth = await look('page-5');
    expect(fifth.status).toBe(200);
    expect(viewers.pids.length).toBeLessThanOrEqual(4);
  } finally {
    viewers.close();
    pictures.close();
  }
});

test('a run whose timeline’s media left the library says what to do', async () => {
  const gone = await scannedClip({ ...smallIntra, file: 'small/TW_TEST_0901.mov' });
  const id = await createTimeline(cutOf(gone));
  const [test] = await startScrub({
    timelineId: id,
    clipId: null,
    read: 'originals',
    volumeId: null,
    threads: 0,
    depth: 'kept' as const,
    fields: 'woven' as const,
    warm: true,
    scale: 'quarter',
    decodeOn: [] as never[],
    cache: 'past' as const,
    underWay: 1,
    gestures: ['jumps'],
    gestureId: null,
    seed: 1,
    speed: 4,
  });
  await removeVolume(gone.volumeId);
  await expect(
    startScrub({
      timelineId: id,
      clipId: null,
      read: 'originals',
      volumeId: null,
      threads: 0,
      depth: 'kept' as const,
      fields: 'woven' as const,
      warm: true,
      scale: 'quarter',
      decodeOn: [] as never[],
      cache: 'past' as const,
      underWay: 1,
      gestures: ['jumps'],
      gestureId: null,
      seed: 1,
      speed: 4,
    }),
  ).rejects.toThrow('Relink them first');
  await cancelTrial(test!);
});
