import { and, asc, count, desc, eq, getTableColumns, inArray, sql } from 'drizzle-orm';
import type { PlaybackSummary } from '@/core/playback/summary';
import type { ColdProof } from '@/engine/media/coldFile';
import { database } from '../client';
import { samples, traceBatches, trials, type TrialKind, type TrialStatus } from '../schema';

export type TrialRow = typeof trials.$inferSelect;
/** A trial without its per-slot charges, for lists. */
export type TrialListRow = Omit<TrialRow, 'charges'>;

const { charges: _charges, ...listColumns } = getTableColumns(trials);

const { id, createdAt, status, outcome, subject, settings, load } = listColumns;
/** A trial as a long list shows it: without what only its own page needs. */
export type TrialTableRow = Pick<
  TrialRow,
  'id' | 'createdAt' | 'status' | 'outcome' | 'subject' | 'settings' | 'load'
> & { readonly summary: TableSummary | null; readonly cold: ColdProof['method'] | null };
export type TableSummary = Pick<
  PlaybackSummary,
  'slots' | 'shown' | 'late' | 'dropped' | 'wrong' | 'grade' | 'achievedRate' | 'timesRealTime' | 'pacingMs'
> & { readonly attribution: { readonly countByCharge: Readonly<Record<number, number>> | null } | null };

/** Newest trials that a list shows; what is older is found by its timeline, clip or matrix. */
export const mostListed = 1_000;

const tableSummary = sql<TableSummary | null>`(${trials.summary} - '{cures,parts,serviceMs,meanServiceMs,attribution}'::text[]) || jsonb_build_object('attribution', jsonb_build_object('countByCharge', ${trials.summary}->'attribution'->'countByCharge'))`;

/** Trials of a rig as a list shows them, newest first. */
export async function listTrialTable(
  rigId: string,
  kind: TrialKind,
  timelineId: string | null = null,
): Promise<TrialTableRow[]> {
  const ofTimeline =
    timelineId === null ? undefined : sql`${trials.subject}->'timeline'->>'id' = ${timelineId}`;
  return database()
    .select({
      id,
      createdAt,
      status,
      outcome,
      settings,
      load,
      subject: sql<TrialRow['subject']>`${subject} - '{structure,volumeFacts}'::text[]`,
      summary: tableSummary,
      cold: sql<TrialTableRow['cold']>`${trials.conditions}->'run'->'cold'->>'method'`,
    })
    .from(trials)
    .where(and(eq(trials.rigId, rigId), eq(trials.kind, kind), ofTimeline))
    .orderBy(desc(trials.createdAt))
    .limit(mostListed);
}

export async function addTrial(row: typeof trials.$inferInsert): Promise<void> {
  await database().insert(trials).values(row);
}

export async function getTrial(id: string): Promise<TrialRow | null> {
  return (await database().select().from(trials).where(eq(trials.id, id)))[0] ?? null;
}

/** The newest finished playback trials of a rig, only what names them: light enough for long lists. */
export async function newestTrials(
  rigId: string,
  most: number,
): Promise<
  { id: string; name: string; volume: string; scale: string; simulated: boolean; createdAt: Date }[]
> {
  return database()
    .select({
      id: trials.id,
      createdAt: trials.createdAt,
      name: sql<string>`coalesce(${trials.subject}->'timeline'->>'name', regexp_replace(${trials.subject}->>'clipPath', '^.*/', ''))`,
      volume: sql<string>`coalesce(${trials.subject}->>'volumeName', (select string_agg(distinct medium.value->>'volumeName', ', ') from jsonb_each(${trials.subject}->'timeline'->'media') medium), '')`,
      scale: sql<string>`${trials.settings}->>'scale'`,
      simulated: sql<boolean>`coalesce(jsonb_typeof(${trials.subject}->'standIn') = 'object', false)`,
    })
    .from(trials)
    .where(and(eq(trials.rigId, rigId), eq(trials.kind, 'playback'), eq(trials.status, 'done')))
    .orderBy(desc(trials.createdAt))
    .limit(most);
}

/** The newest trial of a kind, or the newest that ended with one of the given statuses. */
export async function latestTrial(
  rigId: string,
  kind: TrialKind,
  ended?: readonly TrialStatus[],
): Promise<TrialListRow | null> {
  return (
    (
      await database()
        .select(listColumns)
        .from(trials)
        .where(
          and(eq(trials.rigId, rigId), eq(trials.kind, kind), ended && inArray(trials.status, [...ended])),
        )
        .orderBy(desc(trials.createdAt))
        .limit(1)
    )[0] ?? null
  );
}

export async function listTrialsByStatus(
  rigId: string,
  statuses: readonly TrialStatus[],
): Promise<TrialListRow[]> {
  return database()
    .select(listColumns)
    .from(trials)
    .where(and(eq(trials.rigId, rigId), inArray(trials.status, [...statuses])))
    .orderBy(asc(trials.createdAt));
}

/** Changes a trial if it still has one of the given statuses. Returns whether it did. */
export async function updateTrial(
  id: string,
  from: readonly TrialStatus[],
  change: Partial<typeof trials.$inferInsert>,
): Promise<boolean> {
  const changed = await database()
    .update(trials)
    .set(change)
    .where(and(eq(trials.id, id), inArray(trials.status, [...from])))
    .returning({ id: trials.id });
  return changed.length > 0;
}

export async function queueLength(rigId: string): Promise<number> {
  const [row] = await database()
    .select({ value: count() })
    .from(trials)
    .where(and(eq(trials.rigId, rigId), eq(trials.status, 'queued')));
  return row?.value ?? 0;
}

/** Finished playback trials of a rig. */
export async function countFinished(rigId: string): Promise<number> {
  return database().$count(
    trials,
    and(eq(trials.rigId, rigId), eq(trials.kind, 'playback'), eq(trials.status, 'done')),
  );
}

export async function removeTrial(id: string): Promise<void> {
  await database().delete(trials).where(eq(trials.id, id));
  await database().delete(samples).where(eq(samples.trialId, id));
}

/** Appends a piece of a trace. Saving the same piece twice changes nothing. */
export async function saveTraceBatch(
  trialId: string,
  fromSlot: number,
  slots: number,
  data: Buffer,
): Promise<void> {
  await database().insert(traceBatches).values({ trialId, fromSlot, slots, data }).onConflictDoNothing();
}

/** The pieces of a trace in order of slots, from `fromSlot` on. */
export async function listTraceBatches(trialId: string, fromSlot = 0) {
  return database()
    .select()
    .from(traceBatches)
    .where(
      and(
        eq(traceBatches.trialId, trialId),
        sql`${traceBatches.fromSlot} + ${traceBatches.slots} > ${fromSlot}`,
      ),
    )
    .orderBy(asc(traceBatches.fromSlot));
}

export async function saveSample(row: typeof samples.$inferInsert): Promise<void> {
  await database().insert(samples).values(row);
}

export async function listSamples(trialId: string) {
  return database().select().from(samples).where(eq(samples.trialId, trialId)).orderBy(asc(samples.at));
}
