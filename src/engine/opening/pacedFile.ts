import { closeSync, fstatSync, openSync, readSync } from 'node:fs';
import { AVERROR_EOF, AVSEEK_SIZE } from 'node-av/constants';
import { IOContext, type FormatContext } from 'node-av/lib';
import { monotonicUs } from '../clock';
import type { BytesReader } from '../media/frameReader';
import type { SharedPacer } from '../storage/sharedPacer';

/** Bytes that the codec library asks for at a time where it reads by itself. */
const bufferBytes = 65_536;
const shortestWaitUs = 50;
/** What a callback says of a read error (-EIO). */
const readErrorCode = -5;
const seek = { set: 0, current: 1, end: 2 } as const;

/**
 * A file read by its thread, which waits meanwhile: through the system's cache, as the codec library reads, and as late as a
 * stand-in's model would have answered. Tells how long it waited and for how many bytes.
 */
export class PacedFile implements BytesReader {
  private readonly file: number;
  private readonly bytes: number;
  readonly cost = { readUs: 0, bytes: 0 };
  /** What the file was last refused with; null where it never was. */
  failure: Error | null = null;
  private io: IOContext | null = null;

  /**
   * @param stop one word that ends waiting when it becomes 1
   * @throws where the file cannot be opened
   */
  constructor(
    path: string,
    private readonly pacer: SharedPacer | null,
    private readonly place: { readonly stream: number; readonly addressBase: number },
    private readonly stop: Int32Array,
  ) {
    this.file = openSync(path, 'r');
    this.bytes = fstatSync(this.file).size;
  }

  /** @returns bytes that were read; fewer at the end of the file */
  private readInto(target: Buffer, offset: number): number {
    const begun = monotonicUs();
    try {
      const wanted = Math.max(0, Math.min(target.length, this.bytes - offset));
      const { stream, addressBase } = this.place;
      const due =
        wanted === 0
          ? begun
          : (this.pacer?.admit({ stream, address: addressBase + offset, bytes: wanted, write: false }) ??
            begun);
      let got = 0;
      while (got < wanted) {
        const moved = readSync(this.file, target, got, wanted - got, offset + got);
        if (moved === 0) break;
        got += moved;
      }
      for (
        let left = due - monotonicUs();
        left >= shortestWaitUs && !this.isStopped;
        left = due - monotonicUs()
      )
        Atomics.wait(this.stop, 0, 0, left / 1000);
      this.cost.bytes += got;
      return got;
    } catch (error) {
      this.failure = error instanceof Error ? error : new Error(String(error));
      throw error;
    } finally {
      this.cost.readUs += monotonicUs() - begun;
    }
  }

  private get isStopped(): boolean {
    return Atomics.load(this.stop, 0) !== 0;
  }

  /** Bytes at a place, fewer at the end of the file. Rejects where the file cannot be read. */
  read(offset: number, bytes: number): Promise<Buffer> {
    try {
      const data = Buffer.alloc(bytes);
      return Promise.resolve(data.subarray(0, this.readInto(data, offset)));
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
    return container.openInput('', null, null);
  }

  /** After the container that reads from it: a thread that ends with callbacks that are still there takes the process with it. */
  close(): Promise<void> {
    this.io?.freeContext();
    closeSync(this.file);
    return Promise.resolve();
  }
}
