import { asc, eq, getTableColumns } from 'drizzle-orm';
import { database } from '../client';
import { blockBatches, copyFiles } from '../schema';
import type { CopiedFile } from '@/core/storage/copiedFile';

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
