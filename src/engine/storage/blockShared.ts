import type { StorageModel } from '@/core/storage/model';

/** A reader or writer that runs in a thread of its own. */
export interface Actor {
  readonly path: string;
  /** Past the system's cache. */
  readonly direct: boolean;
  readonly write: boolean;
  /** Its stream in the model. Actors that share one have its requests under way together. */
  readonly stream: number;
  /** Where its file begins in the model's address space. */
  readonly addressBase: number;
  readonly pattern: Pattern;
  /** It ends after so many bytes or so long, whichever is first. */
  readonly bytes: number;
  readonly seconds: number;
}

/** Blocks that actors of one stream have taken so far, together. */
export const createTaken = (): SharedArrayBuffer => new SharedArrayBuffer(4);

/** Files of a clip that has several, by its packets. */
export interface PacketFiles {
  readonly paths: readonly string[];
  /** Index of each packet's file, and where in it the packet lies. */
  readonly fileOf: Uint32Array;
  readonly from: Float64Array;
  /** A file is opened for each packet and closed behind it; else it stays open. */
  readonly opensEachRead: boolean;
}

export type Pattern =
  /** Block after block from the file's start; reading begins again at the end. */
  | {
      readonly kind: 'sequential';
      readonly blockBytes: number;
      readonly fileBytes: number;
      /** Where it begins, in blocks. */
      readonly firstBlock: number;
      readonly taken: SharedArrayBuffer;
    }
  | {
      readonly kind: 'random';
      readonly blockBytes: number;
      readonly fileBytes: number;
      readonly seed: number;
      readonly taken: SharedArrayBuffer;
    }
  /** A clip's packets at its rate, a read-ahead early; round and round. */
  | {
      readonly kind: 'frames';
      readonly offsets: Float64Array;
      readonly sizes: Uint32Array;
      /** Files that the packets lie in; null where all lie in one. */
      readonly files: PacketFiles | null;
      readonly fileBytes: number;
      readonly slotUs: number;
      readonly firstSlot: number;
      readonly readAhead: number;
    };

/** A stand-in's model with memory that all runs of a trial share, so that its cache stays filled between them. */
export interface SharedModel {
  readonly model: StorageModel;
  /** Readers and writers that the state has room for. */
  readonly streams: number;
  readonly state: SharedArrayBuffer;
}

export interface WorkerStart {
  readonly actor: Actor;
  /** Null without a stand-in. */
  readonly shared: SharedModel | null;
  /** `control` words, then t0. */
  readonly control: SharedArrayBuffer;
  readonly ring: SharedArrayBuffer;
}

export type FromWorker =
  | { readonly type: 'up' }
  | { readonly type: 'failed'; readonly code: string | null; readonly message: string };

export const runState = { waiting: 0, running: 1, stopped: 2 } as const;

/** `state`: a value of `runState`. `lock`: 1 while an actor has the pacer. */
export function controlViews(buffer: SharedArrayBuffer) {
  return {
    state: new Int32Array(buffer, 0, 1),
    lock: new Int32Array(buffer, 4, 1),
    start: new Float64Array(buffer, 8, 1),
  };
}

export function createControl(): SharedArrayBuffer {
  return new SharedArrayBuffer(16);
}

const ringRows = 16_384;
const ringFields = 5;

/** One record of a request, on its way from a worker: times in µs from t0. */
export interface BlockRecord {
  readonly startUs: number;
  /** Negative infinity marks a frame that was given up. */
  readonly endUs: number;
  readonly bytes: number;
  readonly dueUs: number;
  /** Whether this host gave the bytes later than the model would have. */
  readonly hostLate: boolean;
}

/** A ring of records between one writing and one reading thread. */
export class RecordRing {
  /** Rows written and rows taken so far. */
  private readonly counts: Int32Array;
  private readonly rows: Float64Array;

  constructor(buffer: SharedArrayBuffer) {
    this.counts = new Int32Array(buffer, 0, 2);
    this.rows = new Float64Array(buffer, 8, ringRows * ringFields);
  }

  static create(): SharedArrayBuffer {
    return new SharedArrayBuffer(8 + ringRows * ringFields * 8);
  }

  /** Waits, without working, while the ring is full. */
  push({ startUs, endUs, bytes, dueUs, hostLate }: BlockRecord): void {
    const written = this.counts[0] as number;
    for (
      let taken = Atomics.load(this.counts, 1);
      written - taken >= ringRows;
      taken = Atomics.load(this.counts, 1)
    )
      Atomics.wait(this.counts, 1, taken, 1_000);
    const at = (written % ringRows) * ringFields;
    this.rows[at] = startUs;
    this.rows[at + 1] = endUs;
    this.rows[at + 2] = bytes;
    this.rows[at + 3] = dueUs;
    this.rows[at + 4] = hostLate ? 1 : 0;
    Atomics.store(this.counts, 0, written + 1);
  }

  /** Hands over all rows that wait. */
  drain(take: (record: BlockRecord) => void): void {
    const written = Atomics.load(this.counts, 0);
    for (let row = this.counts[1] as number; row < written; row++) {
      const at = (row % ringRows) * ringFields;
      take({
        startUs: this.rows[at] as number,
        endUs: this.rows[at + 1] as number,
        bytes: this.rows[at + 2] as number,
        dueUs: this.rows[at + 3] as number,
        hostLate: this.rows[at + 4] === 1,
      });
    }
    Atomics.store(this.counts, 1, written);
    Atomics.notify(this.counts, 1);
  }
}
