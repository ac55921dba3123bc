import { dirname, join } from 'node:path';
import { leastCold, type ColdProof, type ColdWay, type OpenWay } from '@/core/media/coldProof';
import type { TakeFile } from '@/core/media/takes';
import { EngineError } from '../errors';
import { ColdFile } from './coldFile';
import { JoinedFiles } from './joinedFiles';

/** A take that a camera split, read as one: its files lie open, end to end. */
export class ColdTake {
  /** Its files are open: a read asks for bytes alone. */
  readonly opensEachRead = false;
  readonly proof: ColdProof;

  private constructor(
    readonly path: string,
    private readonly joined: JoinedFiles,
    private readonly open: readonly ColdFile[],
  ) {
    this.proof = leastCold(open.map(({ proof }) => proof));
  }

  /**
   * @param largestRead the most bytes one read will ask for
   * @throws EngineError when a file is missing, unreadable, or another than was indexed
   */
  static async open(
    path: string,
    parts: readonly TakeFile[],
    largestRead: number,
    way: OpenWay,
  ): Promise<ColdTake> {
    const open: ColdFile[] = [];
    try {
      for (const { name, bytes } of parts) {
        const file = await ColdFile.open(join(dirname(path), name), largestRead, way);
        open.push(file);
        if (file.size !== bytes) throw new EngineError('changed-meanwhile', { path: file.path });
      }
    } catch (error) {
      await Promise.all(open.map((file) => file.close()));
      throw error;
    }
    const sizes = parts.map(({ bytes }) => bytes);
    return new ColdTake(
      path,
      new JoinedFiles(
        open.map((file) => file.path),
        sizes,
        false,
      ),
      open,
    );
  }

  get size(): number {
    return this.joined.bytes;
  }

  /** Another reader of the same files: what was proved of this one holds for it. */
  async another(): Promise<ColdTake> {
    return new ColdTake(this.path, this.joined, await Promise.all(this.open.map((file) => file.another())));
  }

  /** Reads `size` bytes at `offset`, all of one file. @throws EngineError when the file ends before, or the device fails */
  read(offset: number, size: number): Promise<Buffer> {
    const at = this.joined.indexAt(offset);
    return (this.open[at] as ColdFile).read(offset - this.joined.startOf(at), size);
  }

  /** See `ColdFile`. */
  async emptyCache(): Promise<ColdWay> {
    const ways = await Promise.all(this.open.map((file) => file.emptyCache()));
    return ways.includes('cache') ? 'cache' : ways.includes('emptied') ? 'emptied' : 'past';
  }

  /** Throws EngineError when a path no longer leads to the opened file. */
  async assertStillThere(): Promise<void> {
    for (const file of this.open) await file.assertStillThere();
  }

  async close(): Promise<void> {
    await Promise.all(this.open.map((file) => file.close()));
  }
}
