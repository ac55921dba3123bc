import { exportWork } from '@/engine/task/exportWork';
import { taskKind } from './shared/task';

export const exporting = taskKind<'export'>({
  work: ({ settings }) => ({ ...exportWork(settings), suffix: settings.codec }),
});
