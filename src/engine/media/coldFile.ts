import { execFile } from 'node:child_process';
import { constants } from 'node:fs';
import { lstat, type FileHandle } from 'node:fs/promises';
import { promisify } from 'node:util';
import { EngineError, errorCode, fileError } from '../errors';
import { descriptorPath, openInPlace } from '../inPlace';
import { leavesCache, type ColdProof, type ColdWay, type OpenWay } from '@/core/media/coldProof';

const run = promisify(execFile);
/** O_DIRECT wants offsets, sizes and memory in whole pages. */
export const alignment = 4096;

/**
 * Memory of at least `bytes` that begins on a page boundary: a WebAssembly memory
 * does. It is touched here, or the first read into it would be late.
 */
export function alignedBuffer(bytes: number): Buffer {
  return Buffer.from(new WebAssembly.Memory({ initial: Math.max(1, Math.ceil(bytes / 65_536)) }).buffer).fill(
    0,
  );
}

/** A file counts as out of the cache with less than this share of its pages there: what the system reads ahead at once is no help. */
const mostResident = 0.01;

/** Whether so much of a file in memory counts as out of the cache. @param resident share; null: it cannot be told */
export const isOut = (resident: number | null): boolean => resident !== null && resident < mostResident;

/**
 * Reads bytes of an open file into memory of whole pages; past the cache in whole pages too.
 * @returns the first byte of the file that is in the memory, and how many are there: fewer than asked for where the file ends
 */
export async function readPages(
  handle: FileHandle,
  memory: Buffer,
  direct: boolean,
  offset: number,
  size: number,
): Promise<{ readonly start: number; readonly got: number }> {
  const start = direct ? Math.floor(offset / alignment) * alignment : offset;
  const wanted = offset + size - start;
  const length = direct ? wholePages(wanted) : wanted;
  let got = 0;
  while (got < wanted) {
    const { bytesRead } = await handle.read(memory, got, length - got, start + got);
    if (bytesRead === 0) break;
    got += bytesRead;
    if (direct && got % alignment !== 0) break;
  }
  return { start, got };
}

/** The least whole number of pages that holds `bytes`, in bytes. */
export function wholePages(bytes: number): number {
  return Math.ceil(bytes / alignment) * alignment;
}

/** A path by which other processes reach a file that is open here, and no other that has its name meanwhile. */
const outside = ({ fd }: FileHandle) => descriptorPath(fd, process.pid);

/** Bytes of files that the system holds in memory, as counted by fincore. @throws where it cannot be told */
export async function residentBytes(paths: readonly string[]): Promise<number> {
  const { stdout } = await run('fincore', ['--bytes', '--noheadings', '--raw', '--output', 'RES', ...paths]);
  return stdout
    .trim()
    .split('\n')
    .reduce((sum, line) => sum + Number(line), 0);
}

/** Share of a file's pages that the system holds in memory, 0 to 1; null when it cannot be told. */
async function residentOf(file: FileHandle): Promise<number | null> {
  try {
    const { size } = await file.stat();
    if (size === 0) return 0;
    const resident = await residentBytes([outside(file)]);
    return Number.isFinite(resident) ? Math.min(1, resident / wholePages(size)) : null;
  } catch {
    return null;
  }
}

/** Writes out a file's changed pages, then asks the system to drop all of them from memory. */
export async function evictOpen(file: FileHandle): Promise<void> {
  await file.datasync().catch(() => undefined);
  await run('dd', [`if=${outside(file)}`, 'iflag=nocache', 'count=0', 'status=none']).catch(() => undefined);
}

/** The same of a file by its path. @throws the system's error when it cannot be opened */
export async function evict(path: string): Promise<void> {
  const file = await openInPlace(path);
  await evictOpen(file).finally(() => file.close());
}

/**
 * A file read by byte range, from the device rather than from memory where the
 * file system allows it. One reader at a time; the returned bytes are valid until the next read.
 */
export class ColdFile {
  private readonly memory: Buffer;
  /** It is open: a read asks for its bytes alone. */
  readonly opensEachRead = false;

  private constructor(
    readonly path: string,
    private readonly handle: FileHandle,
    readonly size: number,
    private readonly inode: number,
    private readonly direct: boolean,
    readonly proof: ColdProof,
    private readonly largestRead: number,
  ) {
    const bytes = wholePages(largestRead) + 2 * alignment;
    this.memory = alignedBuffer(bytes);
  }

  /**
   * @param largestRead the most bytes one read will ask for
   * @throws EngineError when the file is missing or unreadable
   */
  static async open(path: string, largestRead: number, way: OpenWay = 'past'): Promise<ColdFile> {
    const warm = leavesCache(way);
    try {
      const directHandle = way === 'past' ? await openDirect(path) : null;
      const handle = directHandle ?? (await openInPlace(path));
      const residentBefore = way === 'plain' ? null : await residentOf(handle);
      if (!warm) await evictOpen(handle);
      const residentAtStart = warm ? residentBefore : await residentOf(handle);
      const { size, ino } = await handle.stat();
      const method = directHandle ? 'direct' : !warm && isOut(residentAtStart) ? 'evicted' : 'warm';
      return new ColdFile(
        path,
        handle,
        size,
        ino,
        directHandle !== null,
        { method, residentBefore, residentAtStart },
        largestRead,
      );
    } catch (error) {
      throw fileError(error, path);
    }
  }

  /** Another reader of the same file, opened in the same way: what was proved of this one holds for it. */
  async another(): Promise<ColdFile> {
    try {
      const flags = this.direct ? constants.O_RDONLY | constants.O_DIRECT : constants.O_RDONLY;
      return new ColdFile(
        this.path,
        await openInPlace(this.path, flags),
        this.size,
        this.inode,
        this.direct,
        this.proof,
        this.largestRead,
      );
    } catch (error) {
      throw fileError(error, this.path);
    }
  }

  /**
   * Reads `size` bytes at `offset`.
   * @throws EngineError when the file ends before, or the device fails
   */
  async read(offset: number, size: number): Promise<Buffer> {
    const { start, got } = await readPages(this.handle, this.memory, this.direct, offset, size).catch(
      (error: unknown) => {
        throw fileError(error, this.path);
      },
    );
    if (start + got < offset + size)
      throw new EngineError('ends-before-byte', { path: this.path, end: start + got, needed: offset + size });
    return this.memory.subarray(offset - start, offset - start + size);
  }

  /** Has what is read next come from the volume: past the cache, or out of a cache that is emptied of this file now. Tells which; `cache` where the file system allows neither. */
  async emptyCache(): Promise<ColdWay> {
    if (this.direct) return 'past';
    await evictOpen(this.handle);
    return isOut(await residentOf(this.handle)) ? 'emptied' : 'cache';
  }

  /** Throws EngineError when the path no longer leads to the opened file. */
  async assertStillThere(): Promise<void> {
    const now = await lstat(this.path).catch((error: unknown) => {
      throw fileError(error, this.path);
    });
    if (now.ino !== this.inode || now.size !== this.size) {
      throw new EngineError('changed-meanwhile', { path: this.path });
    }
  }

  close(): Promise<void> {
    return this.handle.close();
  }
}

/** Opens past the page cache and tries one read; null when the file system does not allow it. */
export async function openDirect(path: string): Promise<FileHandle | null> {
  let handle: FileHandle;
  try {
    handle = await openInPlace(path, constants.O_RDONLY | constants.O_DIRECT);
  } catch (error) {
    if (errorCode(error) === 'EINVAL') return null;
    throw error;
  }
  try {
    await handle.read(alignedBuffer(alignment), 0, alignment, 0);
    return handle;
  } catch (error) {
    await handle.close();
    if (errorCode(error) === 'EINVAL') return null;
    throw error;
  }
}
