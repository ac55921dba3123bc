import { Pacer, pacerState, pacerStateBytes } from '@/core/storage/pacer';
import type { StorageModel } from '@/core/storage/model';
import { monotonicUs, sleepUs } from '../clock';
import type { ColdFile } from '../media/coldFile';

/** Waits shorter than this are left out: a timer cannot keep them, and the model's clock makes up for it. */
const shortestWaitUs = 800;

/** Holds requests of one process back to the times a modelled volume would have taken. */
export class StandInGate {
  private readonly pacer: Pacer;

  /** @param streams readers and writers that ask; @param addressBytes all files of the run, end to end */
  constructor(model: StorageModel, streams: number, addressBytes: number) {
    this.pacer = new Pacer(
      model,
      pacerState(
        new ArrayBuffer(pacerStateBytes(model.drives, streams, addressBytes)),
        model.drives,
        streams,
      ),
    );
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
    const due = this.pacer.admit({ stream, address, bytes, write }, monotonicUs());
    const result = await work();
    const left = due - monotonicUs();
    if (left >= shortestWaitUs) await sleepUs(left);
    return result;
  }
}

/** What a player reads from: a file by byte range. */
export type MediaReader = Pick<ColdFile, 'read'>;

/** A file behind a stand-in's model: the same bytes, later. */
export function pacedReader(file: ColdFile, model: StorageModel | null): MediaReader {
  if (!model) return file;
  const gate = new StandInGate(model, 1, file.size);
  return { read: (offset, bytes) => gate.pace(0, offset, bytes, false, () => file.read(offset, bytes)) };
}
