import { lstat, readdir } from 'node:fs/promises';
import { join } from 'node:path';
import { listFolder } from '@/core/formats/hashLists/write';

/** A hash list that lies on a volume. */
export interface FoundList {
  /** Below the volume's folder. */
  readonly path: string;
  readonly bytes: number;
  readonly modifiedMs: number;
}

/** Names of files that hash lists have. */
const listName =
  /\.(mhl|md5|sha1|sha256|sha512|xxh|xxh3|xxh64|xxh128|xxhash)$|^(md5|sha\d+|xxh\w*)sums?(\.txt)?$/i;
/** Levels of folders that are looked into, and entries that are looked at in all. */
const mostLevels = 6;
const mostEntries = 50_000;

/** Hash lists below a folder, the newest first; folders that cannot be read are passed. */
export async function findLists(folder: string): Promise<FoundList[]> {
  const found: FoundList[] = [];
  let looked = 0;
  const visit = async (below: string, level: number): Promise<void> => {
    const entries = await readdir(join(folder, below), { withFileTypes: true }).catch(() => []);
    for (const entry of entries) {
      if (++looked > mostEntries) return;
      const path = below === '' ? entry.name : `${below}/${entry.name}`;
      if (entry.isDirectory() && level < mostLevels) await visit(path, level + 1);
      else if (entry.isFile() && listName.test(entry.name)) {
        const facts = await lstat(join(folder, path)).catch(() => null);
        if (facts) found.push({ path, bytes: facts.size, modifiedMs: Math.round(facts.mtimeMs) });
      }
    }
  };
  await visit('', 0);
  return found.sort((a, b) => b.modifiedMs - a.modifiedMs);
}

/** The folder that a list is of, by where it lies: lists of one form lie in a folder of their own. */
export function folderOfList(path: string): string {
  const parts = path.split('/').slice(0, -1);
  if (parts.at(-1) === listFolder) parts.pop();
  return parts.join('/');
}
