import type { ExportSettings } from '@/core/kinds/export';
import { exportWork } from '@/engine/task/exportWork';
import { taskKind, type TaskWork } from './shared/task';

/** How an export is made. */
export const workOfExport = (settings: ExportSettings): TaskWork => ({
  ...exportWork(settings),
  suffix: settings.codec,
});

export const exporting = taskKind<'export'>({ work: ({ settings }) => workOfExport(settings) });
