import { readdirSync, readFileSync } from 'node:fs';

/** Where each thread of a process stands: its name, its state as the system tells it (R, S, D, T) and what it waits for in the kernel. Empty where nothing is told. */
export function threadsInWords(pid: number): string {
  const of = (thread: string, file: string) => readFileSync(`/proc/${pid}/task/${thread}/${file}`, 'utf8');
  try {
    return readdirSync(`/proc/${pid}/task`)
      .map((thread) => {
        // The name stands in brackets and may hold spaces and brackets itself.
        const [, name, state] = /^\d+ \((.*)\) (\w)/s.exec(of(thread, 'stat')) ?? [];
        return `${name} ${state} ${of(thread, 'wchan')}`;
      })
      .join('\n');
  } catch {
    return '';
  }
}
