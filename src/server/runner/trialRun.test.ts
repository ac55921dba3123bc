import { rename } from 'node:fs/promises';
import { join } from 'node:path';
import { playedKinds } from '@/core/kinds/kinds';
import { connection } from '@/db/client';
import { removeVolume } from '@/db/queries/volumes';
import { getTrial, listSamples } from '@/db/queries/trials';
import { smallIntra, smallTenBit } from '@/demo/smallClips';
import { thisRigId } from '@/engine/rig';
import { publish, subscribe, type NavvyEvent } from '../platform/events';
import { openQueue, queueName, sendJob, type RigJob } from '../platform/queue';
import type { PictureServer } from './pictureServer';
import { loadTrace } from '../trials/traces';
import { startTrials } from '../kinds/trialStart';
import type { TrialRow } from '@/db/kinds';
import { emptyVolume, measureTrial, scannedClip, storedTrial, onTestDatabase } from '../testing/testDatabase';
import { startPlayback } from '../kinds/playback';

onTestDatabase();

function isAlive(id: number): boolean {
  try {
    return process.kill(id, 0);
  } catch {
    return false;
  }
}

test('a queued trial is measured, saved slot by slot, judged, and told about', async () => {
  const events: NavvyEvent[] = [];
  const unsubscribe = subscribe((event) => events.push(event));
  const id = await storedTrial(await scannedClip(smallTenBit));
  const pids = await measureTrial(id);
  unsubscribe();
  expect(pids).toEqual([expect.any(Number), null]);
  const row = (await getTrial(id, playedKinds))!;
  expect(row).toMatchObject({
    status: 'done',
    outcome: null,
    progress: { slotCount: 48 },
    summary: { slots: 48 },
    conditions: {
      run: { decoder: 'prores', afterwards: { frameCode: true } },
      rig: { logicalCores: expect.any(Number) as number },
    },
  });
  expect(row.conditions!.run!.afterwards!.scaleCosts!.full).toBeGreaterThan(0);
  expect(row.load!.trialMean).toBeGreaterThan(0);
  expect((await loadTrace(id)).length).toBe(48);
  const samples = await listSamples(id);
  expect(samples.length).toBeGreaterThan(0);
  for (const { trialLoad, othersLoad } of samples) expect(trialLoad + othersLoad).toBeLessThanOrEqual(1.5);
});

test('a trial runs once: what is no longer waiting is left alone', async () => {
  const id = await storedTrial(await scannedClip(smallTenBit), { status: 'cancelled' });
  expect(await measureTrial(id)).toEqual([]);
  expect((await getTrial(id))!.status).toBe('cancelled');
});

test('a trial whose clip left the library before its turn fails with what to do', async () => {
  const clip = await scannedClip(smallTenBit);
  const id = await storedTrial(clip);
  await removeVolume(clip.volumeId);
  await measureTrial(id);
  expect(await getTrial(id)).toMatchObject({
    status: 'failed',
    outcome: 'The clip of this trial is no longer in the library. Scan its volume and start the trial again.',
  });
});

test('a file that went before its turn is named, with what to do', async () => {
  const clip = await scannedClip(smallTenBit);
  const path = join(clip.volumePath, clip.path);
  const id = await storedTrial(clip);
  await rename(path, `${path}.away`);
  try {
    await measureTrial(id);
  } finally {
    await rename(`${path}.away`, path);
  }
  expect((await getTrial(id))!).toMatchObject({
    status: 'failed',
    outcome: expect.stringContaining('is not there. Check that the volume is connected') as string,
  });
});

test('a cancel that comes at once, or in the middle, ends the trial as cancelled', async () => {
  const clip = await scannedClip(smallIntra);
  const atOnce = await storedTrial(clip);
  await measureTrial(atOnce, (trial) => trial.cancel());
  expect((await getTrial(atOnce))!.status).toBe('cancelled');
  const later = await storedTrial(clip);
  await measureTrial(later, (trial) => setTimeout(() => trial.cancel(), 2_500));
  const row = (await getTrial(later))!;
  expect(row.status).toBe('cancelled');
  expect((await loadTrace(later)).length).toBeLessThan(240);
});

test('what fails unforeseen is that trial’s failure, with the detail, and leaves no process behind', async () => {
  const id = await storedTrial(await scannedClip(smallIntra));
  let pid: number | null = null;
  const pictures = {
    viewerCount: () => {
      throw new Error('out of handles');
    },
  } as unknown as PictureServer;
  await measureTrial(
    id,
    (_, own) => {
      pid = own;
    },
    { pictures },
  );
  expect(await getTrial(id)).toMatchObject({
    status: 'failed',
    outcome: 'Something failed inside Navvy. Start the trial again.',
    detail: expect.stringContaining('out of handles') as string,
    conditions: { rig: {} },
  });
  for (let tries = 0; isAlive(pid!); tries++) {
    expect(tries).toBeLessThan(100);
    await new Promise((resolve) => {
      setTimeout(resolve, 100);
    });
  }
});

test('under what a trial of any kind is measured stands before it measures', async () => {
  const clip = await scannedClip(smallIntra);
  const { id: volumeId } = await emptyVolume();
  for (const body of [
    {
      kind: 'playback',
      clipId: clip.id,
      scale: 'half',
      policy: 'hold-time',
      threads: 0,
      warm: false,
      depth: 'kept',
      fields: 'woven',
      meanwhile: 'nothing',
      sound: 'on',
      decodeOn: [] as never[],
      cache: 'past' as const,
      underWay: 1,
    },
    { kind: 'scrub', clipId: clip.id, gestures: ['step-forward'], seed: 1, speed: 4, scale: 'half' },
    { kind: 'decode-rate', clipIds: [clip.id], passSeconds: 0.2, passes: 1 },
    { kind: 'streams-carried', clipId: clip.id, seconds: 2, mostStreams: 2 },
    {
      kind: 'renditions',
      clipIds: [clip.id],
      presetId: 'mjpeg',
      raster: 'half',
      volumeId,
      folder: 'proxies',
    },
  ]) {
    const [id] = await startTrials(body);
    let before: Promise<TrialRow | null> | null = null;
    await measureTrial(id, (run) => {
      before ??= getTrial(id);
      run.cancel();
    });
    expect((await before!)?.conditions).toMatchObject({
      rig: { logicalCores: expect.any(Number) as number },
      rigState: { power: expect.any(String) as string },
    });
    expect((await getTrial(id))?.status).toBe('cancelled');
  }
});

test('events reach every listener, also after the database has dropped the connection', async () => {
  const heard: NavvyEvent[] = [];
  const unsubscribe = subscribe((event) => heard.push(event));
  const until = async (type: NavvyEvent['type'], event: NavvyEvent) => {
    for (let attempt = 0; attempt < 100 && !heard.some((found) => found.type === type); attempt++) {
      await publish(event);
      await new Promise((resolve) => {
        setTimeout(resolve, 100);
      });
    }
    return heard.some((found) => found.type === type);
  };
  expect(await until('cancel', { type: 'cancel', trialId: 'x' })).toBe(true);
  await connection().pool.query(
    "select pg_terminate_backend(pid) from pg_stat_activity where query like 'listen navvy%'",
  );
  expect(await until('plan', { type: 'plan', planId: 'x' })).toBe(true);
  unsubscribe();
});

test('work for a rig waits in the database until its runner takes it, one piece at a time', async () => {
  const rigId = await thisRigId();
  const clip = await scannedClip(smallTenBit);
  const boss = await openQueue(rigId, 'runner');
  await boss.purgeQueue(queueName(rigId)); // what other tests have left there
  const id = await startPlayback({
    clipId: clip.id,
    scale: 'quarter',
    policy: 'hold-time',
    threads: 0,
    warm: false,
    depth: 'kept',
    fields: 'woven',
    meanwhile: 'nothing',
    sound: 'on',
    decodeOn: [] as never[],
    cache: 'past' as const,
    underWay: 1,
  });
  await sendJob(rigId, { kind: 'scan', volumeId: clip.volumeId });
  const taken: RigJob[] = [];
  let atOnce = 0;
  await boss.work<RigJob>(queueName(rigId), { batchSize: 1, pollingIntervalSeconds: 0.5 }, async (jobs) => {
    atOnce = Math.max(atOnce, ++running);
    await new Promise((resolve) => {
      setTimeout(resolve, 50);
    });
    running--;
    taken.push(...jobs.map(({ data }) => data));
  });
  let running = 0;
  for (
    let attempt = 0;
    attempt < 100 && !taken.some((job) => job.kind === 'scan' && job.volumeId === clip.volumeId);
    attempt++
  )
    await new Promise((resolve) => {
      setTimeout(resolve, 100);
    });
  await boss.stop({ graceful: false, wait: true });
  expect(taken).toEqual(
    expect.arrayContaining([
      { kind: 'trial', trialId: id },
      { kind: 'scan', volumeId: clip.volumeId },
    ]),
  );
  expect(atOnce).toBe(1);
});
