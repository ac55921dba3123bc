import { taskKinds } from '@/core/kinds/kinds';
import { copyFile } from 'node:fs/promises';
import { join } from 'node:path';
import { modelOf } from '@/core/storage/presets';
import { removeVolume, updateVolume } from '@/db/queries/volumes';
import { getPlan, listPlanCells, listPlanSteps, planOfTrial, removePlan } from '@/db/queries/plans';
import { getTrial, removeTrial, updateTrial } from '@/db/queries/trials';
import { listClipsOfVolume, type ClipWithVolume } from '@/db/queries/clips';
import { originalFirst } from '@/core/media/footage';
import { smallIntra, smallLongGop } from '@/demo/smallClips';
import { thisRigId } from '@/engine/rig';
import { planInput } from '@/core/asked/plans';
import {
  actOnPlan,
  deletePlan,
  previewPlan,
  readPlanPage,
  repeatPlan,
  startPlan,
  startSeries,
} from './plans';
import { annotate } from '../trials/annotations';
import { headlines } from '../trials/findings';
import { groupByHand, rankOf } from '../library/footage';
import { readPlanChoices } from './planChoices';
import { scanVolume } from '../runner/shared/scan';
import { saveDevices } from '@/db/queries/rigs';
import { standInReports } from '@/core/tasks/encodeDevices';
import { resolveCells } from './planCells';
import { currentRigId } from '../platform/rig';
import { PlanRun, reopenPlan, type StepRun } from '../runner/planRun';
import { emptyVolume, onTestDatabase, scannedClip, storedTrial, testReader } from '../testing/testDatabase';

onTestDatabase();

let clip: ClipWithVolume;
beforeAll(async () => {
  clip = await scannedClip(smallIntra);
});

const input = (change: object = {}) =>
  planInput.validate({
    subjects: [{ kind: 'clip', id: clip.id }],
    volumeIds: [clip.volumeId],
    tests: ['playback'],
    scales: ['full', 'half'],
    repeats: 2,
    ...change,
  });
const quiet = { trialMean: 0.4, othersMean: 0.01, othersPeak: 0.02, peakMemoryBytes: null };

/** Ends trials as a runner does, without measuring: what a plan does with ends is looked at here. */
function endsWith(
  end: 'done' | 'failed',
  seen: string[],
  during?: (trialId: string, run: StepRun) => void,
  load: object = quiet,
) {
  return (trialId: string): StepRun => {
    let cancelled = false;
    const run: StepRun = {
      trialId,
      cancel: () => {
        cancelled = true;
      },
      run: async () => {
        seen.push(trialId);
        await updateTrial(trialId, ['queued'], { status: 'running', startedAt: new Date() });
        during?.(trialId, run);
        await updateTrial(
          trialId,
          ['running'],
          cancelled
            ? { status: 'cancelled', outcome: 'Cancelled.', endedAt: new Date() }
            : {
                status: end,
                endedAt: new Date(),
                load: load as typeof quiet,
                ...(end === 'failed' ? { outcome: 'The volume went away.' } : {}),
              },
        );
      },
    };
    return run;
  };
}
const statuses = async (id: string) => (await listPlanSteps(id)).map(({ status }) => status);

test('a matrix says what it would do, what it leaves out and why, and what it writes, before it starts', async () => {
  const other = await emptyVolume();
  const preview = await previewPlan(
    await input({
      volumeIds: [clip.volumeId, other.id],
      forms: ['originals', 'proxies'],
      tests: ['playback', 'decode-rate', 'throughput'],
    }),
  );
  expect(
    preview.cells.map(({ test, labels }) => `${test} ${labels.volume ?? '-'} ${labels.scale ?? '-'}`),
  ).toEqual([
    `playback Shuttle SSD full`,
    `playback Shuttle SSD half`,
    'decode-rate - -',
    'throughput Shuttle SSD -',
    `throughput Card ${other.id} -`,
  ]);
  expect(preview.runs).toBe(10);
  expect(preview.expectedMs).toBeGreaterThan(2 * 2 * (smallIntra.frames / 24) * 1_000);
  expect(preview.writes?.volumes).toHaveLength(2);
  expect(preview.leftOut.map(({ reason }) => reason)).toEqual(
    expect.arrayContaining([
      expect.stringContaining('does not lie on this volume'),
      expect.stringContaining('has no proxy'),
    ]),
  );
  const tasks = await previewPlan(await input({ tests: [...taskKinds], scales: ['full'] }));
  expect(tasks.cells.map(({ test, labels }) => `${test} ${labels.volume} ${labels.scale}`)).toEqual(
    taskKinds.map((kind) => `${kind} Shuttle SSD null`),
  );
  expect(tasks.writes).toBeNull();
  expect(tasks.tasks).toEqual(Object.fromEntries(taskKinds.map((kind) => [kind, ['Shuttle SSD']])));
  const opening = await previewPlan(await input({ tests: ['opening'], scales: ['full'] }));
  expect(opening.cells.map(({ test, labels }) => `${test} ${labels.volume}`)).toEqual([
    'opening Shuttle SSD',
  ]);
  expect(opening).toMatchObject({ writes: null, tasks: {} });
  await expect(startPlan(await input({ forms: ['proxies'] }))).rejects.toThrow(
    /There is nothing to run.*has no proxy/,
  );
  await expect(startPlan(await input({ subjects: [] }))).rejects.toMatchObject({ field: 'subjects' });
  await removeVolume(other.id);
});

test('a matrix of devices plays each cell on its own, and leaves out what cannot be used here', async () => {
  await saveDevices(await currentRigId(), standInReports());
  const { cells, leftOut } = await resolveCells(
    await input({
      tests: ['playback', 'scrub'],
      scales: ['full'],
      deviceIds: ['software', 'stand-in-neap', 'device-gone'],
    }),
    await input({}),
  );
  const decoding = [{ deviceId: 'stand-in-neap', name: 'Neap', simulated: true, share: 1 }];
  expect(
    cells.map(({ template, labels }) => [
      template.kind,
      labels.device,
      'decoding' in template.settings ? template.settings.decoding : null,
      template.simulated,
    ]),
  ).toEqual(
    ['playback', 'scrub'].flatMap((kind) => [
      [kind, { name: 'software', simulated: false }, null, false],
      [kind, { name: 'Neap', simulated: true }, decoding, true],
    ]),
  );
  expect(leftOut.map(({ what, reason }) => [what.split(', ').at(-1), reason])).toEqual(
    ['playback', 'scrub'].map(() => ['on gone', expect.stringContaining('cannot be used here') as string]),
  );
});

test('a content that lies in several files is offered once, under the file that was wanted, and names the others', async () => {
  const other = await emptyVolume();
  await copyFile(join(clip.volumePath, clip.path), join(other.folder, 'AAA_FIRST.mov'));
  await scanVolume(other.id, await testReader());
  const [copy] = await listClipsOfVolume(other.id);
  const name = clip.path.split('/').at(-1)!;
  expect((await readPlanChoices()).clips).toMatchObject([
    { id: copy!.id, name: 'AAA_FIRST.mov', also: [name] },
  ]);
  expect((await readPlanChoices(clip.id)).clips).toMatchObject([
    { id: clip.id, name, also: ['AAA_FIRST.mov'] },
  ]);
  await updateVolume(other.id, { standIn: modelOf('ethernet-1', 'disk') });
  expect((await readPlanChoices()).clips).toMatchObject([{ id: clip.id, name }]); // a simulated volume stands back
  await removeVolume(other.id);
  expect((await readPlanChoices()).clips).toMatchObject([{ id: clip.id, also: [], proxy: false }]);
});

test('originals are offered before their proxies, which are called so', async () => {
  const proxy = await scannedClip(smallLongGop);
  await groupByHand(await thisRigId(), [clip.id, proxy.id]);
  const [first, second] = (await readPlanChoices()).clips;
  const better = originalFirst(rankOf(clip), rankOf(proxy)) < 0 ? clip : proxy;
  expect([first?.id, first?.proxy, second?.proxy]).toEqual([better.id, false, true]);
  await removeVolume(proxy.volumeId);
  expect((await readPlanChoices()).clips).toMatchObject([{ id: clip.id, proxy: false }]);
});

test("runs are taken in the plan's order, each a trial of its own under the cell's conditions", async () => {
  const id = await startPlan(await input());
  const seen: string[] = [];
  await new PlanRun(id, endsWith('done', seen)).run();
  expect(await getPlan(id)).toMatchObject({ status: 'done', name: 'Custom matrix' });
  const steps = await listPlanSteps(id);
  expect(steps.map(({ cell, repeat, status }) => [cell, repeat, status])).toEqual([
    [0, 0, 'done'],
    [1, 0, 'done'],
    [1, 1, 'done'],
    [0, 1, 'done'],
  ]);
  expect(steps.map(({ trialId }) => trialId)).toEqual(seen);
  expect(
    (await Promise.all(seen.map((one) => getTrial(one, ['playback'])))).map((trial) => trial?.settings.scale),
  ).toEqual(['full', 'half', 'half', 'full']);
  expect(await planOfTrial(seen[3]!)).toMatchObject({ planId: id, cell: 0, repeat: 1 });
  expect(await getTrial(seen[3]!)).toMatchObject({ planId: id, planCell: 0 });
  expect((await readPlanPage(id)).steps[0]?.headline?.href).toBe(`/trials/${seen[0]}`);
  const again = await repeatPlan(id);
  expect(await statuses(again)).toEqual(['waiting', 'waiting', 'waiting', 'waiting']);
  await actOnPlan(again, { action: 'cancel', position: null, cell: null });
  expect(await getPlan(again)).toMatchObject({ status: 'cancelled' });
  await deletePlan(again);
});

test('a pause stops the run under way, which begins again when it goes on; single runs and conditions are skipped', async () => {
  const id = await startPlan(await input());
  const seen: string[] = [];
  const run: PlanRun = new PlanRun(
    id,
    endsWith('done', seen, () => {
      if (seen.length === 2) run.pause();
    }),
  );
  await run.run();
  expect(await getPlan(id)).toMatchObject({ status: 'paused' });
  expect(await statuses(id)).toEqual(['done', 'waiting', 'waiting', 'waiting']);
  expect(await getTrial(seen[1]!)).toMatchObject({ status: 'cancelled' });
  await expect(deletePlan(id)).resolves.toBeUndefined();

  const other = await startPlan(await input());
  await actOnPlan(other, { action: 'pause', position: null, cell: null });
  expect(await actOnPlan(other, { action: 'skip', position: 1, cell: null })).toEqual({ done: 1 });
  expect(await actOnPlan(other, { action: 'skip-cell', position: null, cell: 1 })).toEqual({ done: 1 });
  await actOnPlan(other, { action: 'resume', position: null, cell: null });
  const kept: string[] = [];
  const skipping: PlanRun = new PlanRun(
    other,
    endsWith('done', kept, () => {
      if (kept.length === 1) skipping.skip();
    }),
  );
  await skipping.run();
  expect(await statuses(other)).toEqual(['skipped', 'skipped', 'skipped', 'done']);
  await expect(actOnPlan(other, { action: 'pause', position: null, cell: null })).rejects.toThrow(
    'nothing to pause',
  );
});

test('after a restart it goes on where it was, and a run that took the runner down twice is not begun again', async () => {
  const id = await startPlan(await input({ scales: ['full'] }));
  for (const attempt of [1, 2]) {
    // A runner that dies leaves its step open: this one never comes back.
    await new Promise<void>((begun) => {
      void new PlanRun(id, () => ({
        trialId: 'x',
        cancel: () => undefined,
        run: () => {
          begun();
          return new Promise(() => undefined);
        },
      })).run();
    });
    expect((await listPlanSteps(id))[0]).toMatchObject({ status: 'running', attempts: attempt });
    expect(await reopenPlan(id)).toBe(true);
  }
  const seen: string[] = [];
  await new PlanRun(id, endsWith('done', seen)).run();
  expect(await statuses(id)).toEqual(['failed', 'done']);
  expect((await listPlanSteps(id))[0]?.outcome).toMatch(/stopped twice/);
});

test('a run that fails unforeseen is a failed run; the plan goes on', async () => {
  const id = await startPlan(await input({ scales: ['full'] }));
  await new PlanRun(id, () => ({
    trialId: 'x',
    cancel: () => undefined,
    run: () => Promise.reject(new Error('out of handles')),
  })).run();
  expect((await listPlanSteps(id)).map(({ status, outcome }) => [status, outcome])).toEqual([
    ['failed', 'out of handles'],
    ['failed', 'out of handles'],
  ]);
  expect(await getPlan(id)).toMatchObject({ status: 'done' });
});

test('failed and disturbed runs are told, and made up for without touching what they left', async () => {
  const id = await startPlan(await input({ scales: ['full'] }));
  await new PlanRun(id, endsWith('failed', [])).run();
  expect((await listPlanSteps(id)).map(({ status, outcome }) => [status, outcome])).toEqual([
    ['failed', 'The volume went away.'],
    ['failed', 'The volume went away.'],
  ]);
  expect(await actOnPlan(id, { action: 'repeat-failed', position: null, cell: null })).toEqual({ done: 2 });
  await new PlanRun(
    id,
    endsWith('done', [], undefined, {
      ...quiet,
      othersMean: 0.5,
      others: [{ name: 'sync', share: 0.5, diskBytesPerSecond: 0 }],
    }),
  ).run();
  const page = await readPlanPage(id);
  expect(page.steps.slice(2).map(({ inDoubt, headline }) => [inDoubt, headline?.doubt?.reason])).toEqual([
    [true, expect.stringContaining('most by sync')],
    [true, expect.stringContaining('most by sync')],
  ]);
  expect(await actOnPlan(id, { action: 'repeat-doubtful', position: null, cell: null })).toEqual({ done: 2 });
  await new PlanRun(id, endsWith('done', [])).run();
  await expect(actOnPlan(id, { action: 'repeat-doubtful', position: null, cell: null })).rejects.toThrow(
    'No run is in doubt',
  );
  expect(await statuses(id)).toHaveLength(6);
});

test('runs in doubt are repeated by themselves, as often as the plan says', async () => {
  const id = await startPlan(await input({ scales: ['full'], repeats: 2, mostMadeUp: 2 }));
  const unsteady = { ...quiet, pulse: { referenceUs: 100, medianUs: 140, p90Us: 150, bestUs: null } };
  await new PlanRun(id, endsWith('done', [], undefined, unsteady)).run();
  expect(await statuses(id)).toEqual(['done', 'done', 'done', 'done']);
  expect((await getPlan(id))?.status).toBe('done');
  const { steps } = await readPlanPage(id);
  expect(steps.map(({ repeat, headline }) => [repeat, headline?.doubt?.word])).toEqual(
    [0, 1, 2, 3].map((repeat) => [repeat, 'unsteady']),
  );
  const steady = await startPlan(await input({ scales: ['full'], repeats: 2, mostMadeUp: 2 }));
  await new PlanRun(steady, endsWith('done', [])).run();
  expect(await statuses(steady)).toEqual(['done', 'done']);
});

test('headlines of ended trials are kept in memory, and still follow notes and removals', async () => {
  const running = await storedTrial(clip, { status: 'running' });
  const ended = await storedTrial(clip, {
    status: 'failed',
    outcome: 'The volume went away.',
    endedAt: new Date(),
    load: { ...quiet, othersMean: 0.5 },
  });
  const refs = [running, ended, 'gone'];
  const texts = async () =>
    [...(await headlines(refs))].map(([id, { text, excluded }]) => [id, text, excluded]);
  expect(await texts()).toEqual([
    [running, 'running', null],
    [ended, 'The volume went away.', null],
  ]);
  await updateTrial(running, ['running'], {
    status: 'cancelled',
    outcome: 'Cancelled.',
    endedAt: new Date(),
  });
  await annotate(ended, { note: '', excluded: 'the cable was loose' });
  expect(await texts()).toEqual([
    [running, 'Cancelled.', null],
    [ended, 'The volume went away.', 'the cable was loose'],
  ]);
  expect((await headlines(refs)).get(ended)?.doubt?.reason).toMatch(/^other processes took 50\s%/);
  await removeTrial(ended);
  expect(await texts()).toEqual([[running, 'Cancelled.', null]]);
  await removeTrial(running);
});

test('any trial is repeated as a series, just as it was', async () => {
  const settings = {
    scale: 'quarter' as const,
    policy: 'hold-time' as const,
    threads: 2,
    warm: true,
    processing: true,
    buffers: { readAhead: 5, decoded: 2, ready: 2 },
    slotLimit: 12,
    faults: [],
  };
  const trialId = await storedTrial(clip, {
    status: 'done',
    settings,
    progress: { slotCount: 12 },
    startedAt: new Date(1_000),
    endedAt: new Date(4_000),
  });
  const id = await startSeries({ trialId, repeats: 3, mostMadeUp: 0 });
  expect(await getPlan(id)).toMatchObject({ question: 'series', name: `${clip.path}, 3 times` });
  expect((await listPlanCells(id))[0]).toMatchObject({
    expectedMs: 3_000,
    template: { kind: 'playback', settings, progress: { slotCount: 12 }, clipId: clip.id },
  });
  await expect(startSeries({ trialId: 'none', repeats: 3, mostMadeUp: 0 })).rejects.toMatchObject({
    status: 404,
  });
  const check = await storedTrial(clip, { kind: 'self-check', status: 'done' });
  await expect(startSeries({ trialId: check, repeats: 3, mostMadeUp: 0 })).rejects.toThrow('on the Rig page');
  await removePlan(id);
});
