import '../platform/leash';
import { fileURLToPath } from 'node:url';
import type PgBoss from 'pg-boss';
import { listPlansByStatus } from '@/db/queries/plans';
import { getRig, saveDevices, saveRig, saveRunner } from '@/db/queries/rigs';
import { listTrialIds } from '@/db/queries/trials';
import { listVolumes } from '@/db/queries/volumes';
import { holdRigLock } from '@/db/rigLock';
import { readRigIdentity, thisRigId } from '@/engine/rig';
import { removeTestFiles } from '@/engine/storage/testFile';
import { publish, subscribe } from '../platform/events';
import { openQueue, queueName, sendTo, type RigJob } from '../platform/queue';
import { LoadMeter } from './shared/loadMeter';
import { announceLoad } from './shared/measuring';
import { MediaReader } from './shared/mediaReader';
import { retryWhileAway } from './shared/retryWhileAway';
import { PlanRun, reopenPlan } from './planRun';
import { PictureServer } from './pictureServer';
import { makePreviews } from './shared/previews';
import { scanVolume } from './shared/scan';
import { closeOrphan, TrialRun } from './trialRun';
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

type Run = TrialRun | PlanRun<TrialRun>;
let current: Run | null = null;
let trialPid: number | null = null;

/** One runner per rig: waits while another has it, and takes it anew when the database comes back. */
function beTheRunner(rigId: string): Promise<void> {
  return retryWhileAway(() => holdRigLock(rigId, () => void beTheRunner(rigId)));
}

/** Trials that were running when a runner died are closed with what they saved, and test files that lie about are removed. */
async function closeOrphans(rigId: string): Promise<void> {
  for (const { id } of await listTrialIds({ rigId, statuses: ['running'] })) await closeOrphan(id);
  for (const { id } of await listPlansByStatus(rigId, ['running'])) await reopenPlan(id);
  for (const { path } of await listVolumes(rigId)) await removeTestFiles(path);
}

const lostJobMs = 10_000;

/** Gives queued trials whose job was lost (the server died between the two) a job again. */
async function requeue(boss: PgBoss, rigId: string): Promise<void> {
  if (current) return;
  const isLost = (row: { createdAt: Date }) => Date.now() - row.createdAt.getTime() > lostJobMs;
  for (const row of (await listTrialIds({ rigId, statuses: ['queued'] })).filter(isLost))
    await sendTo(boss, rigId, { kind: 'trial', trialId: row.id });
  for (const row of (await listPlansByStatus(rigId, ['queued'])).filter(isLost))
    await sendTo(boss, rigId, { kind: 'plan', trialId: row.id });
}

async function doJob(
  boss: PgBoss,
  rigId: string,
  job: RigJob,
  run: (trialId: string) => TrialRun,
): Promise<void> {
  switch (job.kind) {
    case 'scan':
      await retryWhileAway(() => scanVolume(job.volumeId, reader));
      await sendTo(boss, rigId, { kind: 'previews' });
      return;
    case 'previews':
      if (await retryWhileAway(() => makePreviews(rigId, reader))) await sendTo(boss, rigId, job);
      return;
    case 'devices':
      await lookAtDevices(rigId);
      return;
    default:
      current = job.kind === 'plan' ? new PlanRun(job.trialId, run) : run(job.trialId);
      // A viewer that plays beside a measurement would be measured with it.
      viewers.pause();
      try {
        await current.run();
        if (current instanceof TrialRun && current.kind === 'renditions')
          await sendTo(boss, rigId, { kind: 'previews' });
      } finally {
        current = null;
        viewers.resume();
      }
  }
}

/** What measures at this moment: the trial that a plan has under way, or the one by itself. */
function measuringNow(): TrialRun | null {
  return current instanceof PlanRun ? current.inner : current;
}

/** Tries the decode devices out in the process that may end, and notes them. */
async function lookAtDevices(rigId: string): Promise<void> {
  const devices = await reader.ask({ kind: 'devices' }).catch(() => null);
  if (devices) await retryWhileAway(() => saveDevices(rigId, devices));
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
  await retryWhileAway(async () =>
    saveRig(
      rigId,
      await readRigIdentity(),
      (await getRig(rigId))?.name ?? process.env.NAVVY_RIG_NAME ?? 'This rig',
    ),
  );
  await beTheRunner(rigId);
  await retryWhileAway(() => closeOrphans(rigId));
  const boss = await retryWhileAway(() => openQueue(rigId, 'runner'));
  pictures.onViewersChanged = (trialId, count) => {
    const now = measuringNow();
    if (now?.trialId === trialId) now.setViewers(count);
  };
  subscribe((event) => {
    if (event.type !== 'cancel' && event.type !== 'pause' && event.type !== 'skip') return;
    const meant = [current, measuringNow()].find((one) => one?.trialId === event.trialId);
    if (event.type === 'cancel') meant?.cancel();
    else if (event.type === 'pause') meant?.pause();
    else if (meant instanceof PlanRun) meant.skip();
  });
  const parts = {
    processPath,
    watchdogMs,
    pictures,
    reader,
    onTrialPid: (pid: number | null) => {
      trialPid = pid;
    },
  };
  const beat = () => saveRunner({ rigId, pid: process.pid, picturePort, trialPid }).catch(() => undefined);
  await beat();
  setInterval(beat, heartbeatMs);
  setInterval(reportIdleLoad(), heartbeatMs);
  await boss.work<RigJob>(queueName(rigId), { batchSize: 1, pollingIntervalSeconds: 0.5 }, async (jobs) => {
    for (const { data } of jobs) await doJob(boss, rigId, data, (trialId) => new TrialRun(trialId, parts));
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
