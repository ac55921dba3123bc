import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';

/** Paths in a folder; none where it cannot be read. */
export function entriesOf(folder: string): string[] {
  try {
    return readdirSync(folder).map((name) => join(folder, name));
  } catch {
    return [];
  }
}

/** What a file tells; null where it cannot be read. */
export function textOf(path: string): string | null {
  try {
    return readFileSync(path, 'utf8').trim();
  } catch {
    return null;
  }
}

/** Numbers that files tell now; those that tell none are left out. */
export function numbersIn(files: readonly string[]): number[] {
  return files.flatMap((file) => {
    const text = textOf(file);
    const value = Number(text);
    return text && Number.isFinite(value) ? [value] : [];
  });
}
