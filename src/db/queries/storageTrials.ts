import { and, asc, desc, eq, getTableColumns, inArray, sql } from 'drizzle-orm';
import type { CopiedFile, StorageSettings } from '@/engine/storage/spec';
import { database } from '../client';
import { blockBatches, copyFiles, storageTrials, type StorageStatus } from '../schema';

export type StorageTrialRow = typeof storageTrials.$inferSelect;

export async function addStorageTrial(row: typeof storageTrials.$inferInsert): Promise<void> {
  await database().insert(storageTrials).values(row);
}

export async function getStorageTrial(id: string): Promise<StorageTrialRow | null> {
  return (await database().select().from(storageTrials).where(eq(storageTrials.id, id)))[0] ?? null;
}

/** Trials of a rig, newest first. */
export async function listStorageTrials(
  rigId: string,
  kinds: readonly StorageSettings['kind'][],
  volumeId: string | null = null,
): Promise<StorageTrialRow[]> {
  return database()
    .select()
    .from(storageTrials)
    .where(
      and(
        eq(storageTrials.rigId, rigId),
        inArray(storageTrials.kind, [...kinds]),
        volumeId === null ? undefined : eq(storageTrials.volumeId, volumeId),
      ),
    )
    .orderBy(desc(storageTrials.createdAt))
    .limit(1_000);
}

/** The newest finished throughput trial of each test on each volume of a rig. */
export async function latestThroughput(rigId: string): Promise<StorageTrialRow[]> {
  const test = sql`${storageTrials.settings}->>'test'`;
  return database()
    .selectDistinctOn([storageTrials.volumeId, test], getTableColumns(storageTrials))
    .from(storageTrials)
    .where(
      and(
        eq(storageTrials.rigId, rigId),
        eq(storageTrials.kind, 'throughput'),
        eq(storageTrials.status, 'done'),
      ),
    )
    .orderBy(storageTrials.volumeId, test, desc(storageTrials.createdAt));
}

export async function listStorageTrialsByStatus(
  rigId: string,
  statuses: readonly StorageStatus[],
): Promise<StorageTrialRow[]> {
  return database()
    .select()
    .from(storageTrials)
    .where(and(eq(storageTrials.rigId, rigId), inArray(storageTrials.status, [...statuses])))
    .orderBy(asc(storageTrials.createdAt));
}

/** Changes a trial if it still has one of the given statuses. Returns whether it did. */
export async function updateStorageTrial(
  id: string,
  from: readonly StorageStatus[],
  change: Partial<typeof storageTrials.$inferInsert>,
): Promise<boolean> {
  const changed = await database()
    .update(storageTrials)
    .set(change)
    .where(and(eq(storageTrials.id, id), inArray(storageTrials.status, [...from])))
    .returning({ id: storageTrials.id });
  return changed.length > 0;
}

export async function removeStorageTrial(id: string): Promise<void> {
  await database().delete(storageTrials).where(eq(storageTrials.id, id));
}

/** Appends requests. Saving the same piece twice changes nothing. */
export async function saveBlockBatch(
  trialId: string,
  fromBlock: number,
  blocks: number,
  data: Buffer,
): Promise<void> {
  await database().insert(blockBatches).values({ trialId, fromBlock, blocks, data }).onConflictDoNothing();
}

export async function listBlockBatches(trialId: string) {
  return database()
    .select()
    .from(blockBatches)
    .where(eq(blockBatches.trialId, trialId))
    .orderBy(asc(blockBatches.fromBlock));
}

export async function saveCopyFile(trialId: string, { path, ...file }: CopiedFile): Promise<void> {
  await database()
    .insert(copyFiles)
    .values({ trialId, path, ...file })
    .onConflictDoUpdate({ target: [copyFiles.trialId, copyFiles.path], set: file });
}

export async function listCopyFiles(trialId: string): Promise<CopiedFile[]> {
  const { trialId: _trialId, ...columns } = getTableColumns(copyFiles);
  return database()
    .select(columns)
    .from(copyFiles)
    .where(eq(copyFiles.trialId, trialId))
    .orderBy(asc(copyFiles.path));
}
