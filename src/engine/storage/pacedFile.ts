import { closeSync, constants, fstatSync, readSync } from 'node:fs';
import { AVERROR_EOF, AVSEEK_SIZE } from 'node-av/constants';
import { IOContext, type FormatContext } from 'node-av/lib';
import { monotonicUs } from '../clock';
import { errorCode } from '../errors';
import { openInPlaceSync } from '../inPlace';
import { alone } from '../media/container';
import { alignedBuffer, alignment, wholePages } from '../media/coldFile';
import type { BytesReader, ClipSource } from '../media/plainReader';
import { joinedFiles, type JoinedFiles } from '../media/joinedFiles';
import { openingRequest } from './openingRequest';
import { SharedPacer, type ThreadPacing } from './sharedPacer';

/** Bytes that the codec library asks for at a time where it reads by itself. */
const bufferBytes = 65_536;
const shortestWaitUs = 50;
/** What a callback says of a read error (-EIO). */
const readErrorCode = -5;
const seek = { set: 0, current: 1, end: 2 } as const;

/**
 * A clip's file, or its files one after the other, read by its thread, which waits meanwhile, as late as a stand-in's model would have answered. Tells how long it waited and
 * for how many bytes.
 */
export class PacedFile implements BytesReader {
  /** Open; null where there are several, which are opened as they are read. */
  private readonly file: number | null;
  /** Of the file, or of the first of several. */
  private readonly bytes: number;
  private readonly joined: JoinedFiles | null;
  /** Files of a take that are open. */
  private readonly kept = new Map<string, number>();
  private readonly pacer: SharedPacer | null;
  /** Where reads past the system's cache go first; null where they go through it. */
  private memory: Buffer | null;
  readonly cost = { readUs: 0, bytes: 0 };
  /** When the first bytes were there, µs on the monotonic clock; null before. */
  firstByteUs: number | null = null;
  /** What the file was last refused with; null where it never was. */
  failure: Error | null = null;
  private io: IOContext | null = null;

  /**
   * @param stop one word that ends waiting when it becomes 1
   * @param direct past the system's cache where the file system allows it; else through it, as the codec library reads
   * @throws where the file cannot be opened
   */
  constructor(
    clip: Pick<ClipSource, 'path' | 'setup' | 'packets'>,
    private readonly pacing: ThreadPacing | null,
    private readonly stop: Int32Array,
    private readonly direct: boolean,
  ) {
    this.joined = joinedFiles(clip);
    const head = this.joined?.files[0] ?? clip.path;
    const past = direct ? openPast(head) : null;
    const file = past ?? openInPlaceSync(head);
    this.memory = past === null ? null : alignedBuffer(bufferBytes + 2 * alignment);
    this.bytes = fstatSync(file).size;
    if (this.joined) closeSync(file);
    this.file = this.joined ? null : file;
    this.pacer = pacing && new SharedPacer(pacing.shared, new Int32Array(pacing.lock));
  }

  /** @returns bytes that were read; fewer at the end of the file */
  private readInto(target: Buffer, offset: number): number {
    const begun = monotonicUs();
    try {
      const end = this.joined?.endOf(offset) ?? this.bytes;
      const wanted = Math.max(0, Math.min(target.length, end - offset));
      if (wanted > 0 && this.joined?.opensEachRead) {
        const opening = openingRequest(offset);
        this.wait(this.admit(opening.address, opening.bytes));
      }
      const dueUs = wanted > 0 ? this.admit(offset, wanted) : begun;
      const got = wanted > 0 ? this.transfer(target, offset, wanted) : 0;
      this.wait(dueUs);
      this.cost.bytes += got;
      return got;
    } catch (error) {
      this.failure = error instanceof Error ? error : new Error(String(error));
      throw error;
    } finally {
      const now = monotonicUs();
      this.firstByteUs ??= now;
      this.cost.readUs += now - begun;
    }
  }

  private wait(dueUs: number): void {
    for (
      let left = dueUs - monotonicUs();
      left >= shortestWaitUs && !this.isStopped;
      left = dueUs - monotonicUs()
    )
      Atomics.wait(this.stop, 0, 0, left / 1000);
  }

  /** When the model would have answered, µs on the monotonic clock. */
  private admit(offset: number, bytes: number): number {
    if (!this.pacer || !this.pacing) return -Infinity;
    const { stream, addressBase } = this.pacing;
    return this.pacer.admit({ stream, address: addressBase + offset, bytes, write: false });
  }

  private transfer(target: Buffer, offset: number, wanted: number): number {
    if (!this.joined) return this.transferFrom(this.file as number, target, offset, wanted);
    const { path, from } = this.joined.fileAt(offset);
    const file = this.kept.get(path) ?? (this.direct ? openPast(path) : null) ?? openInPlaceSync(path);
    if (!this.joined.opensEachRead) this.kept.set(path, file);
    try {
      return this.transferFrom(file, target, from, wanted);
    } finally {
      if (this.joined.opensEachRead) closeSync(file);
    }
  }

  private transferFrom(file: number, target: Buffer, offset: number, wanted: number): number {
    if (!this.memory) return readWhole(file, target, wanted, offset, false);
    const start = Math.floor(offset / alignment) * alignment;
    const length = wholePages(offset + wanted - start);
    if (this.memory.length < length) this.memory = alignedBuffer(length);
    const got = readWhole(file, this.memory, length, start, true) - (offset - start);
    const given = Math.max(0, Math.min(wanted, got));
    this.memory.copy(target, 0, offset - start, offset - start + given);
    return given;
  }

  private get isStopped(): boolean {
    return Atomics.load(this.stop, 0) !== 0;
  }

  /** Bytes at a place, fewer at the end of the file. @throws where the file cannot be read */
  readNow(offset: number, bytes: number): Buffer {
    const data = Buffer.alloc(bytes);
    return data.subarray(0, this.readInto(data, offset));
  }

  /** The same as a promise, which rejects where the file cannot be read. */
  read(offset: number, bytes: number): Promise<Buffer> {
    try {
      return Promise.resolve(this.readNow(offset, bytes));
    } catch (error) {
      return Promise.reject(error instanceof Error ? error : new Error(String(error)));
    }
  }

  /** Has a container of the codec library read from here. @returns the library's code */
  async openAs(container: FormatContext): Promise<number> {
    let at = 0;
    const io = new IOContext();
    io.allocContextWithCallbacks(
      bufferBytes,
      0,
      (size) => {
        try {
          const data = Buffer.alloc(size);
          const got = this.readInto(data, at);
          at += got;
          return got === 0 ? AVERROR_EOF : data.subarray(0, got);
        } catch {
          return readErrorCode;
        }
      },
      null,
      (offset, whence) => {
        if (whence === AVSEEK_SIZE) return BigInt(this.bytes);
        const from = whence === seek.current ? at : whence === seek.end ? this.bytes : 0;
        at = from + Number(offset);
        return BigInt(at);
      },
    );
    this.io = io;
    container.allocContext();
    container.pb = io;
    return container.openInput('', null, alone());
  }

  /** After the container that reads from it: a thread that ends with callbacks that are still there takes the process with it. */
  close(): Promise<void> {
    this.io?.freeContext();
    if (this.file !== null) closeSync(this.file);
    for (const file of this.kept.values()) closeSync(file);
    return Promise.resolve();
  }
}

/** Opens past the system's cache; null where the file system does not allow it. */
function openPast(path: string): number | null {
  try {
    return openInPlaceSync(path, constants.O_RDONLY | constants.O_DIRECT);
  } catch (error) {
    if (errorCode(error) === 'EINVAL') return null;
    throw error;
  }
}

/** @param inPages a file ends within its last page, and what is behind cannot be asked for @returns bytes that were read; fewer at the end of the file */
function readWhole(file: number, target: Buffer, bytes: number, offset: number, inPages: boolean): number {
  let got = 0;
  while (got < bytes) {
    const moved = readSync(file, target, got, bytes - got, offset + got);
    got += moved;
    if (moved === 0 || (inPages && got % alignment !== 0)) break;
  }
  return got;
}
