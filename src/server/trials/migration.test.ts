import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { gunzipSync } from 'node:zlib';
import pg from 'pg';
import { parseBundle } from '@/core/formats/bundle';
import { closeConnection } from '@/db/client';
import { migrateDatabase } from '@/db/migrate';
import { isOneOf, playedKinds, trialKinds, type TrialKind, taskPageKinds } from '@/core/kinds/kinds';
import { getCharges, listTrials } from '@/db/queries/trials';
import { getAnnotations } from '@/db/queries/results';
import { readBriefPage } from '../decide/briefs';
import { sha256 } from '@/engine/sha256';
import { exportBundle } from '../exchange/exportBundle';
import { readPlanPage } from '../decide/plans';
import { recordCsv } from '../kinds/recordCsv';
import { seriesOf } from '../library/storage';
import { readTrialList } from './trialList';
import { readTrialPage } from './trialPage';
import { offContract } from '../testing/contract';
import { loadTrace } from './traces';

/** A database that was measured into before kinds of trials came together (see `dumps/README.md`). */
const dump = join(process.cwd(), 'src/db/testing/dumps/before-kinds.sql.gz');
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

/** A trial's page with what it measured, by its kind. */
const pageOf = async <Kind extends TrialKind>(id: string, kind: Kind) => {
  const page = await readTrialPage(id, [kind]);
  expect(offContract(page, 'TrialAnswer')).toEqual([]);
  return page;
};

test('playback trials are whole: what was measured, with its trace and what the rig did meanwhile', async () => {
  const page = await readTrialPage(kept.playback, playedKinds);
  expect(offContract(page, 'TrialAnswer')).toEqual([]);
  const { trial, ...around } = page;
  expect(trial).toMatchObject({
    kind: 'playback',
    status: 'done',
    rigId: rig,
    origin: 'measured',
    settings: { scale: 'quarter' },
    progress: { slotCount: 192 },
  });
  expect(trial.summary?.slots).toBe(192);
  expect(trial.conditions?.run?.decoder).toBe('mjpeg');
  expect(trial.load?.pulse?.medianUs).toBeGreaterThan(0);
  const trace = await loadTrace(kept.playback);
  expect(trace.length).toBe(192);
  expect(trace.state.filter((state) => state === 1)).toHaveLength(trial.summary!.shown);
  expect((await getCharges(kept.playback))?.length).toBe(192);
  expect(around.samples.length).toBeGreaterThan(8);
  expect(around.annotation?.note).toBe('The fan was loud.');
  const cancelled = (await readTrialPage(kept.cancelled)).trial;
  expect(cancelled.status).toBe('cancelled');
  expect(cancelled.outcome).toMatch(/^Cancelled/);
  const timeline = (await readTrialPage(kept.timeline, playedKinds)).trial;
  expect(timeline.subject.timeline?.id).toBe('timeline-demo-reel-one');
  expect(timeline.timelineId).toBe('timeline-demo-reel-one');
  expect(timeline.volumeIds).toEqual(expect.arrayContaining([expect.stringMatching(/^volume-/) as string]));
  const check = (await pageOf(kept.selfCheck, 'self-check')).trial;
  expect(check.summary?.selfCheck?.expected.length).toBeGreaterThan(5);
  expect(check.summary?.slots).toBe(180);
});

test('trials of decoding are whole', async () => {
  const rate = (await pageOf(kept.decodeRate, 'decode-rate')).trial;
  expect(rate).toMatchObject({ status: 'done', settings: { kind: 'decode-rate' } });
  expect(rate.summary?.all?.framesPerSecond.median).toBeGreaterThan(0);
  expect(rate.record?.passes.length).toBeGreaterThan(0);
  const support = (await pageOf(kept.decodeSupport, 'decode-support')).trial;
  expect(support.summary?.parts.length).toBeGreaterThan(0);
  expect(support.simulated).toBe(true);
  const streams = (await pageOf(kept.decodeStreams, 'decode-streams')).trial;
  expect(streams.record?.steps.length).toBeGreaterThan(0);
  expect(streams.volumeIds).toHaveLength(1);
});

test('trials of volumes are whole: their requests, and the files of a copy', async () => {
  const { trial } = await pageOf(kept.throughput, 'throughput');
  expect(trial.status).toBe('done');
  expect(trial.summary?.read?.sustained).toBeGreaterThan(0);
  expect(trial.subject.volumeId).toBe(trial.volumeIds[0]);
  expect((await recordCsv(kept.throughput)).csv.split('\n').length).toBeGreaterThan(2);
  expect((await seriesOf(kept.carried)).series.length).toBeGreaterThan(0);
  const carried = (await pageOf(kept.carried, 'streams-carried')).trial;
  expect(carried.settings.kind).toBe('streams-carried');
  expect(carried.summary?.steps.map(({ streams }) => streams).sort()).toEqual(
    [...carried.record!.streams].sort(),
  );
  const copy = await pageOf(kept.copy, 'copy');
  expect(copy.trial.summary?.files).toBe(copy.files.length);
  expect(copy.trial.volumeIds[0]).toBe(copy.trial.subject.volumeId);
  expect(copy.trial.volumeIds.slice(1)).toEqual(
    copy.trial.settings.destinations.map(({ volumeId }) => volumeId),
  );
  expect(copy.files.length).toBeGreaterThan(0);
  expect(copy.files.every(({ outcome, xxh64 }) => outcome !== 'conflict' && xxh64 !== null)).toBe(true);
});

test('tests of timelines and renditions are whole', async () => {
  const scrub = (await pageOf(kept.scrub, 'scrub')).trial;
  expect(scrub.summary?.latencyMs?.p50).toBeGreaterThan(0);
  expect(scrub.record?.requests.length).toBe(scrub.summary?.requests);
  expect((await pageOf(kept.ramp, 'ramp')).trial.summary?.edges.length).toBeGreaterThan(0);
  const calibration = (await pageOf(kept.calibration, 'calibration')).trial;
  expect(calibration.summary).toEqual(calibration.record?.costs);
  const { trial, items } = await pageOf(kept.renditions, 'renditions');
  expect(trial).toMatchObject({
    status: 'done',
    subject: { clips: 1, firstClip: 'kite-camera/TW_KITE_0038.mp4' },
    settings: { presetId: 'mjpeg', raster: 'quarter' },
    summary: { items: 1, made: 1, present: 0, failed: 0 },
  });
  expect(trial.record?.workedMs).toBeGreaterThan(0);
  expect(items).toMatchObject([{ status: 'made', sourcePath: 'kite-camera/TW_KITE_0038.mp4' }]);
});

test('notes, plans, series and the brief still know their trials', async () => {
  const notes = await getAnnotations([kept.playback, kept.throughput, kept.scrub]);
  expect(notes.get(kept.throughput)?.excluded).toBe('Another copy ran.');
  expect(notes.get(kept.scrub)?.note).toBe('By hand');
  const plan = await readPlanPage(kept.plan);
  expect(plan.plan).toMatchObject({ name: 'Proxies at a quarter', status: 'done' });
  const series = await rowsOf<{ id: string; steps: string; found: string }>(
    `select p.id, count(*) as steps, count(t.id) as found from plans p join plan_steps q on q.plan_id = p.id
     left join trials t on t.id = q.trial_id and t.plan_id = p.id and t.plan_cell = q.cell group by p.id`,
  );
  expect(series.length).toBe(5);
  expect(series.every(({ steps, found }) => Number(steps) > 0 && steps === found)).toBe(true);
  // What a plan would make again is what it made: the same kind with the same settings.
  const again = await rowsOf<{ kind: string; same: boolean }>(
    `select c.template->>'kind' as kind, t.kind = c.template->>'kind' and t.settings = c.template->'settings' and to_jsonb(t.volume_ids) = c.template->'volumeIds' as same
     from plan_cells c join trials t on t.plan_id = c.plan_id and t.plan_cell = c.cell`,
  );
  expect(again.length).toBeGreaterThan(5);
  expect(again.filter(({ same }) => !same)).toEqual([]);
  expect(new Set(again.map(({ kind }) => kind))).toContain('decode-rate');
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
  expect(await listTrials({ rigId: 'rig-of-a-bundle', kinds: ['playback'] })).toHaveLength(7);
  const listed = await readTrialList({ rig: 'rig-of-a-bundle', kind: 'playback' });
  expect(listed.trials.filter(({ grade }) => grade !== null).length).toBeGreaterThan(0);
  expect(listed.trials.every(({ name: of, volumes }) => of !== '' && volumes.length > 0)).toBe(true);
  const grades = await rowsOf<{ count: string }>(
    `select count(*) from trials where name is null or grade is distinct from summary->>'grade'`,
  );
  expect(grades[0]?.count).toBe('0');
  const { bundle } = await exportBundle('rig-of-a-bundle');
  const { bundle: ofThisRig } = await exportBundle(rig);
  for (const one of [bundle, ofThisRig])
    expect(parseBundle(JSON.stringify(one), sha256).trials).toHaveLength(one.trials.length);
  const kinds = (of: typeof bundle) => new Set(of.trials.map(({ kind }) => kind));
  expect(bundle.trials.filter(({ kind }) => isOneOf(playedKinds, kind))).toHaveLength(8);
  expect(kinds(bundle).size).toBeGreaterThan(8);
  // The dump is from before there were others.
  const then = trialKinds.filter((kind) => !isOneOf([...taskPageKinds, 'verification'], kind));
  expect(kinds(ofThisRig)).toEqual(new Set(then));
  expect((await listTrials({ rigId: 'rig-of-a-bundle' })).every(({ origin }) => origin === 'imported')).toBe(
    true,
  );
});
