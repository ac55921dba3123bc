/** Characters that the system keeps of a process's name. Source: proc(5), /proc/[pid]/comm. */
const kept = 15;

const lastPart = (path: string) => path.slice(path.lastIndexOf('/') + 1);

/**
 * The whole name of a process whose name the system has cut: what of its command line begins so. A name that is shorter
 * than the system's bound, or of which nothing more is told, stays as it is.
 * @param commandLine its arguments, each ended by a zero; empty for the kernel's own
 */
export function wholeName(name: string, commandLine: string): string {
  if (name.length < kept) return name;
  // Of a title that holds its switches as well, what stands before them.
  const parts = commandLine
    .split('\0')
    .map((part) => part.split(' -')[0]?.trim() ?? '')
    .filter(Boolean);
  // The program first, then what it runs: a script goes by its own name. A title that a process gave itself stands whole in the first.
  const found = [...parts.map(lastPart), ...parts].find((part) => part.startsWith(name));
  return found ?? name;
}
