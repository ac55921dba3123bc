import { Worker } from 'node:worker_threads';
import {
  createPresenterShared,
  presenterIsUp,
  presenterState,
  presenterViews,
  type PresenterMessage,
} from './presenterShared';

/** Passes slots at their due times and shows those whose frames are there. */
export interface Presenter {
  /** Resolves when it waits for t0. */
  readonly up: Promise<void>;
  /** Resolves when it has passed the last slot or was ended; rejects when it failed. */
  readonly done: Promise<void>;
  /** Tells when t0 is, on the monotonic clock, µs. */
  begin(startUs: number): void;
  /** The frame of a slot is there. */
  offer(slot: number): void;
  /** No more slots are passed. */
  stop(): void;
  /** Resolves when nothing of it is left. */
  end(): Promise<void>;
}

/** What became of a slot: `presentedAt` is NaN where it was not shown; µs from t0. */
export interface PassedSlot {
  readonly slot: number;
  readonly presentedAt: number;
  readonly wokeAt: number;
}

export interface PresenterOptions {
  readonly slotCount: number;
  readonly slotUs: number;
  /** Called for every slot, in order. */
  readonly onPassed: (passed: PassedSlot) => void;
}

export type OpenPresenter = (options: PresenterOptions) => Presenter;

/** A presenter on a thread of its own. @param path of `presenterWorker`, bundled */
export function presenterThread(path: URL): OpenPresenter {
  return ({ slotCount, slotUs, onPassed }) => {
    const shared = createPresenterShared(slotCount, slotUs);
    const { control, timing, ready, presentedAt, wokeAt } = presenterViews(shared);
    const worker = new Worker(path, { workerData: shared });
    const up = new Promise<void>((resolve, reject) => {
      worker.once('error', reject);
      worker.on('message', ({ slot, shown }: PresenterMessage) => {
        if (slot === presenterIsUp) resolve();
        else
          onPassed({
            slot,
            presentedAt: shown ? (presentedAt[slot] as number) : Number.NaN,
            wokeAt: wokeAt[slot] as number,
          });
      });
    });
    let finish: () => void = () => undefined;
    const done = new Promise<void>((resolve, reject) => {
      finish = resolve;
      worker.once('error', reject);
      worker.once('exit', () => resolve());
    });
    const exited = new Promise<void>((resolve) => {
      worker.once('exit', () => resolve());
    });
    // Whoever awaits them is told; nobody may be awaiting yet.
    for (const promise of [up, done]) promise.catch(() => undefined);
    const tell = (state: number) => {
      Atomics.store(control, 0, state);
      Atomics.notify(control, 0);
    };
    return {
      up,
      done,
      begin: (startUs) => {
        timing[0] = startUs;
        tell(presenterState.running);
      },
      offer: (slot) => {
        Atomics.store(ready, slot, 1);
        Atomics.notify(ready, slot);
      },
      stop: () => tell(presenterState.stopped),
      end: () => {
        finish();
        return exited;
      },
    };
  };
}
