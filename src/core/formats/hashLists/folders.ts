import type { HashName } from './hashes';
import type { HashedFolder } from './write';

/** The hash of some parts, one behind the other, as hexadecimal digits; a text counts as UTF-8. */
export type HashOf = (name: HashName, parts: readonly (string | Uint8Array)[]) => string;

/** A folder with what lies in it. Its own path is empty at the top. */
export interface Tree {
  /** Hash of each file by its name; null where it could not be worked out. */
  readonly files: Map<string, string | null>;
  readonly folders: Map<string, Tree>;
}

const emptyTree = (): Tree => ({ files: new Map(), folders: new Map() });

/** Files by their paths as folders in each other. @param hashes of one kind, null where one is not known */
export function treeOf(hashes: Iterable<readonly [path: string, hash: string | null]>): Tree {
  const root = emptyTree();
  for (const [path, hash] of hashes) {
    const parts = path.split('/');
    const name = parts.pop() as string;
    let folder = root;
    for (const part of parts) {
      let inner = folder.folders.get(part);
      if (!inner) folder.folders.set(part, (inner = emptyTree()));
      folder = inner;
    }
    folder.files.set(name, hash);
  }
  return root;
}

/** The folder at a path; null where there is none. */
export function folderAt(tree: Tree, path: string): Tree | null {
  let folder: Tree | undefined = tree;
  for (const part of path === '' ? [] : path.split('/')) folder = folder?.folders.get(part);
  return folder ?? null;
}

const fromHex = (hex: string): Uint8Array =>
  Uint8Array.from(hex.match(/../g) ?? [], (pair) => Number.parseInt(pair, 16));

interface FolderHashes {
  readonly content: string;
  readonly structure: string;
}

/**
 * The two hashes of a folder (ASC MHL 2.0): the content hash is of the hashes of its files and the content hashes of its folders,
 * one behind the other in the order of their names; the structure hash of the names of its files, and of the names of its folders
 * each with its structure hash. Null where a hash in it is not known, and for C4 identifiers, which are no digits to put one behind
 * the other.
 */
export function folderHashes(tree: Tree, name: HashName, hashOf: HashOf): FolderHashes | null {
  if (name === 'c4') return null;
  const content: Uint8Array[] = [];
  const structure: (string | Uint8Array)[] = [];
  const names = [...tree.files.keys(), ...tree.folders.keys()].sort((a, b) => (a < b ? -1 : 1));
  for (const child of names) {
    const folder = tree.folders.get(child);
    const inner = folder ? folderHashes(folder, name, hashOf) : null;
    const hash = folder ? (inner?.content ?? null) : (tree.files.get(child) ?? null);
    if (hash === null) return null;
    content.push(fromHex(hash));
    structure.push(child);
    if (inner) structure.push(fromHex(inner.structure));
  }
  return { content: hashOf(name, content), structure: hashOf(name, structure) };
}

/** The folders of a tree with their hashes, the outermost first; without those of which a hash is not known. */
export function hashedFolders(
  tree: Tree,
  name: HashName,
  hashOf: HashOf,
  path = '',
): readonly HashedFolder[] {
  const own = folderHashes(tree, name, hashOf);
  return [
    ...(own ? [{ path, ...own }] : []),
    ...[...tree.folders].flatMap(([child, inner]) =>
      hashedFolders(inner, name, hashOf, path === '' ? child : `${path}/${child}`),
    ),
  ];
}
