import { existsSync } from 'node:fs';
import { mkdir, readdir, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import type { ClipWithVolume } from '@/db/queries/clips';
import { saveDevices } from '@/db/queries/rigs';
import { removeTrial, saveRecord, updateTrial } from '@/db/queries/trials';
import { smallIntra } from '@/demo/smallClips';
import { smallClip } from '@/engine/testing/testTrial';
import { probeClip } from '@/engine/media/probe';
import { thisRigId } from '@/engine/rig';
import { aheadFolder } from '@/engine/task/aheadFile';
import { scratchFolder } from '@/engine/task/scratch';
import { closeOrphan } from '../runner/trialRun';
import { plainChoice } from '@/core/tasks/exportCodecs';
import { forgetDelivery, keepDelivery, readTaskChoices } from './tasks';
import { readTrialList } from '../trials/trialList';
import { readTrialPage } from '../trials/trialPage';
import { requireTrial } from '../platform/trialQueue';
import { startTrials } from '../kinds/trialStart';
import { recordCsv } from '../kinds/recordCsv';
import { emptyVolume, measureTrial, onTestDatabase, scannedClip } from '../testing/testDatabase';

onTestDatabase();

let clip: ClipWithVolume;
beforeAll(async () => {
  await smallClip(smallIntra);
  clip = await scannedClip(smallIntra);
});

const review = {
  kind: 'export',
  codec: 'h264',
  picture: '8-bit 4:2:0',
  control: 'quality',
  quality: 26,
  speed: 'fastest',
};

const exportTo = async (targetVolumeId: string, change: object = {}) => {
  const [id] = await startTrials({ ...review, clipId: clip.id, targetVolumeId, ...change });
  return id;
};
const exported = (id: string) => requireTrial(id, ['export']);

test('an export is timed, proved, judged, listed, and leaves what was to be kept', async () => {
  const volume = await emptyVolume();
  const id = await exportTo(volume.id, { to: 60, keep: true });
  await measureTrial(id);
  const { status, outcome, summary, record, progress } = await exported(id);
  expect({ status, outcome }).toEqual({
    status: 'done',
    outcome: expect.stringMatching(
      /^Exported 2\.5.s of media in .* times its length \(.*x real time\)\. /,
    ) as string,
  });
  expect(summary).toMatchObject({ frames: 60, total: 60, mediaSeconds: 2.5, proved: true });
  expect(summary!.outputBytes).toBeGreaterThan(1_000);
  expect(summary!.bytesRead).toBeGreaterThan(10_000);
  expect(summary!.held!.agreement).toBeGreaterThan(0);
  expect(record!.proof!.check).toMatchObject({ method: 'frame code', same: 60 });
  expect(progress).toMatchObject({ phase: 'proving', frames: 60, total: 60 });
  expect(await readdir(volume.folder)).toEqual(['exports']);
  const made = await probeClip(join(volume.folder, summary!.keptAs!));
  expect(made).toMatchObject({ frames: 60, format: { codec: 'H.264', rate: smallIntra.rate } });
  const { trials } = await readTrialList({ kind: 'export' });
  expect(trials[0]).toMatchObject({ id, answer: outcome });
  const { csv } = await recordCsv(id);
  expect(csv.split('\n')[0]).toContain('encodeBusyUs');
  expect(csv).not.toMatch(/undefined|NaN/);
});

test('an export on a simulated encoder is prepared, measured, and marked; nothing of that stays', async () => {
  const volume = await emptyVolume();
  const neap = { device: 'stand-in-neap', speed: null, to: 30 };
  await expect(exportTo(volume.id, { ...neap, device: 'device-nobody' })).rejects.toMatchObject({
    field: 'device',
  });
  const real = { id: 'device-vaapi', name: 'vaapi', simulated: false, usable: true, about: '' };
  await saveDevices(await thisRigId(), [
    { ...real, encodes: [{ codec: 'av1', picture: '10-bit 4:2:0' }] },
    { ...real, id: 'device-vulkan', name: 'vulkan' },
  ]);
  expect((await readTaskChoices()).encodeDevices.map(({ id }) => id)).toEqual([
    'device-vaapi',
    'stand-in-neap',
    'stand-in-spring',
  ]);
  await expect(exportTo(volume.id, { ...neap, picture: '10-bit 4:2:0' })).rejects.toMatchObject({
    field: 'device',
  });
  await expect(exportTo(volume.id, { ...neap, speed: 'fast' })).rejects.toMatchObject({ field: 'speed' });
  const id = await exportTo(volume.id, neap);
  const pids = await measureTrial(id);
  expect(new Set(pids.filter((pid) => pid !== null)).size).toBe(2); // one that prepares, one that is measured
  const trial = await exported(id);
  expect(trial).toMatchObject({ status: 'done', simulated: true });
  expect(trial.summary).toMatchObject({ frames: 30, proved: true });
  expect(trial.record!.made!.encoder).toBe('Neap (simulated)');
  expect(existsSync(aheadFolder(id))).toBe(false);
  const page = await readTrialPage(id);
  expect(JSON.stringify(page)).toContain('Neap (simulated)');

  const cancelled = await exportTo(volume.id, neap);
  await measureTrial(cancelled, (run) => run.cancel());
  expect(await exported(cancelled)).toMatchObject({ status: 'cancelled', conditions: null, record: null });
  expect(existsSync(aheadFolder(cancelled))).toBe(false);
});

test('what cannot be written so is refused with the field at fault, and nothing is queued', async () => {
  const { id } = await emptyVolume();
  await expect(exportTo(id, { picture: '10-bit 4:4:4' })).rejects.toMatchObject({ field: 'picture' });
  await expect(exportTo(id, { control: 'rate' })).rejects.toMatchObject({ field: 'megabits' });
  await expect(exportTo(id, { from: 500 })).rejects.toMatchObject({ field: 'from' });
  await expect(exportTo('nowhere')).rejects.toMatchObject({ status: 404 });
});

test('an export whose runner died says how far it was, and what it had written goes', async () => {
  const volume = await emptyVolume();
  const id = await exportTo(volume.id);
  await updateTrial(id, ['queued'], {
    status: 'running',
    progress: {
      phase: 'working',
      frames: 209,
      total: 240,
      framesPerSecond: 30,
      msLeft: 1_000,
      spreadMs: null,
      busiest: 'encode',
    },
  });
  const scratch = scratchFolder(volume.folder, id);
  await mkdir(scratch);
  await writeFile(join(scratch, 'navvy-scratch.txt'), 'marked');
  await writeFile(join(scratch, 'output.mp4'), 'half of it');
  await closeOrphan(id);
  expect((await exported(id)).outcome).toMatch(
    /^The runner stopped while this trial ran\. Stopped at 87\s%, frame 209, while encoding\.$/,
  );
  expect(await readdir(volume.folder)).toEqual([]);
});

test('an output that is not what it should be is no result: its figures do not compare', async () => {
  const { id: volumeId } = await emptyVolume();
  const id = await exportTo(volumeId, { to: 30 });
  await measureTrial(id);
  const { record, conditions } = await exported(id);
  const proof = { ...record!.proof!, problems: ['it holds 29 frames in place of 30'] };
  await updateTrial(id, ['done'], { status: 'running', conditions });
  await saveRecord(id, { ...record!, proof });
  await closeOrphan(id);
  const row = await exported(id);
  expect(row.summary!.proved).toBe(false);
  const { trials } = await readTrialList({ kind: 'export' });
  expect(trials.find((one) => one.id === id)!.values).toEqual({});
});

test('what is asked for again after a bad end is a further attempt, and all stay', async () => {
  const volume = await emptyVolume();
  const first = await exportTo(volume.id, { to: 20 });
  await expect(exportTo(volume.id, { to: 20, attemptOf: first })).rejects.toMatchObject({
    field: 'attemptOf',
  }); // it waits
  await measureTrial(first, (_, pid) => process.kill(pid, 'SIGKILL'));
  expect((await exported(first)).status).toBe('crashed');
  const second = await exportTo(volume.id, { to: 20, attemptOf: first });
  await updateTrial(second, ['queued'], { status: 'failed' });
  const third = await exportTo(volume.id, { to: 20, attemptOf: second });
  await measureTrial(third);
  const { attempts } = await readTrialPage(second);
  expect(attempts).toEqual([
    { id: first, kind: 'export', status: 'crashed' },
    { id: second, kind: 'export', status: 'failed' },
    { id: third, kind: 'export', status: 'done' },
  ]);
  // The first may be removed: the others still belong together.
  await removeTrial(first);
  expect((await readTrialPage(third)).attempts.map(({ id }) => id)).toEqual([second, third]);
  await expect(exportTo(volume.id, { attemptOf: third })).rejects.toMatchObject({ field: 'attemptOf' });
  await expect(exportTo(volume.id, { attemptOf: 'gone' })).rejects.toMatchObject({ field: 'attemptOf' });
  const alone = await exportTo(volume.id, { to: 20 });
  expect((await readTrialPage(alone)).attempts).toEqual([{ id: alone, kind: 'export', status: 'queued' }]);
});

test('an analysis is worked, proved and told with what it found; it lacks nothing that it needs', async () => {
  const volume = await emptyVolume();
  const ask = async (body: object) => {
    const [id] = await startTrials({
      kind: 'analysis',
      clipId: clip.id,
      targetVolumeId: volume.id,
      to: 20,
      ...body,
    });
    await measureTrial(id);
    return requireTrial(id, ['analysis']);
  };
  const tracked = await ask({ work: 'track', points: 50, keep: true });
  expect(tracked.outcome).toMatch(
    /^Tracked points through 833.ms of media in .*\. \d+ of \d+ points were followed to the end, [\d.]+ pixels a picture\.$/,
  );
  expect(tracked.summary!.found!.points!.found).toBeGreaterThan(10);
  expect(await readdir(join(volume.folder, 'analyses'))).toHaveLength(1);
  const slow = await ask({ work: 'blend', factor: 4 });
  expect(slow.summary).toMatchObject({ frames: 77, total: 77, proved: true });
  expect(slow.outcome).toMatch(/^Blended 3\.2.s of slow motion in /);
  const { trials } = await readTrialList({ kind: 'analysis' });
  expect(trials.map(({ answer }) => answer)).toEqual([slow.outcome, tracked.outcome]);
  await expect(ask({ work: 'slow-motion' })).rejects.toMatchObject({ field: 'factor' });
  await expect(ask({ work: 'slow-motion', factor: 3 })).rejects.toMatchObject({ field: 'factor' });
  await expect(ask({ work: 'track' })).rejects.toMatchObject({ field: 'points' });
  await expect(ask({ work: 'matte' })).rejects.toMatchObject({ field: 'colour' });
  await expect(ask({ work: 'matte', colour: 'green' })).rejects.toMatchObject({ field: 'colour' });
  await expect(ask({ work: 'matte', colour: '' })).rejects.toMatchObject({ field: 'colour' });
  await expect(ask({ work: 'matte', colour: '#00b140' })).rejects.toMatchObject({ field: 'tolerance' });
  // What a work has no use for is no condition of it, and changes nothing.
  const still = await ask({ work: 'stabilise', factor: 4, points: 9, colour: '#00b140', tolerance: 0.2 });
  expect(still.settings).toMatchObject({ factor: null, points: null, colour: null, tolerance: null });
  expect(still.summary).toMatchObject({ frames: 20, total: 20, proved: true });
});

test('a way of writing is kept under a name, replaced under it, and forgotten; our own stay as they are', async () => {
  const choice = { ...plainChoice, codec: 'h264', quality: 30, speed: 'fast' } as const;
  const id = await keepDelivery({ ...choice, name: 'Rushes for the director' });
  expect(await keepDelivery({ ...choice, quality: 28, name: 'Rushes for the director' })).toBe(id);
  const { deliveries } = await readTaskChoices();
  expect(deliveries).toEqual([{ id, name: 'Rushes for the director', choice: { ...choice, quality: 28 } }]);
  await expect(keepDelivery({ ...choice, name: 'review COPY' })).rejects.toMatchObject({ field: 'name' });
  await expect(keepDelivery({ ...choice, quality: 90, name: 'x' })).rejects.toMatchObject({
    field: 'quality',
  });
  await forgetDelivery(id);
  await expect(forgetDelivery(id)).rejects.toMatchObject({ status: 404 });
});
