import { lstat, readdir, rm } from 'node:fs/promises';
import { basename, dirname, join } from 'node:path';
import { fileError } from '../errors';
import { listFolder } from '@/core/formats/hashLists/write';
import { chainName } from './hashLists';

/** A file that a copy takes, with its path below the source folder. */
export interface SourceFile {
  readonly path: string;
  readonly bytes: number;
  readonly modifiedMs: number;
}

/** All regular files below a folder, in order of path; links and special files are counted and left out. */
export async function listFiles(folder: string): Promise<{ files: SourceFile[]; leftOut: number }> {
  const files: SourceFile[] = [];
  let leftOut = 0;
  const visit = async (below: string): Promise<void> => {
    const entries = await readdir(join(folder, below), { withFileTypes: true });
    for (const entry of entries.sort((a, b) => (a.name < b.name ? -1 : 1))) {
      const path = below === '' ? entry.name : `${below}/${entry.name}`;
      if (path === `${listFolder}/${chainName}`) continue; // the copy's own chain goes on from it
      if (entry.isDirectory()) await visit(path);
      else if (!entry.isFile()) leftOut++;
      else {
        const { size, mtimeMs } = await lstat(join(folder, path));
        files.push({ path, bytes: size, modifiedMs: Math.round(mtimeMs) });
      }
    }
  };
  try {
    await visit('');
  } catch (error) {
    throw fileError(error, folder);
  }
  return { files, leftOut };
}

/** Where a file is written until it is whole. */
export function partialPath(target: string, trialId: string): string {
  return join(dirname(target), `.navvy-partial-${trialId}-${basename(target)}`);
}

/** Removes what an unfinished copy left below a folder: half-written files of one copy. */
export async function removePartials(folder: string, trialId: string): Promise<number> {
  let removed = 0;
  for (const entry of await readdir(folder, { withFileTypes: true }).catch(() => [])) {
    const path = join(folder, entry.name);
    if (entry.isDirectory()) removed += await removePartials(path, trialId);
    else if (entry.name.startsWith(`.navvy-partial-${trialId}-`)) {
      await rm(path, { force: true }).catch(() => undefined);
      removed++;
    }
  }
  return removed;
}
