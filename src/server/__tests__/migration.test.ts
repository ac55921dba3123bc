import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { gunzipSync } from 'node:zlib';
import pg from 'pg';
import { closeConnection } from '@/db/client';
import { migrateDatabase } from '@/db/migrate';
import { listTrialTable } from '@/db/queries/trials';
import { getAnnotations } from '@/db/queries/results';
import { readBriefPage } from '../briefs';
import { exportBundle } from '../bundles';
import { readDecodeTrialPage } from '../decode';
import { readPlanPage } from '../plans';
import { readRenditionPage } from '../renditions';
import { blocksCsv, readStorageTrialPage, seriesOf } from '../storage';
import { requireTest } from '../timelineTests';
import { readTrialPage } from '../trials';
import { loadTrace } from '../traces';

/** A database that was measured into before kinds of trials came together (see `dumps/README.md`). */
const dump = join(process.cwd(), 'src/db/__tests__/dumps/before-kinds.sql.gz');
const migrations = join(process.cwd(), 'drizzle');
const rig = 'rig-of-the-dump';
/** Trials in it, by kind. */
const kept = {
  playback: '060716157d',
  cancelled: 'b39dc3fb45',
  timeline: '8be7121bd1',
  selfCheck: '6189e49126',
  decodeRate: '44687c2c8b',
  decodeSupport: '26cd637d6d',
  decodeStreams: '869dc9e76e',
  throughput: '6e7450a81b',
  carried: '41449845ab',
  copy: '8882fa0dad',
  scrub: '0885d696b4',
  ramp: 'b2fa2e9b7d',
  calibration: 'f53fe603e4',
  renditions: '47d7429bab',
  plan: '5a3f3e28c8',
};

const own = process.env.NAVVY_DATABASE_URL ?? '';
const name = `${new URL(own).pathname.slice(1)}_before`;
const url = own.replace(/[^/]+$/, name);

async function onServer(statement: string): Promise<void> {
  const client = new pg.Client({ connectionString: own });
  await client.connect();
  await client.query(statement).finally(() => client.end());
}

async function rowsOf<Row extends pg.QueryResultRow>(query: string): Promise<Row[]> {
  const client = new pg.Client({ connectionString: url });
  await client.connect();
  const { rows } = await client.query<Row>(query).finally(() => client.end());
  return rows;
}

beforeAll(async () => {
  await onServer(`drop database if exists ${name}`);
  await onServer(`create database ${name}`);
  await rowsOf(gunzipSync(readFileSync(dump)).toString('utf8'));
  await migrateDatabase(url, migrations);
  process.env.NAVVY_DATABASE_URL = url;
});

afterAll(async () => {
  await closeConnection();
  process.env.NAVVY_DATABASE_URL = own;
  await onServer(`drop database ${name}`);
});

test('playback trials are whole: what was measured, with its trace and what the rig did meanwhile', async () => {
  const { trial, ...around } = await readTrialPage(kept.playback);
  expect(trial).toMatchObject({
    kind: 'playback',
    status: 'done',
    rigId: rig,
    settings: { scale: 'quarter' },
  });
  expect(trial.summary?.slots).toBe(192);
  expect(trial.conditions?.run?.decoder).toBe('mjpeg');
  expect(trial.load?.pulse?.medianUs).toBeGreaterThan(0);
  const trace = await loadTrace(kept.playback);
  expect(trace.length).toBe(192);
  expect(trace.state.filter((state) => state === 1)).toHaveLength(trial.summary!.shown);
  expect(around.samples.length).toBeGreaterThan(8);
  expect(around.annotation?.note).toBe('The fan was loud.');
  const cancelled = (await readTrialPage(kept.cancelled)).trial;
  expect(cancelled.status).toBe('cancelled');
  expect(cancelled.outcome).toMatch(/^Cancelled/);
  expect((await readTrialPage(kept.timeline)).trial.subject.timeline?.id).toBe('timeline-demo-reel-one');
  expect((await readTrialPage(kept.selfCheck)).trial.selfCheck?.expected.length).toBeGreaterThan(5);
});

test('trials of decoding are whole', async () => {
  const rate = await readDecodeTrialPage(kept.decodeRate);
  expect(rate.trial).toMatchObject({ kind: 'rate', status: 'done', result: { kind: 'rate' } });
  expect(rate.trial.record?.passes.length).toBeGreaterThan(0);
  expect((await readDecodeTrialPage(kept.decodeSupport)).trial.result?.kind).toBe('support');
  expect((await readDecodeTrialPage(kept.decodeStreams)).trial.record?.steps.length).toBeGreaterThan(0);
});

test('trials of volumes are whole: their requests, and the files of a copy', async () => {
  const { trial } = await readStorageTrialPage(kept.throughput);
  expect(trial).toMatchObject({ kind: 'throughput', status: 'done', result: { kind: 'throughput' } });
  expect((await blocksCsv(kept.throughput)).split('\n').length).toBeGreaterThan(2);
  expect((await seriesOf(kept.carried)).series.length).toBeGreaterThan(0);
  expect((await readStorageTrialPage(kept.carried)).trial.result?.kind).toBe('streams');
  const copy = await readStorageTrialPage(kept.copy);
  expect(copy.trial.result?.kind).toBe('copy');
  const files = await rowsOf<{ outcome: string; xxh64: string | null }>(
    `select outcome, xxh64 from copy_files where trial_id = '${kept.copy}'`,
  );
  expect(files.length).toBeGreaterThan(0);
  expect(files.every(({ outcome, xxh64 }) => outcome !== 'failed' && xxh64 !== null)).toBe(true);
});

test('tests of timelines and renditions are whole', async () => {
  expect(await requireTest(kept.scrub)).toMatchObject({ status: 'done', result: { kind: 'scrub' } });
  expect(await requireTest(kept.ramp)).toMatchObject({ status: 'done', result: { kind: 'ramp' } });
  expect(await requireTest(kept.calibration)).toMatchObject({ status: 'done', result: { kind: 'costs' } });
  const { job, items } = await readRenditionPage(kept.renditions);
  expect(job).toMatchObject({ status: 'done', settings: { presetId: 'mjpeg', raster: 'quarter' } });
  expect(items).toMatchObject([{ status: 'made', sourcePath: 'kite-camera/TW_KITE_0038.mp4' }]);
});

test('notes, plans, series and the brief still know their trials', async () => {
  const notes = await getAnnotations([kept.playback, kept.throughput, kept.scrub]);
  expect(notes.get(kept.throughput)?.excluded).toBe('Another copy ran.');
  expect(notes.get(kept.scrub)?.note).toBe('By hand');
  const plan = await readPlanPage(kept.plan);
  expect(plan.plan).toMatchObject({ name: 'Proxies at a quarter', status: 'done' });
  const series = await rowsOf<{ id: string; steps: string; found: string }>(
    `select p.id, count(*) as steps, count(coalesce(t.id, s.id, d.id, x.id)) as found from plans p join plan_steps q on q.plan_id = p.id
     left join trials t on t.id = q.trial_id left join storage_trials s on s.id = q.trial_id
     left join decode_trials d on d.id = q.trial_id left join timeline_tests x on x.id = q.trial_id group by p.id`,
  );
  expect(series.length).toBe(5);
  expect(series.every(({ steps, found }) => Number(steps) > 0 && steps === found)).toBe(true);
  const [brief] = await rowsOf<{ id: string }>('select id from briefs');
  expect((await readBriefPage(brief!.id)).brief.document.cameras.length).toBeGreaterThan(0);
});

test('rigs that came in as bundles keep their results and where they are from, and go out again', async () => {
  const rigs = await rowsOf<{ id: string; name: string; imported: { simulated: boolean } | null }>(
    'select id, name, imported from rigs order by name',
  );
  expect(rigs.map(({ name: known, imported }) => [known, imported?.simulated ?? 'here'])).toEqual([
    ['Boathouse', false],
    ['Bollard', true],
    ['Quoin', true],
    ['Slipway', 'here'],
  ]);
  expect(await listTrialTable('rig-of-a-bundle', 'playback')).toHaveLength(7);
  const { bundle } = await exportBundle('rig-of-a-bundle');
  const { bundle: ofThisRig } = await exportBundle(rig);
  expect(bundle.playback).toHaveLength(8);
  for (const list of ['storage', 'decode', 'timelineTests'] as const) {
    expect(bundle[list].length).toBeGreaterThan(0);
    expect(ofThisRig[list].length).toBeGreaterThanOrEqual(bundle[list].length);
  }
});
