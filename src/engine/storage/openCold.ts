import type { FileHandle } from 'node:fs/promises';
import { fileError } from '../errors';
import { openInPlace } from '../inPlace';
import { monotonicUs } from '../clock';
import { evictOpen, openDirect } from '../media/coldFile';
import type { StandInGate } from './standIn';

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

/** How a file is read to its end. */
interface ReadingOn {
  /** Where each part is read into; aligned. */
  readonly buffer: Buffer;
  /** Of a simulated volume, with where the file begins in what it paces. */
  readonly gate: StandInGate | null;
  readonly address: number;
  /** Bytes that are expected of it: so many are paced. */
  readonly bytes: number;
  /** Called before each part; may throw. */
  readonly assertGoing: () => void;
}

/**
 * Reads a file from its device, to its end. @param take each part, with when its reading began
 * @throws EngineError where it cannot be opened
 */
export async function readCold(
  path: string,
  { buffer, gate, address, bytes: size, assertGoing }: ReadingOn,
  take: (part: Buffer, begunUs: number) => void,
): Promise<void> {
  const reader = await openCold(path);
  try {
    for (let at = 0; ;) {
      assertGoing();
      const begun = monotonicUs();
      const expected = Math.min(buffer.length, Math.max(0, size - at));
      const read = () => reader.read(buffer, 0, buffer.length, at).then(({ bytesRead }) => bytesRead);
      const bytes = await (gate && expected > 0 ? gate.pace(0, address + at, expected, false, read) : read());
      take(buffer.subarray(0, bytes), begun);
      at += bytes;
      if (bytes < buffer.length) break; // reading past the cache cannot go on within a page
    }
  } finally {
    await reader.close();
  }
}
