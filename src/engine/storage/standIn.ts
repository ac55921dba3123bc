import type { StorageModel } from '@/core/storage/model';
import { Refusal } from '@/core/storage/pacer';
import { openingRequest } from './openingRequest';
import { monotonicUs, sleepUs } from '../clock';
import { fileError } from '../errors';
import type { MediaBytes } from '../media/mediaBytes';
import type { SharedModel } from './blockShared';
import { sharedModel, SharedPacer, type ThreadPacing } from './sharedPacer';

/** Waits shorter than this are left out: a timer cannot keep them, and the model's clock makes up for it. */
const shortestWaitUs = 800;

/** Holds requests of one process, of all its threads, back to the times a modelled volume would have taken. */
export class StandInGate {
  private readonly shared: SharedModel;
  private readonly lock = new SharedArrayBuffer(4);
  private readonly pacer: SharedPacer;

  /** @param streams readers and writers that ask; @param addressBytes all files of the run, end to end */
  constructor(model: StorageModel, streams: number, addressBytes: number) {
    this.shared = sharedModel(model, streams, addressBytes);
    this.pacer = new SharedPacer(this.shared, new Int32Array(this.lock));
  }

  /** For a thread that reads a file which begins at an address. */
  forThread(stream: number, addressBase: number): ThreadPacing {
    return { shared: this.shared, lock: this.lock, stream, addressBase };
  }

  /**
   * Does the real work of a request, then waits until the model would have answered.
   * @throws Refusal where the model says so
   */
  async pace<Result>(
    stream: number,
    address: number,
    bytes: number,
    write: boolean,
    work: () => Promise<Result>,
  ): Promise<Result> {
    const due = this.pacer.admit({ stream, address, bytes, write });
    const result = await work();
    const left = due - monotonicUs();
    if (left >= shortestWaitUs) await sleepUs(left);
    return result;
  }
}

/** What a player reads from: a file by byte range. */
export type PacedReader = Pick<MediaBytes, 'read'>;

/**
 * A file behind a gate: the same bytes, later.
 * @param base where it begins in the model's address space
 * @throws EngineError where the model refuses them, in the words that a real volume's refusal gets
 */
export function gatedReader(gate: StandInGate, stream: number, base: number, file: MediaBytes): PacedReader {
  return {
    read: async (offset, bytes) => {
      try {
        if (file.opensEachRead) {
          const opening = openingRequest(base + offset);
          await gate.pace(stream, opening.address, opening.bytes, false, () => Promise.resolve());
        }
        return await gate.pace(stream, base + offset, bytes, false, () => file.read(offset, bytes));
      } catch (error) {
        if (!(error instanceof Refusal)) throw error;
        throw fileError(error, file.path);
      }
    },
  };
}

/** How readers of a file are held to a stand-in's model, and threads that read it besides: for its sound, and for previews. */
export interface FilePacing {
  readonly paced: (file: MediaBytes) => PacedReader;
  readonly sound: ThreadPacing | null;
  readonly previews: ThreadPacing | null;
}

/** @param model null: all is read as it comes */
export function pacedFile({ size }: MediaBytes, model: StorageModel | null): FilePacing {
  if (!model)
    return {
      paced: (file) => ({ read: (offset, bytes) => file.read(offset, bytes) }),
      sound: null,
      previews: null,
    };
  const gate = new StandInGate(model, 3, size);
  return {
    paced: (file) => gatedReader(gate, 0, 0, file),
    sound: gate.forThread(1, 0),
    previews: gate.forThread(2, 0),
  };
}
