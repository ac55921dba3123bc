import { createHash, randomUUID } from 'node:crypto';
import { lstat, mkdir, readdir, rename, writeFile, type FileHandle } from 'node:fs/promises';
import { hostname } from 'node:os';
import { basename, join } from 'node:path';
import {
  c4Id,
  chainXml,
  hashListXml,
  listFolder,
  readChain,
  type ChainEntry,
  type HashedFile,
  type HashedFolder,
} from '@/core/formats/hashLists/write';
import { folderHashes, treeOf } from '@/core/formats/hashLists/folders';
import { greatest } from '@/core/stats/extremes';
import { EngineError, errorCode } from '../errors';
import { hashOfParts } from './hashers';
import { HeldFolder, openInPlace } from '../inPlace';

/** The file that tells the order of a folder's hash lists (ASC MHL). */
export const chainName = 'ascmhl_chain.xml';

/** @throws EngineError when the hash lists of a folder would be written somewhere else, by a link */
export async function assertOwnLists(folder: string): Promise<void> {
  const lists = await lstat(join(folder, listFolder)).catch(() => null);
  const chain = await lstat(join(folder, listFolder, chainName)).catch(() => null);
  if ((lists && !lists.isDirectory()) || (chain && !chain.isFile()))
    throw new EngineError('hash-list-is-link', { path: join(folder, listFolder) });
}

/** Longest chain that is read, bytes: a million lists. */
const mostChainBytes = 256e6;

/** A chain as it lies in a folder; null where there is none. */
async function chainIn(folder: string): Promise<readonly ChainEntry[] | 'unreadable' | null> {
  let handle: FileHandle | null = null;
  try {
    handle = await openInPlace(join(folder, listFolder, chainName));
    if ((await handle.stat()).size > mostChainBytes) return 'unreadable';
    const entries = readChain(await handle.readFile('utf8'));
    return entries.every(({ sequence }) => Number.isSafeInteger(sequence)) ? entries : 'unreadable';
  } catch (error) {
    if (!handle) return ['ENOENT', 'ENOTDIR'].includes(errorCode(error) ?? '') ? null : 'unreadable';
    if (error instanceof SyntaxError) return 'unreadable';
    throw error;
  } finally {
    await handle?.close();
  }
}

export interface WrittenList {
  readonly path: string;
  /** What became of a chain that could not be read; null where none was in the way. */
  readonly remark: string | null;
}

/**
 * Writes a hash list beside a copy and adds it to the folder's chain, or to that of the source where the folder has none. A
 * chain that cannot be read is kept under another name, and a new one begins.
 * @throws EngineError when a link leads out of the folder
 */
export async function writeHashList(
  folder: string,
  sourceFolder: string,
  files: readonly HashedFile[],
  toolVersion: string,
  now: Date,
): Promise<WrittenList> {
  await assertOwnLists(folder);
  const lists = join(folder, listFolder);
  await mkdir(lists, { recursive: true });
  const stamp = now
    .toISOString()
    .replace(/\.\d+Z$/, 'Z')
    .replace('T', '_')
    .replaceAll(':', '');
  return HeldFolder.during(lists, async (held) => {
    const { chain, remark } = await chainFor(folder, sourceFolder, stamp, held);
    const numbered = (await readdir(held.path)).map((name) =>
      Number(/^(\d{4,})_.*\.mhl$/.exec(name)?.[1] ?? 0),
    );
    const sequence = greatest([...numbered, ...chain.map((entry) => entry.sequence)], 0) + 1;
    const name = `${String(sequence).padStart(4, '0')}_${basename(folder)}_${stamp}.mhl`;
    const folders = await foldersOf(files);
    const xml = hashListXml({ createdAt: now, host: hostname(), toolVersion, files, folders });
    await writeFile(held.at(name), xml, { flag: 'wx' });
    const entries = [...chain, { sequence, path: name, c4: c4Id(createHash('sha512').update(xml).digest()) }];
    const fresh = held.at(`.${chainName}-${randomUUID()}`);
    await writeFile(fresh, chainXml(entries), { flag: 'wx' });
    await rename(fresh, held.at(chainName));
    return { path: join(lists, name), remark };
  });
}

/** Every folder of some files with its own hashes. */
async function foldersOf(files: readonly HashedFile[]): Promise<readonly HashedFolder[]> {
  const hashOf = await hashOfParts(['xxh64']);
  const tree = treeOf(files.map(({ path, xxh64 }) => [path, xxh64]));
  return [...folderHashes(tree, 'xxh64', hashOf)].flatMap(([path, own]) => (own ? { path, ...own } : []));
}

async function chainFor(
  folder: string,
  sourceFolder: string,
  stamp: string,
  held: HeldFolder,
): Promise<{ chain: readonly ChainEntry[]; remark: string | null }> {
  const own = await chainIn(folder);
  if (own === 'unreadable') {
    const kept = `ascmhl_chain_unreadable_${stamp}.xml`;
    await rename(held.at(chainName), held.at(kept));
    return {
      chain: [],
      remark: `The chain of hash lists in ${join(folder, listFolder)} could not be read. It was kept as ${kept}, and a new one begins.`,
    };
  }
  const chain = own ?? (await chainIn(sourceFolder));
  return chain === 'unreadable'
    ? { chain: [], remark: 'The chain of hash lists on the card could not be read. A new one begins.' }
    : { chain: chain ?? [], remark: null };
}
