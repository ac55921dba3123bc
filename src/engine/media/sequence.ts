import { execFile } from 'node:child_process';
import { createHash } from 'node:crypto';
import { constants } from 'node:fs';
import { lstat, readdir } from 'node:fs/promises';
import { basename, dirname, join } from 'node:path';
import { promisify } from 'node:util';
import { leavesCache, type ColdProof, type ColdWay, type OpenWay } from '@/core/media/coldProof';
import {
  findSequences,
  frameFiles,
  sequenceFiles,
  sequenceName,
  type ImageSequence,
} from '@/core/media/imageSequence';
import { EngineError, fileError } from '../errors';
import { inPlace, withFileInPlace } from '../inPlace';
import { sequenceJoined, type JoinedFiles } from './joinedFiles';
import {
  alignedBuffer,
  alignment,
  isOut,
  openDirect,
  readPages,
  residentBytes,
  wholePages,
} from './coldFile';

const run = promisify(execFile);

/** Files given to one command at once. */
const filesAtOnce = 400;

/** A sequence at its place, with what its files hold. */
export interface PlacedSequence {
  readonly sequence: ImageSequence;
  /** The file of each frame: where one is missing, that of the frame before. */
  readonly files: readonly string[];
  /** Bytes of each of these. */
  readonly sizes: readonly number[];
  /** Bytes of all files, each once. */
  readonly bytes: number;
  readonly modifiedMs: number;
}

/** Whether a path is that of a sequence as it is listed, and no file's. */
const isSequencePath = (path: string): boolean => /#/.test(basename(path));

async function sizesOf(files: readonly string[]): Promise<{ sizes: number[]; modifiedMs: number }> {
  const sizes: number[] = [];
  let modifiedMs = 0;
  for (const file of files) {
    const { size, mtimeMs } = await lstat(file).catch((error: unknown) => {
      throw fileError(error, file);
    });
    sizes.push(size);
    modifiedMs = Math.max(modifiedMs, mtimeMs);
  }
  return { sizes, modifiedMs };
}

/**
 * The sequence that a path names, as it is now; null where the path is a file's, or names no sequence.
 * @throws EngineError where the folder cannot be read
 */
export async function sequenceAt(path: string): Promise<PlacedSequence | null> {
  if (!isSequencePath(path)) return null;
  const isFile = await lstat(path).then(
    () => true,
    () => false,
  );
  if (isFile) return null;
  const folder = dirname(path);
  const entries = await readdir(folder, { withFileTypes: true }).catch((error: unknown) => {
    throw fileError(error, folder);
  });
  const { sequences } = findSequences(entries.flatMap((entry) => (entry.isFile() ? [entry.name] : [])));
  const sequence = sequences.find((one) => sequenceName(one) === basename(path));
  if (!sequence) return null;
  const own = sequenceFiles(sequence).map((name) => join(folder, name));
  const { sizes: ownSizes, modifiedMs } = await sizesOf(own);
  const sizeOf = new Map(own.map((file, at) => [file, ownSizes[at] as number]));
  const files = frameFiles(sequence).map((name) => join(folder, name));
  return {
    sequence,
    files,
    sizes: files.map((file) => sizeOf.get(file) as number),
    bytes: ownSizes.reduce((sum, size) => sum + size, 0),
    modifiedMs,
  };
}

/** A hash that names a sequence's content without reading all of it: sizes of its files, and the beginnings of the first and the last. */
export async function sequenceHash({ files, sizes }: PlacedSequence): Promise<string> {
  const hash = createHash('sha256').update(sizes.join(' '));
  for (const file of [files[0], files.at(-1)] as string[])
    await inPlace(file, async (handle) => {
      const part = Buffer.allocUnsafe(1_000_000);
      const { bytesRead } = await handle.read(part, 0, part.length, 0);
      hash.update(part.subarray(0, bytesRead));
    });
  return hash.digest('hex');
}

async function inPieces(files: readonly string[], work: (piece: string[]) => Promise<void>): Promise<void> {
  for (let at = 0; at < files.length; at += filesAtOnce) await work(files.slice(at, at + filesAtOnce));
}

/** Share of files' pages that the system holds in memory; null when it cannot be told. */
async function residentOf(files: readonly string[], bytes: number): Promise<number | null> {
  let resident = 0;
  try {
    await inPieces(files, async (piece) => {
      resident += await residentBytes(piece);
    });
  } catch {
    return null;
  }
  return Number.isFinite(resident) ? Math.min(1, resident / Math.max(1, bytes)) : null;
}

/** Writes out files' changed pages, then asks the system to drop all of them from memory. */
async function evictAll(files: readonly string[]): Promise<void> {
  const each = 'sync -d "$@"; for file do dd if="$file" iflag=nocache count=0 status=none; done';
  await inPieces(files, async (piece) => {
    await run('sh', ['-c', each, 'sh', ...piece]).catch(() => undefined);
  });
}

/**
 * A sequence read frame by frame: each file is opened, read and closed, as a player must. Places are those of the files end to end.
 * One reader at a time; the returned bytes are valid until the next read.
 */
export class ColdSequence {
  private readonly memory: Buffer;
  /** Each read opens a file, which a made-up volume takes its time for. */
  readonly opensEachRead = true;

  private constructor(
    readonly path: string,
    private readonly frames: JoinedFiles,
    private readonly direct: boolean,
    readonly proof: ColdProof,
    private readonly largestRead: number,
  ) {
    this.memory = alignedBuffer(wholePages(largestRead) + 2 * alignment);
  }

  get size(): number {
    return this.frames.bytes;
  }

  /**
   * @param sizes bytes of its files as they were when it was indexed
   * @param largestRead the most bytes one read will ask for
   * @throws EngineError when a file is missing, unreadable, or another than was indexed
   */
  static async open(
    path: string,
    sequence: ImageSequence,
    sizes: readonly number[],
    largestRead: number,
    way: OpenWay = 'past',
  ): Promise<ColdSequence> {
    const frames = sequenceJoined(path, sequence, sizes);
    const { files } = frames;
    await assertSizes(frames);
    const bytes = sizes.reduce((sum, size) => sum + wholePages(size), 0);
    const warm = leavesCache(way);
    const residentBefore = way === 'plain' ? null : await residentOf(files, bytes);
    const first = files[0] as string;
    const tried =
      way === 'past'
        ? await openDirect(first).catch((error: unknown) => {
            throw fileError(error, first);
          })
        : null;
    await tried?.close();
    if (!warm) await evictAll(files);
    const residentAtStart = warm ? residentBefore : await residentOf(files, bytes);
    const method = tried ? 'direct' : !warm && isOut(residentAtStart) ? 'evicted' : 'warm';
    return new ColdSequence(
      path,
      frames,
      tried !== null,
      { method, residentBefore, residentAtStart },
      largestRead,
    );
  }

  /** Another reader of the same files: what was proved of this one holds for it. */
  another(): Promise<ColdSequence> {
    return Promise.resolve(
      new ColdSequence(this.path, this.frames, this.direct, this.proof, this.largestRead),
    );
  }

  /**
   * Reads `size` bytes at `offset`, all of one file.
   * @throws EngineError when the file ends before, is not there, or the device fails
   */
  async read(offset: number, size: number): Promise<Buffer> {
    const { path, from } = this.frames.fileAt(offset);
    const flags = constants.O_RDONLY | (this.direct ? constants.O_DIRECT : 0);
    const { start, got } = await withFileInPlace(path, flags, (handle) =>
      readPages(handle, this.memory, this.direct, from, size),
    ).catch((error: unknown) => {
      throw fileError(error, path);
    });
    if (start + got < from + size)
      throw new EngineError('ends-before-byte', { path, end: start + got, needed: from + size });
    return this.memory.subarray(from - start, from - start + size);
  }

  /** See `ColdFile`. */
  async emptyCache(): Promise<ColdWay> {
    if (this.direct) return 'past';
    await evictAll(this.frames.files);
    return isOut(await residentOf(this.frames.files, this.size)) ? 'emptied' : 'cache';
  }

  /** Throws EngineError when a file is gone or is another by now. */
  assertStillThere(): Promise<void> {
    return assertSizes(this.frames);
  }

  close(): Promise<void> {
    return Promise.resolve();
  }
}

async function assertSizes({ files, sizes }: JoinedFiles): Promise<void> {
  const { sizes: now } = await sizesOf(files);
  const changed = now.findIndex((size, at) => size !== sizes[at]);
  if (changed >= 0) throw new EngineError('changed-meanwhile', { path: files[changed] as string });
}
