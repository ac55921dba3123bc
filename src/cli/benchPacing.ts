import { Worker } from 'node:worker_threads';
import { quantiles } from '@/core/stats/quantiles';

/** As text: a thread of its own, without the script loader. Sleeps to one due time after the other, and notes how late it woke. */
const loop = `
const { parentPort, workerData: { slots, slotMs } } = require('node:worker_threads');
const never = new Int32Array(new SharedArrayBuffer(4));
const late = [];
const start = performance.now() + 50;
for (let slot = 0; slot < slots; slot++) {
  const due = start + slot * slotMs;
  for (let left = due - performance.now(); left > 0; left = due - performance.now()) Atomics.wait(never, 0, 0, left);
  late.push(performance.now() - due);
}
parentPort.postMessage(late);
`;

/** How late a bare loop of timers wakes on this machine that does nothing else, p99 in ms: what no player can better. */
export async function bareTimerP99(slots: number, slotMs: number): Promise<number> {
  const worker = new Worker(loop, { eval: true, workerData: { slots, slotMs } });
  const late = await new Promise<number[]>((resolve, reject) => {
    worker.once('message', resolve);
    worker.once('error', reject);
  });
  await worker.terminate();
  return quantiles(late, [0.99])[0] as number;
}
