import type { ExportSettings } from '@/core/kinds/export';
import type { WorkedIn } from '@/core/playback/settings';
import type { TaskSpec } from './spec';

/** Folder below the target volume for exports that are kept. */
const keptFolder = 'exports';

/** What a task process is told of an export. */
export function exportWork({
  keep,
  likeness,
  threads,
  warm,
  depth,
  fields,
  device = null,
  ...output
}: ExportSettings): Pick<
  TaskSpec,
  'output' | 'device' | 'likeness' | 'threads' | 'warm' | 'keepIn' | keyof WorkedIn
> {
  return { output, device, likeness, threads, warm, depth, fields, keepIn: keep ? keptFolder : null };
}
