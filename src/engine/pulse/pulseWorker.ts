import { workerData } from 'node:worker_threads';
import { beatsKept, pulseMode, pulseViews, type PulseShared } from './shared';
import { threadCalls } from './thread';
import { pulseWork, warmPulse } from './work';

/** From beat to beat beside a run: together under half a per cent of a core. */
const restMs = 125;
const restBeforeMs = 12;
/** Until the work runs as compiled code. */
const warmUps = 60;

/** The pulse's thread: does fixed work on each core in turn and tells what processor time each took. */
function beat(shared: PulseShared): void {
  const { control, us, core } = pulseViews(shared);
  const calls = threadCalls();
  if (!calls) {
    Atomics.store(control, 0, pulseMode.unable);
    return;
  }
  for (let at = 0; at < warmUps; at++) pulseWork();
  let turn = 0;
  for (;;) {
    const mode = Atomics.load(control, 0);
    if (mode === pulseMode.resting) {
      Atomics.wait(control, 0, pulseMode.resting);
      continue;
    }
    const own = shared.cores[turn++ % shared.cores.length] as number;
    const isThere = calls.keepOn(own);
    warmPulse();
    const begun = calls.processorUs();
    pulseWork();
    const took = calls.processorUs() - begun;
    const count = Atomics.load(control, 1);
    us[count % beatsKept] = took;
    // A core that has been taken away since: the beat counts for the rig.
    core[count % beatsKept] = isThere ? own : -1;
    Atomics.store(control, 1, count + 1);
    Atomics.wait(control, 0, mode, mode === pulseMode.before ? restBeforeMs : restMs);
  }
}

beat(workerData as PulseShared);
