import { mediaRefOf } from '@/core/timeline/mediaRef';
import { mkdir, readdir, rm, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { playedKinds } from '@/core/kinds/kinds';
import { trialConditions } from '@/core/kinds/kinds';
import { rational } from '@/core/time/rational';
import { emptyTimeline, type Timeline } from '@/core/timeline/model';
import { listClips, updateClips, type ClipWithVolume } from '@/db/queries/clips';
import { updateTrial } from '@/db/queries/trials';
import { smallIntra } from '@/demo/smallClips';
import { smallClip } from '@/engine/testing/testTrial';
import { median } from '@/core/stats/quantiles';
import { probeClip } from '@/engine/media/probe';
import { thisRigId } from '@/engine/rig';
import { prerenderFolder, readPrerenders, removePrerender } from './prerenders';
import { closeOrphan } from '../runner/trialRun';
import { scanVolume } from '../runner/shared/scan';

import { createTimeline, deleteTimeline, requireTimeline, saveDocument } from './timelines';
import { requireTrial } from '../platform/trialQueue';
import { loadTrace } from '../trials/traces';
import { startTrials } from '../kinds/trialStart';
import { emptyVolume, measureTrial, onTestDatabase, scannedClip, testReader } from '../testing/testDatabase';

onTestDatabase();

let clip: ClipWithVolume;
beforeAll(async () => {
  await smallClip(smallIntra);
  clip = await scannedClip(smallIntra);
});

/** Two stretches of a clip with a blur on each, 48 slots. */
function graded(): Timeline {
  const ref = mediaRefOf(clip)!;
  const item = (id: string, start: number, first: number) => ({
    id,
    name: clip.path,
    start,
    length: 24,
    source: { kind: 'clip' as const, media: 'm', in: first, speed: rational(1) },
    // So much that what they take stands far above all else.
    effects: Array.from({ length: 6 }, (_, at) => ({
      id: `${id}-blur${at}`,
      on: true,
      kind: 'blur' as const,
      radius: 0.02,
    })),
  });
  const base = emptyTimeline('Tidewrack, pre-rendered', ref.rate, ref.width, ref.height);
  return {
    ...base,
    tracks: [{ ...base.tracks[0]!, items: [item('a', 0, 30), item('b', 24, 90)] }],
    media: { m: ref },
  };
}

const render = async (timelineId: string, targetVolumeId: string, change: object = {}) => {
  const [id] = await startTrials({
    kind: 'pre-render',
    timelineId,
    intermediate: 'prores-lt',
    targetVolumeId,
    ...change,
  });
  await measureTrial(id);
  return id;
};
const play = async (timelineId: string, change: object) => {
  const [id] = await startTrials({ kind: 'playback', timelineId, scale: 'full', ...change });
  return id;
};
const rowsOf = async (id: string) => readPrerenders(id, (await requireTimeline(id)).document);

test('a part is rendered, proved, and used only by runs that are told to; an edit of it makes it stale', async () => {
  const timelineId = await createTimeline(graded());
  const volume = await emptyVolume();
  await expect(play(timelineId, { prerendered: true })).rejects.toMatchObject({
    status: 409,
    field: 'prerendered',
  });
  const made = await render(timelineId, volume.id, { from: 12, to: 36 });
  const { status, summary, record, subject } = await requireTrial(made, ['pre-render']);
  expect({ status, proved: summary?.proved, frames: summary?.frames }).toEqual({
    status: 'done',
    proved: true,
    frames: 24,
  });
  expect(record?.proof).toMatchObject({ frames: 24, problems: [] });
  const [row] = await rowsOf(timelineId);
  expect(row).toMatchObject({ from: 12, to: 36, state: 'current', read: 'originals', trialId: made });
  const probed = await probeClip(join(volume.folder, row!.path));
  expect(probed).toMatchObject({
    frames: 24,
    format: { codec: 'ProRes', rate: subject.timeline.rate },
  });
  // It is no media: neither a list nor a scan has it.
  await scanVolume(volume.id, await testReader());
  expect((await listClips(await thisRigId())).map(({ id }) => id)).not.toContain(row!.id);
  expect((await rowsOf(timelineId))[0]!.state).toBe('current');

  const plainRun = await play(timelineId, {});
  const usingRun = await play(timelineId, { prerendered: true });
  for (const id of [plainRun, usingRun]) await measureTrial(id);
  const [anew, used] = await Promise.all([plainRun, usingRun].map((id) => requireTrial(id, playedKinds)));
  expect([anew, used].map((trial) => trial!.status)).toEqual(['done', 'done']);
  const told = [anew, used].map((trial) => trialConditions(trial!)['From pre-rendered']);
  expect(told).toEqual(['nothing', '24 of 48 slots']);
  const readOf = (trial: typeof used) =>
    Object.values(trial!.subject.timeline!.media).map(({ role }) => role);
  expect([readOf(anew), readOf(used)]).toEqual([['original'], ['original', 'pre-render']]);
  expect(used!.summary).toMatchObject({ slots: 48, wrong: 0 });
  // Half of the slots have no blur to work out any more; all are of one run, whatever the machine was like.
  const { processStart, processEnd } = await loadTrace(usingRun);
  const times = Array.from(processEnd, (end, slot) => end - (processStart[slot] ?? Number.NaN));
  const inPart = (_: number, slot: number) => slot >= 12 && slot < 36;
  const worked = (us: number) => !Number.isNaN(us);
  expect(median(times.filter(inPart).filter(worked))).toBeLessThan(
    median(times.filter((us, slot) => !inPart(us, slot)).filter(worked)) * 0.8,
  );

  // Of a stretch that was rendered whole, the clip is not read at all; but for its sound, where it has some that goes along.
  const stretch = { prerendered: true, from: 12, to: 30 };
  const within = await play(timelineId, stretch);
  const readBy = async (id: string) => readOf(await requireTrial(id, playedKinds));
  expect(await readBy(within)).toEqual(['pre-render']);
  await updateClips([clip.id], { sound: { label: 'stereo PCM' } as ClipWithVolume['sound'] });
  expect(await readBy(await play(timelineId, stretch))).toEqual(['original', 'pre-render']);
  expect(await readBy(await play(timelineId, { ...stretch, sound: 'off' }))).toEqual(['pre-render']);
  await updateClips([clip.id], { sound: null });
  await expect(play(timelineId, { prerendered: true, from: 40 })).rejects.toThrow('Nothing of this stretch');
  await expect(play(timelineId, { prerendered: true, read: 'proxies' })).rejects.toThrow(
    '1 made of originals',
  );

  const { document, revision } = await requireTimeline(timelineId);
  const wider: Timeline = {
    ...document,
    tracks: document.tracks.map((track) => ({
      ...track,
      items: track.items.map((item) =>
        item.id === 'b'
          ? { ...item, effects: [{ ...item.effects[0]!, radius: 0.05 } as (typeof item.effects)[0]] }
          : item,
      ),
    })),
  };
  const saved = await saveDocument(timelineId, { revision, document: wider });
  expect((await rowsOf(timelineId))[0]!.state).toBe('stale');
  await expect(play(timelineId, { prerendered: true })).rejects.toThrow('1 stale');
  // What was asked for before goes on with what it was asked for.
  await measureTrial(within);
  expect((await requireTrial(within)).status).toBe('done');
  await saveDocument(timelineId, { revision: saved.revision, document: document });
  expect((await rowsOf(timelineId))[0]!.state).toBe('current');
  await rm(join(volume.folder, row!.path));
  expect((await rowsOf(timelineId))[0]!.state).toBe('missing');
  await expect(play(timelineId, { prerendered: true })).rejects.toThrow('1 missing');
});

test('an export from what was rendered has the pictures of one that works all out anew, and all sound', async () => {
  const timelineId = await createTimeline(graded());
  const volume = await emptyVolume();
  await render(timelineId, volume.id, { intermediate: 'prores-hq' });
  const ask = {
    kind: 'export',
    timelineId,
    codec: 'ffv1',
    picture: '10-bit 4:2:2',
    control: 'lossless',
    sound: 'pcm',
    targetVolumeId: volume.id,
    prerendered: true,
    likeness: true,
  };
  const [id] = await startTrials(ask);
  await measureTrial(id);
  const { status, summary, record, subject } = await requireTrial(id, ['export']);
  expect(status).toBe('done');
  expect(summary).toMatchObject({ frames: 48, proved: true, ssim: 1 });
  expect(subject.timeline.course.prerendered).toEqual([
    { from: 0, to: 48, origin: 0, media: expect.stringMatching(/^prerender-/) as string },
  ]);
  // Its pictures come from the pre-render alone, its sound from the clip.
  expect(Object.values(subject.timeline.media).map(({ role }) => role)).toEqual(['original', 'pre-render']);
  expect(record!.made!.soundSources).toBe(clip.identity!.audio.length > 0 ? 1 : 0);
});

test('one made anew takes the place of the one before; removing it, or its timeline, removes the file', async () => {
  const timelineId = await createTimeline(graded());
  const volume = await emptyVolume();
  const files = async () => readdir(join(volume.folder, prerenderFolder));
  await render(timelineId, volume.id, { to: 12, intermediate: 'mjpeg' });
  await render(timelineId, volume.id, { to: 12, intermediate: 'mjpeg' });
  expect([await rowsOf(timelineId), await files()].map((list) => list.length)).toEqual([1, 1]);
  await render(timelineId, volume.id, { to: 12, intermediate: 'dnxhr-sq' });
  expect(await files()).toHaveLength(2);
  const [newest] = await rowsOf(timelineId);
  expect(newest!.intermediate).toBe('dnxhr-sq');
  await removePrerender(timelineId, newest!.id);
  await expect(removePrerender(timelineId, newest!.id)).rejects.toMatchObject({ status: 404 });
  expect(await files()).toHaveLength(1);
  await deleteTimeline(timelineId);
  expect(await files()).toEqual([]);
});

test('one whose runner died leaves nothing, and does not take what others rendered', async () => {
  const timelineId = await createTimeline(graded());
  const volume = await emptyVolume();
  await render(timelineId, volume.id, { to: 12, intermediate: 'mjpeg' });
  const [id] = await startTrials({
    kind: 'pre-render',
    timelineId,
    intermediate: 'mjpeg',
    targetVolumeId: volume.id,
  });
  await updateTrial(id, ['queued'], { status: 'running' });
  const folder = join(volume.folder, prerenderFolder);
  await mkdir(folder, { recursive: true });
  const [kept] = await readdir(folder);
  await writeFile(join(folder, `Tidewrack_mjpeg_${id}.mov`), 'whole, but never taken in');
  await closeOrphan(id);
  expect(await readdir(folder)).toEqual([kept]);
  expect((await requireTrial(id)).status).toBe('interrupted');
});
