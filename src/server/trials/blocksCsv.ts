import { csvOf, type Cell } from '@/core/formats/csv';
import { storageKinds } from '@/core/kinds/kinds';
import { loadBlocks } from './blocks';
import { requireTrial } from '../platform/trialQueue';

/** Every request of a trial as CSV: times in µs from the first request. */
export async function blocksCsv(id: string): Promise<string> {
  await requireTrial(id, storageKinds);
  const blocks = await loadBlocks(id);
  const lines: Cell[][] = [
    ['repeat', 'stream', 'direction', 'start_us', 'end_us', 'bytes', 'due_us', 'skipped'],
  ];
  for (let row = 0; row < blocks.length; row++) {
    const due = blocks.dueUs[row] as number;
    lines.push([
      blocks.repeat[row],
      blocks.stream[row],
      blocks.write[row] === 1 ? 'write' : 'read',
      blocks.startUs[row]?.toFixed(1),
      blocks.endUs[row]?.toFixed(1),
      blocks.bytes[row],
      Number.isNaN(due) ? '' : due.toFixed(1),
      blocks.skipped[row],
    ]);
  }
  return csvOf(lines);
}
