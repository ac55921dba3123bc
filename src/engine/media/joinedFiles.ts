import { dirname, join } from 'node:path';
import { frameFiles, type ImageSequence } from '@/core/media/imageSequence';
import { partitionPoint } from '@/core/stats/partitionPoint';
import type { PacketTable } from '@/core/media/packetTable';
import type { CodecSetup } from './streamFacts';

/** Files of a clip as if they lay end to end. */
export class JoinedFiles {
  /** Bytes of all. */
  readonly bytes: number;
  private readonly starts: readonly number[];

  /**
   * @param opensEachRead each is opened for what is read of it and closed, as a player must with frames; else they stay open
   */
  constructor(
    readonly files: readonly string[],
    readonly sizes: readonly number[],
    readonly opensEachRead: boolean,
  ) {
    let end = 0;
    this.starts = sizes.map((bytes) => (end += bytes) - bytes);
    this.bytes = end;
  }

  indexAt(offset: number): number {
    const after = partitionPoint(this.starts.length, (at) => this.startOf(at) <= offset);
    return Math.max(0, after - 1);
  }

  startOf(index: number): number {
    return this.starts[index] as number;
  }

  /** The file that holds a place, and where in it that is. */
  fileAt(offset: number): { readonly path: string; readonly from: number } {
    const at = this.indexAt(offset);
    return { path: this.files[at] as string, from: offset - this.startOf(at) };
  }

  /** Where the file that holds a place ends. */
  endOf(offset: number): number {
    const at = this.indexAt(offset);
    return this.startOf(at) + (this.sizes[at] as number);
  }
}

/** A sequence's frames: a file that stands in for another is there again. @param path of the sequence as it is listed */
export const sequenceJoined = (
  path: string,
  sequence: ImageSequence,
  sizes: readonly number[],
): JoinedFiles =>
  new JoinedFiles(
    frameFiles(sequence).map((name) => join(dirname(path), name)),
    sizes,
    true,
  );

/** Whether a clip lies in several files: one for each frame, or those of a take that a camera split. */
export const hasFiles = ({ sequence, parts }: Pick<CodecSetup, 'sequence' | 'parts'>): boolean =>
  sequence !== undefined || parts !== undefined;

/** The files of a clip that has several; null where it is one. */
export function joinedFiles(clip: {
  readonly path: string;
  readonly setup: Pick<CodecSetup, 'sequence' | 'parts'>;
  readonly packets: PacketTable;
}): JoinedFiles | null {
  const { path, setup, packets } = clip;
  if (setup.sequence) return sequenceJoined(path, setup.sequence, [...packets.size]);
  if (!setup.parts) return null;
  return new JoinedFiles(
    setup.parts.map(({ name }) => join(dirname(path), name)),
    setup.parts.map(({ bytes }) => bytes),
    false,
  );
}
