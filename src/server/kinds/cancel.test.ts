import { connection } from '@/db/client';
import type { ClipWithVolume } from '@/db/queries/clips';
import { smallIntra } from '@/demo/smallClips';
import { subscribe, type NavvyEvent } from '../platform/events';
import { actOnPlan, startPlan } from '../decide/plans';
import { cancelTrial, controlTrial, pauseTrial, resumeTrial } from './trialControls';
import { planInput } from '@/core/asked/plans';
import { emptyVolume, onTestDatabase, scannedClip } from '../testing/testDatabase';
import { decodeRateInput } from '@/core/kinds/decodeRate';
import { throughputInput } from '@/core/kinds/throughput';
import { copyInput } from '@/core/kinds/copy';
import { renditionInput } from '@/core/kinds/renditions';
import { requireTrial } from '../platform/trialQueue';
import { startCosts } from './calibration';
import { startDecodeRates } from './decodeRate';
import { startThroughput } from './throughput';
import { startCopy } from './copy';
import { startPlayback } from './playback';
import { startRenditions } from './renditions';

onTestDatabase();

let clip: ClipWithVolume;
const heard: NavvyEvent[] = [];
beforeAll(async () => {
  clip = await scannedClip(smallIntra);
  subscribe((event) => heard.push(event));
});

async function until(holds: () => Promise<boolean> | boolean): Promise<void> {
  for (let tries = 0; !(await holds()); tries++) {
    if (tries > 500) throw new Error('It did not come.');
    await new Promise((resolve) => {
      setTimeout(resolve, 20);
    });
  }
}

/** Does something to what waits, which the runner begins just then: its row is held until that waits for it. */
async function asItBegins(table: string, id: string, act: () => Promise<unknown>): Promise<void> {
  const runner = await connection().pool.connect();
  try {
    await runner.query('begin');
    await runner.query(`select 1 from ${table} where id = $1 for update`, [id]);
    const acting = act();
    await until(
      async () =>
        (
          await connection().pool.query(
            "select 1 from pg_stat_activity where datname = current_database() and wait_event_type = 'Lock'",
          )
        ).rowCount === 1,
    );
    await runner.query(`update ${table} set status = 'running' where id = $1`, [id]);
    await runner.query('commit');
    await acting;
  } finally {
    runner.release();
  }
}

const playback = {
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
} as const;
const throughput = async () =>
  startThroughput(
    await throughputInput.validate({
      volumeId: (await emptyVolume()).id,
      test: 'sequential-read',
      blockBytes: 2 ** 20,
      bytes: 2 ** 24,
      seconds: 20,
      repeats: 1,
    }),
  );
const copy = async () =>
  startCopy(
    await copyInput.validate({
      volumeId: clip.volumeId,
      destinations: [{ volumeId: (await emptyVolume()).id, folder: 'card' }],
    }),
  );
const renditions = async () =>
  startRenditions(
    await renditionInput.validate({
      clipIds: [clip.id],
      presetId: 'mjpeg',
      raster: 'half',
      volumeId: (await emptyVolume()).id,
      folder: 'proxies',
    }),
  );
const plan = async () =>
  startPlan(
    await planInput.validate({
      subjects: [{ kind: 'clip', id: clip.id }],
      volumeIds: [clip.volumeId],
      tests: ['playback'],
      scales: ['full'],
      repeats: 2,
    }),
  );

describe('what begins while it is cancelled is stopped, and not said to have ended', () => {
  test.each<readonly [string, string, () => Promise<string>, (id: string) => Promise<unknown>]>([
    ['playback', 'trials', () => startPlayback({ clipId: clip.id, ...playback }), cancelTrial],
    [
      'decoding',
      'trials',
      async () =>
        (
          await startDecodeRates(
            await decodeRateInput.validate({ clipIds: [clip.id], passSeconds: 0.2, passes: 1 }),
          )
        )[0]!,
      cancelTrial,
    ],
    ['throughput', 'trials', throughput, cancelTrial],
    ['renditions', 'trials', renditions, cancelTrial],
    [
      'effect costs',
      'trials',
      () => startCosts({ clipId: clip.id, timelineId: null, threads: 0 }),
      cancelTrial,
    ],
    ['a matrix', 'plans', plan, (id) => actOnPlan(id, { action: 'cancel', position: null, cell: null })],
    [
      'a matrix, paused',
      'plans',
      plan,
      (id) => actOnPlan(id, { action: 'pause', position: null, cell: null }),
    ],
  ])('%s', async (_name, table, start, cancel) => {
    const id = await start();
    await asItBegins(table, id, () => cancel(id));
    await until(() =>
      heard.some((event) => (event.type === 'cancel' || event.type === 'pause') && event.trialId === id),
    );
  });
});

test('what waits is paused before it begins, and goes on', async () => {
  const copied = await copy();
  await pauseTrial(copied);
  expect(await requireTrial(copied)).toMatchObject({
    status: 'paused',
    outcome: 'Paused before it began.',
  });
  await resumeTrial(copied);
  expect((await requireTrial(copied)).status).toBe('queued');
  const batch = await renditions();
  await pauseTrial(batch);
  expect(await requireTrial(batch)).toMatchObject({
    status: 'paused',
    outcome: 'Paused before it began.',
  });
  await resumeTrial(batch);
  expect((await requireTrial(batch)).status).toBe('queued');
});

test('what has ended is refused in words', async () => {
  const id = await startPlayback({ clipId: clip.id, ...playback });
  await cancelTrial(id);
  await expect(cancelTrial(id)).rejects.toMatchObject({
    status: 409,
    message: 'This trial has already ended.',
  });
  await expect(pauseTrial('none')).rejects.toMatchObject({ status: 404 });
  await expect(pauseTrial(id)).rejects.toThrow('Only copies, verifications and renditions can be paused.');
  await expect(resumeTrial(id)).rejects.toThrow('nothing left to do');
  await expect(controlTrial(id, 'hasOwnProperty')).rejects.toThrow('cancel, pause, resume');
});
