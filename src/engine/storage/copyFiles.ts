import { lstat, open, readdir, readFile, link, mkdir, rename, rm, writeFile } from 'node:fs/promises';
import { createHash } from 'node:crypto';
import { hostname } from 'node:os';
import { basename, dirname, join } from 'node:path';
import { c4Id, chainXml, hashListXml, readChain, type HashedFile } from '@/core/formats/hashList';
import { EngineError, errorCode, fileErrorMessage } from '../errors';

/** A file that a copy takes, with its path below the source folder. */
export interface SourceFile {
  readonly path: string;
  readonly bytes: number;
  readonly modifiedMs: number;
}

const listFolder = 'ascmhl';
const chainName = 'ascmhl_chain.xml';

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
    throw new EngineError(fileErrorMessage(error, folder), { cause: error });
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

/** Gives a whole file its name, and never another file's: a name that is taken meanwhile is an error. */
export async function settle(partial: string, target: string): Promise<void> {
  try {
    await link(partial, target);
    await rm(partial, { force: true });
  } catch (error) {
    // File systems of cards and shuttle drives often have no hard links.
    if (!['EPERM', 'ENOTSUP', 'EOPNOTSUPP', 'ENOSYS', 'EMLINK'].includes(errorCode(error) ?? '')) throw error;
    await (await open(target, 'wx')).close(); // takes the name, or fails
    await rename(partial, target);
  }
}

/** Writes a hash list beside the copy and adds it to the folder's chain. Returns its path. */
export async function writeHashList(
  folder: string,
  sourceFolder: string,
  files: readonly HashedFile[],
  toolVersion: string,
  now: Date,
): Promise<string> {
  const lists = join(folder, listFolder);
  await mkdir(lists, { recursive: true });
  const chainPath = join(lists, chainName);
  const chainText = await readFile(chainPath, 'utf8')
    .catch(() => readFile(join(sourceFolder, listFolder, chainName), 'utf8'))
    .catch(() => null);
  const chain = chainText === null ? [] : readChain(chainText);
  const sequence = chain.reduce((most, entry) => Math.max(most, entry.sequence), 0) + 1;
  const stamp = now
    .toISOString()
    .replace(/\.\d+Z$/, 'Z')
    .replace('T', '_')
    .replaceAll(':', '');
  const name = `${String(sequence).padStart(4, '0')}_${basename(folder)}_${stamp}.mhl`;
  const xml = hashListXml({ createdAt: now, host: hostname(), toolVersion, files });
  await writeFile(join(lists, name), xml, { flag: 'wx' });
  const entries = [...chain, { sequence, path: name, c4: c4Id(createHash('sha512').update(xml).digest()) }];
  await writeFile(`${chainPath}.new`, chainXml(entries));
  await rename(`${chainPath}.new`, chainPath);
  return join(lists, name);
}
