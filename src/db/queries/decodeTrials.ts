import { and, asc, desc, eq, getTableColumns, inArray } from 'drizzle-orm';
import type { DecodeSettings } from '@/engine/decode/spec';
import { database } from '../client';
import { decodeTrials, type TrialStatus } from '../schema';

export type DecodeTrialRow = typeof decodeTrials.$inferSelect;
const { record: _record, ...listColumns } = getTableColumns(decodeTrials);
/** A trial without its record of passes and frames. */
export type DecodeTrialListRow = Omit<DecodeTrialRow, 'record'>;

export async function addDecodeTrials(rows: readonly (typeof decodeTrials.$inferInsert)[]): Promise<void> {
  if (rows.length > 0)
    await database()
      .insert(decodeTrials)
      .values([...rows]);
}

export async function getDecodeTrial(id: string): Promise<DecodeTrialRow | null> {
  return (await database().select().from(decodeTrials).where(eq(decodeTrials.id, id)))[0] ?? null;
}

/** Trials of a rig, newest first; of one clip's content where a hash is given. */
export async function listDecodeTrials(
  rigId: string,
  kinds: readonly DecodeSettings['kind'][],
  clipIds: readonly string[] | null = null,
): Promise<DecodeTrialListRow[]> {
  return database()
    .select(listColumns)
    .from(decodeTrials)
    .where(
      and(
        eq(decodeTrials.rigId, rigId),
        inArray(decodeTrials.kind, [...kinds]),
        clipIds === null ? undefined : inArray(decodeTrials.clipId, [...clipIds]),
      ),
    )
    .orderBy(desc(decodeTrials.createdAt))
    .limit(2_000);
}

/** The newest finished decode rate of each format and clip content of a rig, newest first. */
export async function finishedRates(rigId: string): Promise<DecodeTrialListRow[]> {
  return database()
    .select(listColumns)
    .from(decodeTrials)
    .where(and(eq(decodeTrials.rigId, rigId), eq(decodeTrials.kind, 'rate'), eq(decodeTrials.status, 'done')))
    .orderBy(desc(decodeTrials.createdAt))
    .limit(1_000);
}

export async function listDecodeTrialsByStatus(
  rigId: string,
  statuses: readonly TrialStatus[],
): Promise<DecodeTrialListRow[]> {
  return database()
    .select(listColumns)
    .from(decodeTrials)
    .where(and(eq(decodeTrials.rigId, rigId), inArray(decodeTrials.status, [...statuses])))
    .orderBy(asc(decodeTrials.createdAt));
}

/** Changes a trial if it still has one of the given statuses. Returns whether it did. */
export async function updateDecodeTrial(
  id: string,
  from: readonly TrialStatus[],
  change: Partial<typeof decodeTrials.$inferInsert>,
): Promise<boolean> {
  return (
    (
      await database()
        .update(decodeTrials)
        .set(change)
        .where(and(eq(decodeTrials.id, id), inArray(decodeTrials.status, [...from])))
        .returning({ id: decodeTrials.id })
    ).length > 0
  );
}

/** Takes all waiting trials out of the queue. Returns their ids. */
export async function cancelQueuedDecodeTrials(rigId: string): Promise<string[]> {
  const rows = await database()
    .update(decodeTrials)
    .set({ status: 'cancelled', outcome: 'Cancelled before it began.', endedAt: new Date() })
    .where(and(eq(decodeTrials.rigId, rigId), eq(decodeTrials.status, 'queued')))
    .returning({ id: decodeTrials.id });
  return rows.map(({ id }) => id);
}

export async function removeDecodeTrial(id: string): Promise<void> {
  await database().delete(decodeTrials).where(eq(decodeTrials.id, id));
}
