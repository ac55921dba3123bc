import { randomBytes } from 'node:crypto';
import { median } from '@/core/stats/quantiles';
import { closeConnection, connection, database } from '@/db/client';
import { getBrief } from '@/db/queries/briefs';
import { listClips } from '@/db/queries/clips';
import { listPlanSteps, removePlan } from '@/db/queries/plans';
import { getTrial } from '@/db/queries/trials';
import type { PlanSettings } from '@/core/plan/plan';
import { planCells, plans, planSteps, trials } from '@/db/schema';
import { thisRigId } from '@/engine/rig';
import { compareSides } from '@/server/decide/comparisons';
import { readCompareChoices } from '@/server/decide/compareChoices';
import { decisionOf } from '@/server/decide/decision';
import { closeEvents } from '@/server/platform/events';
import { closeQueue } from '@/server/platform/queue';
import { readTrialList } from '@/server/trials/trialList';
import { readPlanPage } from '@/server/decide/plans';
import { LoadMeter } from '@/server/runner/shared/loadMeter';
import { sampleIntervalMs } from '@/server/runner/shared/measuring';
import { askTrial, untilEnded, withPage } from './benchPage';
import type { BenchRow } from './bench';
import { demoBriefId } from './seedBrief';

const seeded = 20_000;
/** Tells the seeded trials from others. */
const benchMark = 'seeded by the bench';
const repeats = 7;
/** The largest matrix that can be started is of 5 000 runs; the others are single ones. */
const inMatrix = 5_000;
const cells = 200;

async function timesOf(work: () => Promise<unknown>): Promise<number[]> {
  const times: number[] = [];
  for (let round = 0; round < repeats; round++) {
    const begun = performance.now();
    await work();
    times.push(performance.now() - begun);
  }
  return times;
}

/** A finished run that others are made of, played for it. */
async function model(address: string): Promise<{ rigId: string; trialId: string }> {
  const rigId = await thisRigId();
  const clip = (await listClips(rigId)).find(({ path }) => path.includes('proxy'));
  const trialId = await askTrial(address, { kind: 'playback', clipId: clip?.id, scale: 'quarter' });
  await untilEnded(trialId);
  return { rigId, trialId };
}

/** Fills the database with runs like one, in a matrix of cells with as many repeats. */
async function seed(rigId: string, trialId: string): Promise<string> {
  const trial = await getTrial(trialId, ['playback']);
  if (!trial) throw new Error('The trial to copy is gone.');
  const planId = randomBytes(5).toString('hex');
  const settings: PlanSettings = {
    subjects: [],
    volumeIds: [],
    forms: ['originals'],
    scales: ['quarter'],
    tests: ['playback'],
    repeats: inMatrix / cells,
    order: 'interleaved',
    seed: 1,
    warm: false,
    policy: 'hold-time',
  };
  await database()
    .insert(plans)
    .values({ id: planId, rigId, name: 'Bench', question: 'own', settings, status: 'done' });
  const { record: _record, ...row } = trial;
  const { kind, clipId, volumeIds, subject, settings: played, progress } = row;
  const template = { kind, clipId, volumeIds, subject, settings: played, progress };
  await database()
    .insert(planCells)
    .values(
      Array.from({ length: cells }, (_, cell) => ({
        planId,
        cell,
        expectedMs: 1,
        template,
        address: {
          test: 'playback' as const,
          subject: null,
          volumeId: null,
          form: null,
          scale: 'quarter' as const,
        },
        labels: {
          what: `Clip ${cell}`,
          volume: 'Bench',
          simulated: false,
          form: null,
          scale: 'quarter',
          format: null,
        },
      })),
    );
  const ids = Array.from({ length: seeded }, () => randomBytes(5).toString('hex'));
  for (let at = 0; at < seeded; at += 500) {
    await database()
      .insert(trials)
      .values(
        ids.slice(at, at + 500).map((id, index) => ({
          ...row,
          volumeIds: [...row.volumeIds],
          id,
          outcome: benchMark,
          createdAt: new Date(trial.createdAt.getTime() - (at + index) * 1_000),
          summary: trial.summary && { ...trial.summary, dropped: index % 5 },
        })),
      );
    if (at < inMatrix)
      await database()
        .insert(planSteps)
        .values(
          ids.slice(at, at + 500).map((id, index) => ({
            planId,
            position: at + index,
            cell: (at + index) % cells,
            repeat: Math.floor((at + index) / cells),
            status: 'done' as const,
            trialId: id,
            startedAt: new Date(),
            endedAt: new Date(),
          })),
        );
  }
  await connection().pool.query('analyze');
  return planId;
}

/** Lists, comparisons and decisions over many trials; what passes between a matrix's runs; what telemetry costs. */
export async function decideRows(mediaFolder: string): Promise<BenchRow[]> {
  return withPage(
    mediaFolder,
    () => Promise.resolve({}),
    () => Promise.resolve(),
    async ({ address }) => {
      const { rigId, trialId } = await model(address);
      const overhead = await overheads(address, rigId);
      const planId = await seed(rigId, trialId);
      const rows: BenchRow[] = [];
      const within = (name: string, times: readonly number[]) =>
        rows.push({
          name,
          value: median(times),
          unit: 'ms',
          target: 'at most 300',
          met: median(times) <= 300,
          note: `median of ${times.length}, slowest ${Math.max(...times).toFixed(0)}`,
        });
      const fetched = (path: string) =>
        timesOf(async () => {
          await (await fetch(`${address}${path}`)).arrayBuffer();
        });
      within(`list of trials, ${seeded} kept, at the server`, await timesOf(() => readTrialList({})));
      within('the same through the route, to the last byte', await fetched('/api/trials'));
      within('what can be compared', await timesOf(readCompareChoices));
      const pair = `p.${planId}.0,p.${planId}.1`;
      within(
        `comparison of 2 cells with ${inMatrix / cells} repeats each`,
        await timesOf(() => compareSides(pair.split(','), null)),
      );
      const many = Array.from({ length: 16 }, (_, cell) => `p.${planId}.${cell}`);
      within(
        `comparison of 16 cells with ${inMatrix / cells} repeats each`,
        await timesOf(() => compareSides(many, null)),
      );
      within(`page of a matrix of ${inMatrix} runs`, await timesOf(() => readPlanPage(planId)));
      within('decision map', await timesOf(async () => decisionOf(await briefOf(rigId))));
      rows.push(...overhead, await telemetryRow());
      await connection().pool.query('delete from trials where outcome = $1', [benchMark]);
      await removePlan(planId);
      await Promise.all([closeQueue(), closeEvents(), closeConnection()]);
      return rows;
    },
  );
}

/** The demo's cameras on the demo's first volume. */
async function briefOf(rigId: string) {
  const brief = await getBrief(demoBriefId);
  if (!brief) throw new Error(`The demo's brief is not there for ${rigId}.`);
  return brief;
}

const shortRuns = 6;

/** Time from the end of one run of a matrix to the beginning of the next. */
async function overheads(address: string, rigId: string): Promise<BenchRow[]> {
  const clip = (await listClips(rigId)).find(({ path }) => path.includes('UHD'));
  const response = await fetch(`${address}/api/plans`, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({
      tests: ['playback'],
      subjects: [{ kind: 'clip', id: clip?.id }],
      scales: ['quarter'],
      repeats: shortRuns,
    }),
  });
  const { id } = (await response.json()) as { id: string };
  for (;;) {
    const steps = await listPlanSteps(id);
    if (steps.length > 0 && steps.every(({ status }) => status === 'done')) break;
    await new Promise((resolve) => {
      setTimeout(resolve, 300);
    });
  }
  const ran = await Promise.all((await listPlanSteps(id)).map(({ trialId }) => getTrial(trialId ?? '')));
  const gaps = ran.slice(1).flatMap((trial, index) => {
    const before = ran[index]?.endedAt;
    return trial?.startedAt && before ? [trial.startedAt.getTime() - before.getTime()] : [];
  });
  await removePlan(id);
  return [
    {
      name: 'from one run of a matrix to the next',
      value: median(gaps),
      unit: 'ms',
      target: 'under 300',
      met: median(gaps) < 300,
      note: `${gaps.length} gaps, longest ${Math.max(...gaps)}`,
    },
  ];
}

const telemetrySamples = 120;

/** Processor time of telemetry at two samples a second, with its looks at single processes. */
async function telemetryRow(): Promise<BenchRow> {
  const meter = new LoadMeter(() => [process.ppid]);
  const before = process.cpuUsage();
  for (let sample = 0; sample < telemetrySamples; sample++) {
    // The system counts time in hundredths of a second: two samples within one are none.
    await new Promise((resolve) => {
      setTimeout(resolve, 25);
    });
    meter.sample();
  }
  const { user, system } = process.cpuUsage(before);
  const share = ((user + system) / telemetrySamples / 1e6) * (1000 / sampleIntervalMs) * 100;
  return {
    name: 'telemetry, two samples a second',
    value: share,
    unit: '% of a core',
    target: 'under 1',
    met: share < 1,
    note: `${telemetrySamples} samples`,
  };
}
