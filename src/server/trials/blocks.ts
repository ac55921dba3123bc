import { promisify } from 'node:util';
import { gunzipSync, gzip } from 'node:zlib';
import { decodeBlocks, joinBlocks, type Blocks } from '@/core/storage/blocks';
import { listBlockBatches, saveBlockBatch } from '@/db/queries/storageRecords';

const compress = promisify(gzip);

/** Saves packed requests, compressed lightly: it happens while a trial runs. */
export async function storeBlockBatch(
  trialId: string,
  from: number,
  count: number,
  packed: Uint8Array,
): Promise<void> {
  await saveBlockBatch(trialId, from, count, await compress(packed, { level: 1 }));
}

/** The saved requests of a trial from its start to the first missing piece. */
export async function loadBlocks(trialId: string): Promise<Blocks> {
  const parts: Blocks[] = [];
  let expected = 0;
  for (const batch of await listBlockBatches(trialId)) {
    if (batch.fromBlock !== expected) break;
    parts.push(decodeBlocks(gunzipSync(batch.data)));
    expected += batch.blocks;
  }
  return joinBlocks(parts);
}
