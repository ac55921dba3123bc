import { readdirSync, readFileSync, readlinkSync } from 'node:fs';
import { join } from 'node:path';

/** Names in a folder; none where it cannot be read. */
export function namesIn(folder: string): string[] {
  try {
    return readdirSync(folder);
  } catch {
    return [];
  }
}

/** Paths in a folder; none where it cannot be read. */
export function entriesOf(folder: string): string[] {
  return namesIn(folder).map((name) => join(folder, name));
}

/** Where a link leads; null where there is none. */
export function linkOf(path: string): string | null {
  try {
    return readlinkSync(path);
  } catch {
    return null;
  }
}

/** What a file tells, without blanks around it; null where it cannot be read. */
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
