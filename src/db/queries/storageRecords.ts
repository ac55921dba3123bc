import { asc, eq, getTableColumns, sql } from 'drizzle-orm';
import { database } from '../client';
import { blockBatches, checkedFiles, copyFiles, hashLists } from '../schema';
import type { CheckedFile, CopiedFile } from '@/core/storage/copiedFile';

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

export async function saveCheckedFile(trialId: string, { path, ...file }: CheckedFile): Promise<void> {
  await database()
    .insert(checkedFiles)
    .values({ trialId, path, ...file })
    .onConflictDoUpdate({ target: [checkedFiles.trialId, checkedFiles.path], set: file });
}

/** Files that were held against a list: what is wrong first, then by path. */
export async function listCheckedFiles(trialId: string): Promise<CheckedFile[]> {
  const { trialId: _trialId, ...columns } = getTableColumns(checkedFiles);
  return database()
    .select(columns)
    .from(checkedFiles)
    .where(eq(checkedFiles.trialId, trialId))
    .orderBy(sql`${checkedFiles.outcome} = 'same'`, asc(checkedFiles.path));
}

export type HashListRow = typeof hashLists.$inferSelect;

/** Keeps a hash list; the same one is kept once. */
export async function saveHashList(row: typeof hashLists.$inferInsert): Promise<void> {
  await database().insert(hashLists).values(row).onConflictDoNothing();
}

export async function getHashList(id: string): Promise<HashListRow | null> {
  return (await database().select().from(hashLists).where(eq(hashLists.id, id)))[0] ?? null;
}
