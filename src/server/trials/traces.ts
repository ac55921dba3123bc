import { promisify } from 'node:util';
import { gunzipSync, gzip } from 'node:zlib';
import { decodeTrace, joinTraces, type Trace } from '@/core/playback/trace';
import { listTraceBatches, saveTraceBatch } from '@/db/queries/trials';

const compress = promisify(gzip);

/** Saves a packed piece of a trace, compressed lightly: it happens while a trial runs. */
export async function storeTraceBatch(
  trialId: string,
  from: number,
  count: number,
  packed: Uint8Array,
): Promise<void> {
  await saveTraceBatch(trialId, from, count, await compress(packed, { level: 1 }));
}

/**
 * The saved trace of a trial from its start to the first missing piece.
 * Slots after a gap (a batch that was lost) are left out.
 */
export async function loadTrace(trialId: string): Promise<Trace> {
  const parts: Trace[] = [];
  let expected = 0;
  for (const batch of await listTraceBatches(trialId)) {
    if (batch.fromSlot !== expected) break;
    parts.push(decodeTrace(gunzipSync(batch.data), batch.slots)); // a piece is small: a thread for each would cost more
    expected += batch.slots;
  }
  return joinTraces(parts);
}
