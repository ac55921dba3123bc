import { wholeName } from '@/core/rig/processName';
import { textOf } from './systemFiles';

/** The whole name of a process; null where it has gone. */
export function processName(pid: number): string | null {
  const name = textOf(`/proc/${pid}/comm`);
  return name === null ? null : wholeName(name, textOf(`/proc/${pid}/cmdline`) ?? '');
}
