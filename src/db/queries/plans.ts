import { and, asc, desc, eq, getTableColumns, inArray, isNotNull, ne, or, sql } from 'drizzle-orm';
import { database } from '../client';
import type { PlanStatus } from '@/core/plan/plan';
import { planCells, plans, planSteps, rigs } from '../schema';

export type PlanRow = typeof plans.$inferSelect;
export type PlanCellRow = typeof planCells.$inferSelect;
export type PlanStepRow = typeof planSteps.$inferSelect;
export type PlanListRow = PlanRow & {
  readonly rigName: string;
  readonly cells: number;
  readonly steps: number;
  readonly ended: number;
  readonly failed: number;
};

/** Adds a plan with its cells and steps, or nothing of it. */
export async function addPlan(
  plan: typeof plans.$inferInsert,
  cells: readonly (typeof planCells.$inferInsert)[],
  steps: readonly (typeof planSteps.$inferInsert)[],
): Promise<void> {
  await database().transaction(async (transaction) => {
    await transaction.insert(plans).values(plan);
    await transaction.insert(planCells).values([...cells]);
    for (let at = 0; at < steps.length; at += 1_000)
      await transaction.insert(planSteps).values(steps.slice(at, at + 1_000));
  });
}

export async function getPlan(id: string): Promise<PlanRow | null> {
  return (await database().select().from(plans).where(eq(plans.id, id)))[0] ?? null;
}

/** Plans of a rig and those that came in with bundles, with how far they are, newest first. */
export async function listPlans(rigId: string): Promise<PlanListRow[]> {
  const rows = await database()
    .select({ ...getTableColumns(plans), rigName: rigs.name })
    .from(plans)
    .innerJoin(rigs, eq(rigs.id, plans.rigId))
    .where(or(eq(plans.rigId, rigId), eq(plans.imported, true)))
    .orderBy(desc(plans.createdAt))
    .limit(500);
  if (rows.length === 0) return [];
  const counts = await database()
    .select({
      planId: planSteps.planId,
      steps: sql<number>`count(*)::int`,
      cells: sql<number>`count(distinct ${planSteps.cell})::int`,
      ended: sql<number>`count(*) filter (where ${planSteps.status} not in ('waiting', 'running'))::int`,
      failed: sql<number>`count(*) filter (where ${planSteps.status} = 'failed')::int`,
    })
    .from(planSteps)
    .where(
      inArray(
        planSteps.planId,
        rows.map(({ id }) => id),
      ),
    )
    .groupBy(planSteps.planId);
  const byPlan = new Map(counts.map((row) => [row.planId, row]));
  return rows.map((row) => ({ ...row, cells: 0, steps: 0, ended: 0, failed: 0, ...byPlan.get(row.id) }));
}

export async function listPlansByStatus(rigId: string, statuses: readonly PlanStatus[]): Promise<PlanRow[]> {
  return database()
    .select()
    .from(plans)
    .where(and(eq(plans.rigId, rigId), inArray(plans.status, [...statuses])))
    .orderBy(asc(plans.createdAt));
}

/** Changes a plan if it still has one of the given statuses. Returns whether it did. */
export async function updatePlan(
  id: string,
  from: readonly PlanStatus[],
  change: Partial<typeof plans.$inferInsert>,
): Promise<boolean> {
  return (
    (
      await database()
        .update(plans)
        .set(change)
        .where(and(eq(plans.id, id), inArray(plans.status, [...from])))
        .returning({ id: plans.id })
    ).length > 0
  );
}

export async function removePlan(id: string): Promise<void> {
  await database().delete(plans).where(eq(plans.id, id));
}

export async function listPlanCells(planId: string): Promise<PlanCellRow[]> {
  return database().select().from(planCells).where(eq(planCells.planId, planId)).orderBy(asc(planCells.cell));
}

export async function getPlanCell(planId: string, cell: number): Promise<PlanCellRow | null> {
  return (
    (
      await database()
        .select()
        .from(planCells)
        .where(and(eq(planCells.planId, planId), eq(planCells.cell, cell)))
    )[0] ?? null
  );
}

export async function listPlanSteps(planId: string): Promise<PlanStepRow[]> {
  return database()
    .select()
    .from(planSteps)
    .where(eq(planSteps.planId, planId))
    .orderBy(asc(planSteps.position));
}

/** What cells of a plan have led to so far: their trials, in the plan's order. @param cells null for all */
export async function endedSteps(
  planId: string,
  cells: readonly number[] | null,
): Promise<{ cell: number; trialId: string }[]> {
  const rows = await database()
    .select({ cell: planSteps.cell, trialId: planSteps.trialId })
    .from(planSteps)
    .where(
      and(
        eq(planSteps.planId, planId),
        isNotNull(planSteps.trialId),
        ne(planSteps.status, 'running'),
        cells === null ? undefined : inArray(planSteps.cell, [...cells]),
      ),
    )
    .orderBy(asc(planSteps.position));
  return rows.flatMap(({ cell, trialId }) => (trialId === null ? [] : [{ cell, trialId }]));
}

/** The step that is next in the plan's order; null when none waits. */
export async function nextPlanStep(planId: string): Promise<PlanStepRow | null> {
  return (
    (
      await database()
        .select()
        .from(planSteps)
        .where(and(eq(planSteps.planId, planId), eq(planSteps.status, 'waiting')))
        .orderBy(asc(planSteps.position))
        .limit(1)
    )[0] ?? null
  );
}

/** Changes steps of a plan that have one of the given statuses. Returns how many it changed. */
export async function updatePlanSteps(
  planId: string,
  which: {
    readonly position?: number;
    readonly cell?: number;
    readonly from: readonly PlanStepRow['status'][];
  },
  change: Partial<typeof planSteps.$inferInsert>,
): Promise<number> {
  const rows = await database()
    .update(planSteps)
    .set(change)
    .where(
      and(
        eq(planSteps.planId, planId),
        inArray(planSteps.status, [...which.from]),
        which.position === undefined ? undefined : eq(planSteps.position, which.position),
        which.cell === undefined ? undefined : eq(planSteps.cell, which.cell),
      ),
    )
    .returning({ position: planSteps.position });
  return rows.length;
}

export async function addPlanSteps(steps: readonly (typeof planSteps.$inferInsert)[]): Promise<void> {
  if (steps.length > 0)
    await database()
      .insert(planSteps)
      .values([...steps]);
}

export interface PlanOfTrial {
  readonly planId: string;
  readonly name: string;
  readonly question: string;
  readonly cell: number;
  readonly repeat: number;
}

/** The plan that a trial was made by, with its name and which repeat it is; null for a trial by itself. */
export async function planOfTrial(trialId: string): Promise<PlanOfTrial | null> {
  const rows = await database()
    .select({
      planId: plans.id,
      name: plans.name,
      question: plans.question,
      cell: planSteps.cell,
      repeat: planSteps.repeat,
    })
    .from(planSteps)
    .innerJoin(plans, eq(plans.id, planSteps.planId))
    .where(eq(planSteps.trialId, trialId))
    .limit(1);
  return rows[0] ?? null;
}
