import '../leash';
import pg from 'pg';
import { fileURLToPath } from 'node:url';
import type PgBoss from 'pg-boss';
import { databaseUrl } from '@/db/client';
import { getDecodeTrial, listDecodeTrialsByStatus } from '@/db/queries/decodeTrials';
import { listPlansByStatus } from '@/db/queries/plans';
import { listRenditionJobsByStatus } from '@/db/queries/renditions';
import { getRig, saveDevices, saveRig, saveRunner } from '@/db/queries/rigs';
import { listStorageTrialsByStatus } from '@/db/queries/storageTrials';
import { getTimelineTest, listTimelineTestsByStatus } from '@/db/queries/timelines';
import { listTrialsByStatus } from '@/db/queries/trials';
import { listVolumes } from '@/db/queries/volumes';
import { readRigIdentity, thisRigId } from '@/engine/rig';
import { removeTestFiles } from '@/engine/storage/testFile';
import { publish, subscribe } from '../events';
import { openQueue, queueName, sendTo, type RigJob } from '../queue';
import { closeDecodeTrial, DecodeTrialRun } from './decodeTrialRun';
import { LoadMeter } from './loadMeter';
import { announceLoad } from './measuring';
import { MediaReader } from './mediaReader';
import { persist } from './persist';
import { PlanRun, reopenPlan } from './planRun';
import { PictureServer } from './pictureServer';
import { makePreviews } from './previews';
import { closeRenditionJob, RenditionJobRun } from './renditionJobRun';
import { scanVolume } from './scan';
import { closeStorageTrial, StorageRun } from './storageRun';
import { closeTimelineTest, TimelineTestRun } from './timelineTestRun';
import { closeTrial, TrialRun } from './trialRun';
import { ViewerServer } from './viewerServer';

/**
 * The runner: takes the work of this rig from the queue, one piece at a time,
 * and watches over the trial process. Killed at any moment, it loses at most
 * the batch under way; at its next start it closes what was left open.
 */
const watchdogMs = Number(process.env.NAVVY_WATCHDOG_MS ?? 15_000);
const heartbeatMs = 2_000;
const processPath = (name: string) => fileURLToPath(new URL(`./${name}.mjs`, import.meta.url));
const viewers = new ViewerServer(processPath('viewer'));
const reader = new MediaReader(processPath('media'), watchdogMs);

type SingleRun = TrialRun | StorageRun | DecodeTrialRun | RenditionJobRun | TimelineTestRun;
type Run = SingleRun | PlanRun;
let current: Run | null = null;
let trialPid: number | null = null;

/** One runner per rig: holds a lock in the database as long as this process lives; waits when another has it. */
async function holdRigLock(rigId: string): Promise<void> {
  const client = new pg.Client({ connectionString: databaseUrl() });
  client.on('error', () => {
    void persist(() => holdRigLock(rigId));
  }); // the database went away and the lock with it
  await client.connect();
  await client.query('select pg_advisory_lock(hashtext($1))', [`navvy-runner-${rigId}`]);
}

/** Trials that were running when a runner died are closed with what they saved, and test files that lie about are removed. */
async function closeOrphans(rigId: string): Promise<void> {
  for (const row of await listTrialsByStatus(rigId, ['running'])) {
    await closeTrial(
      { ...row, charges: null },
      'interrupted',
      'The runner stopped while this trial ran.',
      null,
      row.load,
    );
    await publish({ type: 'trial-status', trialId: row.id, status: 'interrupted' });
  }
  for (const row of await listStorageTrialsByStatus(rigId, ['running'])) {
    const goesOn =
      row.kind === 'copy' ? ' Continue it: files that are whole stay, and it goes on after them.' : '';
    await closeStorageTrial(
      row,
      { kind: 'interrupted', message: `The runner stopped while this ran.${goesOn}` },
      row.load,
      null,
    );
  }
  for (const row of await listDecodeTrialsByStatus(rigId, ['running'])) {
    const trial = await getDecodeTrial(row.id);
    if (trial)
      await closeDecodeTrial(
        trial,
        { kind: 'interrupted', message: 'The runner stopped while this trial ran.' },
        row.load,
      );
  }
  for (const row of await listTimelineTestsByStatus(rigId, ['running'])) {
    const test = await getTimelineTest(row.id);
    if (test)
      await closeTimelineTest(
        test,
        { kind: 'interrupted', message: 'The runner stopped while this ran.' },
        row.load,
      );
  }
  for (const { id } of await listPlansByStatus(rigId, ['running'])) await reopenPlan(id);
  for (const job of await listRenditionJobsByStatus(rigId, ['running']))
    await closeRenditionJob(job, null, 'interrupted', job.load, job.workedMs);
  for (const { path } of await listVolumes(rigId)) await removeTestFiles(path);
}

const lostJobMs = 10_000;

/** Gives queued trials whose job was lost (the server died between the two) a job again. */
async function requeue(boss: PgBoss, rigId: string): Promise<void> {
  if (current) return;
  const isLost = (row: { createdAt: Date }) => Date.now() - row.createdAt.getTime() > lostJobMs;
  for (const row of (await listTrialsByStatus(rigId, ['queued'])).filter(isLost))
    await sendTo(boss, rigId, { kind: 'trial', trialId: row.id });
  for (const row of (await listStorageTrialsByStatus(rigId, ['queued'])).filter(isLost))
    await sendTo(boss, rigId, { kind: 'storage', trialId: row.id });
  for (const row of (await listDecodeTrialsByStatus(rigId, ['queued'])).filter(isLost))
    await sendTo(boss, rigId, { kind: 'decode', trialId: row.id });
  for (const row of (await listTimelineTestsByStatus(rigId, ['queued'])).filter(isLost))
    await sendTo(boss, rigId, { kind: 'timelineTest', trialId: row.id });
  for (const row of (await listPlansByStatus(rigId, ['queued'])).filter(isLost))
    await sendTo(boss, rigId, { kind: 'plan', trialId: row.id });
  for (const row of (await listRenditionJobsByStatus(rigId, ['queued'])).filter(isLost))
    await sendTo(boss, rigId, { kind: 'rendition', trialId: row.id });
}

async function doJob(boss: PgBoss, rigId: string, job: RigJob, pictures: PictureServer): Promise<void> {
  switch (job.kind) {
    case 'scan':
      await persist(() => scanVolume(job.volumeId, reader));
      await sendTo(boss, rigId, { kind: 'previews' });
      return;
    case 'previews':
      if (await persist(() => makePreviews(rigId, reader))) await sendTo(boss, rigId, job);
      return;
    case 'devices':
      await lookAtDevices(rigId);
      return;
    default:
      current = runOf(job, pictures);
      // A viewer that plays beside a measurement would be measured with it.
      viewers.pause();
      try {
        await current.run();
      } finally {
        current = null;
        viewers.resume();
      }
      if (job.kind === 'rendition') await sendTo(boss, rigId, { kind: 'previews' });
  }
}

function runOf({ kind, trialId }: Extract<RigJob, { trialId: string }>, pictures: PictureServer): Run {
  return kind === 'plan'
    ? new PlanRun(trialId, (step, id) => singleRun(step, id, pictures))
    : singleRun(kind, trialId, pictures);
}

/** What measures at this moment: the trial that a plan has under way, or the one by itself. */
function measuringNow(): SingleRun | null {
  return current instanceof PlanRun ? (current.inner as SingleRun | null) : current;
}

function singleRun(
  kind: Exclude<Extract<RigJob, { trialId: string }>['kind'], 'plan'>,
  trialId: string,
  pictures: PictureServer,
): SingleRun {
  const parts = {
    processPath: processPath(kind),
    watchdogMs,
    onTrialPid: (pid: number | null) => {
      trialPid = pid;
    },
  };
  switch (kind) {
    case 'trial':
      return new TrialRun(trialId, { ...parts, trialPath: parts.processPath, pictures });
    case 'storage':
      return new StorageRun(trialId, parts);
    case 'decode':
      return new DecodeTrialRun(trialId, parts);
    case 'timelineTest':
      return new TimelineTestRun(trialId, parts);
    case 'rendition':
      return new RenditionJobRun(trialId, { ...parts, reader });
  }
}

/** Tries the decode devices out in the process that may end, and notes them. */
async function lookAtDevices(rigId: string): Promise<void> {
  const devices = await reader.ask({ kind: 'devices' }).catch(() => null);
  if (devices) await persist(() => saveDevices(rigId, devices));
  await publish({ type: 'devices' });
}

/** Tells the load between trials. A trial tells its own; its time must not count as that of others afterwards. */
function reportIdleLoad(): () => void {
  let meter: LoadMeter | null = null;
  return () => {
    if (current) {
      meter = null;
      return;
    }
    if (!meter) {
      meter = new LoadMeter(() => viewers.pids, { byName: false });
      return;
    }
    const sample = meter.sample();
    if (sample) announceLoad(sample);
  };
}

async function main(): Promise<void> {
  const rigId = await thisRigId();
  const pictures = new PictureServer((request, response) => viewers.answer(request, response));
  const picturePort = await pictures.listen();
  await persist(async () =>
    saveRig(
      rigId,
      await readRigIdentity(),
      (await getRig(rigId))?.name ?? process.env.NAVVY_RIG_NAME ?? 'This rig',
    ),
  );
  await persist(() => holdRigLock(rigId));
  await persist(() => closeOrphans(rigId));
  const boss = await persist(() => openQueue(rigId, 'runner'));
  pictures.onViewersChanged = (trialId, count) => {
    const now = measuringNow();
    if (now instanceof TrialRun && now.trialId === trialId) now.setViewers(count);
  };
  subscribe((event) => {
    if (event.type !== 'cancel' && event.type !== 'pause' && event.type !== 'skip') return;
    const meant = [current, measuringNow()].find((run) => run?.trialId === event.trialId);
    if (event.type === 'cancel') meant?.cancel();
    else if (event.type === 'skip') {
      if (meant instanceof PlanRun) meant.skip();
    } else if (meant instanceof StorageRun || meant instanceof RenditionJobRun || meant instanceof PlanRun)
      meant.pause();
  });
  const beat = () => saveRunner({ rigId, pid: process.pid, picturePort, trialPid }).catch(() => undefined);
  await beat();
  setInterval(beat, heartbeatMs);
  setInterval(reportIdleLoad(), heartbeatMs);
  await boss.work<RigJob>(queueName(rigId), { batchSize: 1, pollingIntervalSeconds: 0.5 }, async (jobs) => {
    for (const { data } of jobs) await doJob(boss, rigId, data, pictures);
  });
  await sendTo(boss, rigId, { kind: 'devices' });
  await sendTo(boss, rigId, { kind: 'previews' });
  await requeue(boss, rigId);
  setInterval(() => {
    requeue(boss, rigId).catch(() => undefined);
  }, lostJobMs);
  process.stdout.write('Runner ready.\n');
}

// A trial process ends by itself when its runner does.
for (const signal of ['SIGINT', 'SIGTERM'] as const) process.on(signal, () => process.exit(0));
process.on('exit', () => {
  reader.stop();
  viewers.close();
});
process.on('unhandledRejection', (error) => {
  process.stderr.write(`Runner: ${String(error)}\n`);
});
await main();
