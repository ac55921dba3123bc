import { failureOf } from '../errors';
import { CopyRun } from './copyRun';
import { Measurement } from './measurement';
import { VerifyRun } from './verifyRun';
import type { FromStorage, StorageSpec, ToStorage } from './spec';

/**
 * The process that does one storage trial or copy, alone. It is told what to do
 * over IPC, sends its record in batches and ends. It knows neither database nor server.
 */
interface Running {
  readonly stopped: boolean;
  stop(): void;
}

let running: Running | null = null;
let stopped: 'cancelled' | 'paused' | null = null;

function tell(message: FromStorage): void {
  if (process.connected) process.send?.(message);
}

process.on('message', (message: ToStorage) => {
  if (message.type === 'start') void perform(message.spec);
  else {
    stopped = message.type === 'cancel' ? 'cancelled' : 'paused';
    running?.stop();
  }
});
// Without its runner nobody would save the record: end at once. The runner's next start removes what is left.
process.on('disconnect', () => process.exit(0));

async function perform(spec: StorageSpec): Promise<void> {
  try {
    if (spec.kind === 'copy') {
      const copy = new CopyRun(spec, tell);
      running = copy;
      if (stopped) copy.stop();
      const result = await copy.copy();
      tell({ type: 'finished', stopped, copy: result, verification: null });
    } else if (spec.kind === 'verification') {
      const verification = new VerifyRun(spec, tell);
      running = verification;
      if (stopped) verification.stop();
      const result = await verification.verify();
      tell({ type: 'finished', stopped, copy: null, verification: result });
    } else {
      const measurement = new Measurement(spec, tell, new URL('./storageWorker.mjs', import.meta.url));
      running = measurement;
      if (stopped) measurement.stop();
      await measurement.measure();
      tell({ type: 'finished', stopped, copy: null, verification: null });
    }
  } catch (error) {
    tell(failureOf(error));
  }
  process.disconnect?.();
}
