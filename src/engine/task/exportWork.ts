import type { ExportSettings } from '@/core/kinds/export';
import type { TaskSpec } from './spec';

/** Folder below the target volume for exports that are kept. */
const keptFolder = 'exports';

/** What a task process is told of an export. */
export function exportWork({
  keep,
  likeness,
  threads,
  warm,
  ...output
}: ExportSettings): Pick<TaskSpec, 'output' | 'likeness' | 'threads' | 'warm' | 'keepIn'> {
  return { output, likeness, threads, warm, keepIn: keep ? keptFolder : null };
}
