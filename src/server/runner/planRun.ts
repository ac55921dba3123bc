import { doubtOf } from '@/core/rig/doubt';
import {
  getPlan,
  getPlanCell,
  nextPlanStep,
  updatePlan,
  updatePlanSteps,
  type PlanStepRow,
} from '@/db/queries/plans';
import { addTrials, getTrial } from '@/db/queries/trials';
import { newId } from '../platform/ids';
import { announce } from '../platform/events';
import { addMadeUpRuns } from '../decide/madeUpRuns';
import { retryWhileAway } from './shared/retryWhileAway';
import type { TrialRun } from './trialRun';

/** A run as a plan sees it. */
export type StepRun = Pick<TrialRun, 'trialId' | 'run' | 'cancel'>;

/** A step that took the runner down with it so often is not begun again. */
const mostAttempts = 2;

/**
 * Takes a plan's steps one after the other, without the queue between them, so
 * that little time passes from one to the next. What it did is saved step by
 * step: killed at any moment, it goes on at the next start where it was.
 */
export class PlanRun<Run extends StepRun = StepRun> {
  private wish: 'pause' | 'cancel' | null = null;
  private skipping = false;
  private running: Run | null = null;

  /** @param begin makes the run of a trial that stands in the database */
  constructor(
    readonly trialId: string,
    private readonly begin: (trialId: string) => Run,
  ) {}

  /** What measures now; null between steps. */
  get inner(): Run | null {
    return this.running;
  }

  cancel(): void {
    this.wish = 'cancel';
    this.running?.cancel();
  }

  /** Stops the running trial at once; it begins again when the plan goes on. */
  pause(): void {
    this.wish ??= 'pause';
    this.running?.cancel();
  }

  /** Gives up the running trial and goes on with the next. */
  skip(): void {
    if (!this.running) return;
    this.skipping = true;
    this.running.cancel();
  }

  async run(): Promise<void> {
    const plan = await retryWhileAway(() => getPlan(this.trialId));
    if (
      !plan ||
      !(await retryWhileAway(() =>
        updatePlan(plan.id, ['queued'], {
          status: 'running',
          startedAt: plan.startedAt ?? new Date(),
          endedAt: null,
        }),
      ))
    )
      return;
    this.tell();
    while (this.wish === null) {
      const step = await retryWhileAway(() => nextPlanStep(plan.id));
      if (!step) {
        // What is in doubt is repeated by itself, as far as the plan says.
        if ((await retryWhileAway(() => addMadeUpRuns(plan, 'in-doubt', plan.settings.mostMadeUp ?? 0))) > 0)
          continue;
        break;
      }
      await this.take(plan.rigId, step);
      this.tell();
    }
    await this.close();
  }

  private async take(rigId: string, step: PlanStepRow): Promise<void> {
    const { planId, position } = step;
    const change = (from: PlanStepRow['status'], to: Partial<PlanStepRow>) =>
      retryWhileAway(() => updatePlanSteps(planId, { position, from: [from] }, to));
    const cell = await retryWhileAway(() => getPlanCell(planId, step.cell));
    if (!cell || step.attempts >= mostAttempts) {
      await change('waiting', {
        status: 'failed',
        outcome: cell
          ? 'The runner stopped twice while this ran. It is not begun again by itself.'
          : 'Its cell is gone.',
        endedAt: new Date(),
      });
      return;
    }
    const trialId = newId();
    if (
      (await change('waiting', {
        status: 'running',
        trialId,
        attempts: step.attempts + 1,
        startedAt: new Date(),
        endedAt: null,
        outcome: null,
        inDoubt: false,
      })) === 0
    )
      return; // skipped meanwhile
    await retryWhileAway(() =>
      addTrials([{ ...cell.template, id: trialId, rigId, planId, planCell: cell.cell }]),
    );
    this.skipping = false;
    const run = this.begin(trialId);
    this.running = run;
    this.tell();
    if (this.wish !== null) run.cancel();
    // What fails unforeseen is that run's failure, not the plan's.
    const unforeseen = await run.run().then(
      () => null,
      (error: unknown) => (error instanceof Error ? error.message : String(error)),
    );
    this.running = null;
    await this.note(trialId, change, unforeseen);
  }

  /** Writes down how a step ended. What a pause stopped waits again. */
  private async note(
    trialId: string,
    change: (from: PlanStepRow['status'], to: Partial<PlanStepRow>) => Promise<number>,
    unforeseen: string | null,
  ): Promise<void> {
    const end = await retryWhileAway(() => getTrial(trialId));
    const outcome = end?.outcome ?? null;
    if (end?.status === 'done') {
      await change('running', {
        status: 'done',
        endedAt: end.endedAt ?? new Date(),
        outcome,
        inDoubt: doubtOf(end.load) !== null,
      });
    } else if (end?.status === 'cancelled' && this.wish === 'pause') {
      await change('running', { status: 'waiting', trialId: null, attempts: 0, startedAt: null });
    } else {
      const status = end?.status === 'cancelled' ? (this.skipping ? 'skipped' : 'cancelled') : 'failed';
      await change('running', {
        status,
        endedAt: end?.endedAt ?? new Date(),
        outcome: outcome ?? unforeseen ?? 'It left no result.',
      });
    }
  }

  private async close(): Promise<void> {
    const id = this.trialId;
    if (this.wish === 'cancel')
      await retryWhileAway(() =>
        updatePlanSteps(
          id,
          { from: ['waiting'] },
          { status: 'cancelled', outcome: 'Cancelled before it began.', endedAt: new Date() },
        ),
      );
    const status =
      this.wish === 'cancel'
        ? ('cancelled' as const)
        : this.wish === 'pause'
          ? ('paused' as const)
          : ('done' as const);
    await retryWhileAway(() =>
      updatePlan(id, ['running'], { status, endedAt: status === 'paused' ? null : new Date() }),
    );
    this.tell();
  }

  private tell(): void {
    announce({ type: 'plan', planId: this.trialId });
  }
}

/** Puts a plan that was running when a runner died back in the queue, its open step first. Returns whether it goes on. */
export async function reopenPlan(planId: string): Promise<boolean> {
  await updatePlanSteps(planId, { from: ['running'] }, { status: 'waiting', trialId: null, startedAt: null });
  return updatePlan(planId, ['running'], { status: 'queued' });
}
