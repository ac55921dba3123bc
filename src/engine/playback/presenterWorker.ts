import { readlinkSync } from 'node:fs';
import { setPriority } from 'node:os';
import { basename } from 'node:path';
import { parentPort, workerData } from 'node:worker_threads';
import { monotonicUs } from '../clock';
import {
  presenterIsUp,
  presenterViews,
  presenterState,
  type PresenterMessage,
  type PresenterShared,
} from './presenterShared';

/**
 * The presenter's thread: sleeps to each slot's due time and looks whether the
 * frame is there. It does nothing else, so that its pacing is the host's timer
 * and not the other stages' load.
 */
function present(shared: PresenterShared): void {
  const { control, timing, ready, presentedAt, wokeAt } = presenterViews(shared);
  parentPort?.postMessage({ slot: presenterIsUp, shown: false } satisfies PresenterMessage);
  Atomics.wait(control, 0, presenterState.waiting);
  const start = timing[0] as number;
  for (let slot = 0; slot < shared.slotCount; slot++) {
    const due = start + slot * shared.slotUs;
    const deadline = due + shared.slotUs;
    if (!sleepUntil(due)) return;
    wokeAt[slot] = monotonicUs() - start;
    let shown = false;
    for (let now = monotonicUs(); now < deadline; now = monotonicUs()) {
      if (Atomics.load(ready, slot) === 1) {
        presentedAt[slot] = now - start;
        shown = true;
        break;
      }
      Atomics.wait(ready, slot, 0, (deadline - now) / 1000);
      if (Atomics.load(control, 0) === presenterState.stopped) return;
    }
    parentPort?.postMessage({ slot, shown } satisfies PresenterMessage);
  }

  /** False when stopped. */
  function sleepUntil(time: number): boolean {
    for (;;) {
      if (Atomics.load(control, 0) === presenterState.stopped) return false;
      const left = time - monotonicUs();
      if (left <= 0) return true;
      Atomics.wait(control, 0, presenterState.running, left / 1000);
    }
  }
}

/** Lets this thread go first where the system allows it (it needs the right to raise priorities). */
function raisePriority(): void {
  try {
    setPriority(Number(basename(readlinkSync('/proc/thread-self'))), -15);
  } catch {
    // Not permitted: the self-check measures what pacing is like without it.
  }
}

raisePriority();
present(workerData as PresenterShared);
