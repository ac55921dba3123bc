import { Pacer, pacerState, pacerStateBytes, type PacedRequest } from '@/core/storage/pacer';
import type { StorageModel } from '@/core/storage/model';
import { monotonicUs } from '../clock';
import type { SharedModel } from './blockShared';

/** Memory for a stand-in's model that so many readers of several threads ask, over files of so many bytes end to end. */
export function sharedModel(model: StorageModel, streams: number, addressBytes: number): SharedModel {
  const state = new SharedArrayBuffer(pacerStateBytes(model.drives, streams, addressBytes));
  return { model, streams, state };
}

/** What a thread that reads needs to be held to a stand-in's model together with all others. */
export interface ThreadPacing {
  readonly shared: SharedModel;
  readonly lock: SharedArrayBuffer;
  readonly stream: number;
  /** Where its file begins in the model's address space. */
  readonly addressBase: number;
}

/** A stand-in's model that threads ask by turns. */
export class SharedPacer {
  private readonly pacer: Pacer;

  /** @param lock one word, 1 while a thread asks */
  constructor(
    { model, streams, state }: SharedModel,
    private readonly lock: Int32Array,
  ) {
    this.pacer = new Pacer(model, pacerState(state, model.drives, streams));
  }

  /**
   * @returns when the model would have answered, µs on the monotonic clock
   * @throws Refusal where the model says so
   */
  admit(request: PacedRequest): number {
    return this.admitNext(() => request);
  }

  /**
   * The same of a request that is chosen in its turn, so that requests of several threads keep their order.
   * @param choose null: there is none left
   * @param owed by how much it counts as asked for earlier, µs (see `owedUs`)
   * @returns NaN where there was none
   */
  admitNext(choose: () => PacedRequest | null, owed = 0): number {
    while (Atomics.compareExchange(this.lock, 0, 0, 1) !== 0) Atomics.wait(this.lock, 0, 1, 1);
    try {
      const request = choose();
      return request ? this.pacer.admit(request, monotonicUs() - owed) : Number.NaN;
    } finally {
      Atomics.store(this.lock, 0, 0);
      Atomics.notify(this.lock, 0, 1);
    }
  }
}
