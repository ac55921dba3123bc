import type { InferType } from '@/core/edge/strict';
import { kinds, taskKinds, type TaskKind, type TrialKind } from '@/core/kinds/kinds';
import { orderSteps } from '@/core/plan/matrix';
import type { MakeUp } from '@/core/plan/makeUp';
import { questionName } from '@/core/plan/questions';
import { planMsLeft } from '@/core/plan/timeLeft';
import {
  addPlan,
  getPlan,
  listPlanCells,
  listPlans,
  listPlanSteps,
  removePlan,
  updatePlan,
  updatePlanSteps,
  type PlanRow,
} from '@/db/queries/plans';
import type { PlanSettings } from '@/core/plan/plan';
import { getRig } from '@/db/queries/rigs';
import { RequestError } from '../platform/errors';
import { publish } from '../platform/events';
import { headlines } from '../trials/findings';
import { newId } from '../platform/ids';
import { addMadeUpRuns } from './madeUpRuns';
import { repeatCell, resolveCells, throughputBytes, type LeftOut, type ReadyCell } from './planCells';
import { sendJob } from '../platform/queue';
import { currentRigId } from '../platform/rig';
import type { planActionInput, planInput, seriesInput } from '@/core/asked/plans';
import { requireTrial } from '../platform/trialQueue';

/** What a matrix would do, before it starts. */
export interface PlanPreview {
  readonly cells: readonly {
    readonly labels: ReadyCell['labels'];
    readonly test: TrialKind;
    readonly expectedMs: number;
  }[];
  readonly leftOut: readonly LeftOut[];
  readonly runs: number;
  readonly expectedMs: number;
  /** Volumes that a test file is written to, and removed from, with its bytes. */
  readonly writes: { readonly volumes: readonly string[]; readonly bytes: number } | null;
  /** Volumes that tasks write to, by the kind of task. */
  readonly tasks: Readonly<Partial<Record<TaskKind, readonly string[]>>>;
}

const mostRuns = 5_000;

async function cellsFor(
  input: InferType<typeof planInput>,
): Promise<{ cells: ReadyCell[]; leftOut: LeftOut[] }> {
  if (input.tests.some((test) => test !== 'throughput') && input.subjects.length === 0)
    throw new RequestError('no-subject', {}, 'subjects');
  if (input.tests.includes('throughput') && input.volumeIds.length === 0)
    throw new RequestError('no-volume', {}, 'volumeIds');
  return resolveCells(input, input);
}

/** Counts a matrix's runs and how long they take, and names what is left out, without starting it. */
export async function previewPlan(input: InferType<typeof planInput>): Promise<PlanPreview> {
  const { cells, leftOut } = await cellsFor(input);
  const volumesOf = (test: TrialKind) => [
    ...new Set(cells.filter(({ address }) => address.test === test).map(({ labels }) => labels.volume ?? '')),
  ];
  const writes = volumesOf('throughput');
  return {
    cells: cells.map(({ labels, address, expectedMs }) => ({ labels, test: address.test, expectedMs })),
    leftOut,
    runs: cells.length * input.repeats,
    expectedMs: cells.reduce((sum, { expectedMs }) => sum + expectedMs, 0) * input.repeats,
    writes: writes.length > 0 ? { volumes: writes, bytes: throughputBytes } : null,
    tasks: Object.fromEntries(
      taskKinds.map((kind) => [kind, volumesOf(kind)] as const).filter(([, volumes]) => volumes.length > 0),
    ),
  };
}

/** Queues a matrix. Returns its id. @throws RequestError when none of its cells can be run */
export async function startPlan(input: InferType<typeof planInput>, demo = 0): Promise<string> {
  const { cells, leftOut } = await cellsFor(input);
  if (cells.length === 0)
    throw leftOut[0]
      ? new RequestError('all-left-out', leftOut[0], 'subjects')
      : new RequestError('nothing-to-run', {}, 'subjects');
  if (cells.length * input.repeats > mostRuns)
    throw new RequestError(
      'too-many-runs',
      { runs: cells.length * input.repeats, most: mostRuns },
      'repeats',
    );
  const { name, question, ...settings } = input;
  return queuePlan(name || questionName(question), question, settings, cells, demo);
}

/** Repeats a trial under the same conditions. Returns the series' id. @throws RequestError for one that cannot be repeated */
export async function startSeries({
  trialId,
  repeats,
  mostMadeUp,
}: InferType<typeof seriesInput>): Promise<string> {
  const trial = await requireTrial(trialId);
  const { kind, clipId, subject, startedAt, endedAt } = trial;
  if (trial.rigId !== (await currentRigId())) throw new RequestError('of-another-rig');
  const reason = kinds[kind].once;
  if (reason !== undefined) throw new RequestError('not-repeatable', { reason });
  if (kind === 'playback' && !('timeline' in subject && subject.timeline) && clipId === null)
    throw new RequestError('played-clip-gone');
  const took =
    trial.status === 'done' && startedAt && endedAt ? endedAt.getTime() - startedAt.getTime() : null;
  const cell = repeatCell(trial, took ?? kinds[kind].overheadMs * 3);
  const settings: PlanSettings = {
    subjects: [],
    volumeIds: [],
    forms: ['originals'],
    scales: [],
    tests: [kind],
    repeats,
    mostMadeUp,
    order: 'interleaved',
    seed: 1,
    warm: false,
    policy: 'hold-time',
  };
  const times = repeats === 1 ? 'once' : `${repeats} times`;
  return queuePlan(`${cell.labels.what}, ${times}`, 'series', settings, [cell], 0);
}

export async function queuePlan(
  name: string,
  question: string,
  settings: PlanSettings,
  cells: readonly ReadyCell[],
  demo: number,
): Promise<string> {
  const rigId = await currentRigId();
  const id = newId();
  await addPlan(
    { id, rigId, name, question, settings, status: 'queued', demo },
    cells.map((cell, index) => ({ planId: id, cell: index, ...cell })),
    orderSteps(cells.length, settings.repeats, settings.order, settings.seed).map(
      ({ cell, repeat }, position) => ({ planId: id, position, cell, repeat, status: 'waiting' as const }),
    ),
  );
  await sendPlan(rigId, id);
  return id;
}

async function sendPlan(rigId: string, id: string): Promise<void> {
  await sendJob(rigId, { kind: 'plan', trialId: id });
  await publish({ type: 'plan', planId: id });
}

async function requirePlan(id: string): Promise<PlanRow> {
  const plan = await getPlan(id);
  if (!plan) throw new RequestError('no-such-plan');
  return plan;
}

/** A plan whose runs can be made here. @throws RequestError for one that came in with a bundle */
async function requireOwnPlan(id: string): Promise<PlanRow> {
  const plan = await requirePlan(id);
  if (plan.imported) throw new RequestError('plan-imported');
  return plan;
}

/** Pauses, continues, cancels a plan; skips a run or a cell; adds runs for those in doubt or that failed. Returns how many runs it touched. */
export async function actOnPlan(
  id: string,
  { action, position, cell }: InferType<typeof planActionInput>,
): Promise<{ done: number }> {
  const plan = await requireOwnPlan(id);
  const done = await doAction(plan, action, position, cell);
  await publish({ type: 'plan', planId: id });
  return { done };
}

/** A refusal to touch what waits asks for the status anew: it may have begun since. */
async function doAction(
  plan: PlanRow,
  action: InferType<typeof planActionInput>['action'],
  position: number | null,
  cell: number | null,
): Promise<number> {
  const { id, rigId } = plan;
  const skipped = { status: 'skipped' as const, outcome: 'Skipped by hand.', endedAt: new Date() };
  switch (action) {
    case 'pause':
      if (await updatePlan(id, ['queued'], { status: 'paused' })) return 1;
      if ((await requirePlan(id)).status !== 'running') throw new RequestError('plan-not-running');
      await publish({ type: 'pause', trialId: id });
      return 1;
    case 'resume':
      if (!(await updatePlan(id, ['paused'], { status: 'queued' })))
        throw new RequestError('plan-not-paused');
      await sendPlan(rigId, id);
      return 1;
    case 'cancel':
      if (await updatePlan(id, ['queued', 'paused'], { status: 'cancelled', endedAt: new Date() })) {
        return updatePlanSteps(
          id,
          { from: ['waiting'] },
          { status: 'cancelled', outcome: 'Cancelled before it began.', endedAt: new Date() },
        );
      }
      if ((await requirePlan(id)).status !== 'running') throw new RequestError('plan-ended');
      await publish({ type: 'cancel', trialId: id });
      return 1;
    case 'skip': {
      if (position === null) throw new RequestError('which-run', {}, 'position');
      const waiting = await updatePlanSteps(id, { position, from: ['waiting'] }, skipped);
      if (waiting > 0) return waiting;
      const running =
        (await listPlanSteps(id)).find((step) => step.position === position)?.status === 'running';
      if (!running) throw new RequestError('run-ended');
      await publish({ type: 'skip', trialId: id });
      return 1;
    }
    case 'skip-cell': {
      if (cell === null) throw new RequestError('which-condition', {}, 'cell');
      return updatePlanSteps(id, { cell, from: ['waiting'] }, skipped);
    }
    case 'repeat-doubtful':
      return makeUp(plan, 'in-doubt');
    case 'repeat-failed':
      return makeUp(plan, 'missing');
  }
}

/** Adds runs at the plan's end for those that are in doubt or missing. What they left stays. */
async function makeUp(plan: PlanRow, what: MakeUp): Promise<number> {
  const added = await addMadeUpRuns(plan, what);
  if (added === 0) throw new RequestError(what === 'in-doubt' ? 'none-in-doubt' : 'none-failed');
  if (await updatePlan(plan.id, ['done', 'cancelled'], { status: 'queued', endedAt: null }))
    await sendPlan(plan.rigId, plan.id);
  return added;
}

export async function deletePlan(id: string): Promise<void> {
  const { status } = await requirePlan(id);
  if (status === 'running' || status === 'queued') throw new RequestError('plan-not-ended');
  await removePlan(id);
  await publish({ type: 'plan', planId: id });
}

/** Starts the same matrix anew, with what is on the volumes now. Returns its id. */
export async function repeatPlan(id: string): Promise<string> {
  const plan = await requireOwnPlan(id);
  const cells = await listPlanCells(id);
  if (plan.question === 'series') return queuePlan(plan.name, plan.question, plan.settings, cells, 0);
  const { cells: now } = await resolveCells(plan.settings, plan.settings);
  if (now.length === 0) throw new RequestError('plan-parts-gone');
  return queuePlan(plan.name, plan.question, plan.settings, now, 0);
}

export async function plansOfRig() {
  return listPlans(await currentRigId());
}

/** A plan's page: its cells with the results of their runs so far, and how long it still takes. */
export async function readPlanPage(id: string) {
  const plan = await requirePlan(id);
  const [cells, steps] = await Promise.all([listPlanCells(id), listPlanSteps(id)]);
  const found = await headlines(steps.flatMap(({ trialId }) => trialId ?? []));
  const expected = new Map(cells.map(({ cell, expectedMs }) => [cell, expectedMs]));
  const now = Date.now();
  return {
    plan,
    /** Name of the rig that it is from. */
    from: (await getRig(plan.rigId))?.name ?? '',
    msLeft: planMsLeft(
      steps.map(({ status, cell, startedAt, endedAt }) => ({
        status,
        expectedMs: expected.get(cell) ?? 0,
        tookMs: startedAt && endedAt ? endedAt.getTime() - startedAt.getTime() : null,
        runningMs: status === 'running' && startedAt ? now - startedAt.getTime() : null,
      })),
    ),
    cells: cells.map(({ template, ...cell }) => ({ ...cell, kind: template.kind })),
    steps: steps.map((step) => ({
      ...step,
      headline: step.trialId === null ? null : (found.get(step.trialId) ?? null),
    })),
  };
}
export type PlanPage = Awaited<ReturnType<typeof readPlanPage>>;
