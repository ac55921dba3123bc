import { randomFillSync } from 'node:crypto';
import { open, readdir, rm, statfs } from 'node:fs/promises';
import { join } from 'node:path';
import { writeReserve } from '@/core/storage/reserve';
import { EngineError, fileError } from '../errors';
import { assertInPlace, openInPlace } from '../inPlace';

const namePattern = /^\.navvy-test-[\w-]+\.tmp$/;
const marker = Buffer.from('Navvy test file. It may be removed.\n');

/** Path of a test file of a trial. Hidden, so that no scan takes it for media. */
export function testFilePath(folder: string, trialId: string, part: string): string {
  return join(folder, `.navvy-test-${trialId}-${part}.tmp`);
}

/** Fills memory with what test files hold: the marker, then bytes that no file system can shorten. */
export function fillTestBlock(buffer: Buffer): void {
  randomFillSync(buffer);
  marker.copy(buffer);
}

/** Makes an empty test file with its marker. @throws EngineError when the folder does not take it */
export async function createTestFile(path: string): Promise<void> {
  try {
    const handle = await open(path, 'wx');
    try {
      await assertInPlace(handle, path);
      await handle.write(marker);
    } catch (error) {
      await rm(path, { force: true });
      throw error;
    } finally {
      await handle.close();
    }
  } catch (error) {
    throw fileError(error, path);
  }
}

/** Removes test files that lie directly in a folder: those of one trial, or all. Only files with the marker go. Returns how many went. */
export async function removeTestFiles(folder: string, trialId: string | null = null): Promise<number> {
  let removed = 0;
  for (const name of await readdir(folder).catch(() => [])) {
    if (!namePattern.test(name) || (trialId !== null && !name.startsWith(`.navvy-test-${trialId}-`)))
      continue;
    if (await hasMarker(join(folder, name))) {
      await rm(join(folder, name), { force: true }).catch(() => undefined);
      removed++;
    }
  }
  return removed;
}

async function hasMarker(path: string): Promise<boolean> {
  const handle = await openInPlace(path).catch(() => null);
  if (!handle) return false;
  try {
    const head = Buffer.alloc(marker.length);
    const { bytesRead } = await handle.read(head, 0, head.length, 0);
    return head.subarray(0, bytesRead).equals(marker.subarray(0, bytesRead)); // a file cut off while it was made has part of it
  } finally {
    await handle.close();
  }
}

/** What is free on a volume, and what of it must stay so, bytes. @throws EngineError when it cannot be told */
export async function roomOn(folder: string): Promise<{ readonly free: number; readonly reserve: number }> {
  const { bsize, bavail, blocks } = await statfs(folder).catch((error: unknown) => {
    throw fileError(error, folder);
  });
  return { free: bsize * bavail, reserve: writeReserve(bsize * blocks) };
}

/** @throws EngineError when writing so much more would touch the volume's reserve */
export async function assertRoom(folder: string, bytes: number): Promise<void> {
  const { free, reserve } = await roomOn(folder);
  if (free - bytes < reserve) {
    throw new EngineError('under-reserve', { folder, free, bytes, reserve });
  }
}
