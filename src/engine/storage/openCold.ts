import type { FileHandle } from 'node:fs/promises';
import { fileError } from '../errors';
import { openInPlace } from '../inPlace';
import { evictOpen, openDirect } from '../media/coldFile';

/** Opens past the system's cache, or after dropping the file from it. */
export async function openCold(path: string): Promise<FileHandle> {
  try {
    const direct = await openDirect(path);
    if (direct) return direct;
    const file = await openInPlace(path);
    await evictOpen(file);
    return file;
  } catch (error) {
    throw fileError(error, path);
  }
}
