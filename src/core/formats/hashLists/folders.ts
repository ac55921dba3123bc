import type { HashName } from './hashes';

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

const fromHex = (hex: string): Uint8Array =>
  Uint8Array.from(hex.match(/../g) ?? [], (pair) => Number.parseInt(pair, 16));

/** A folder's two hashes, and how many entries lie in it. */
export interface FolderHashes {
  readonly content: string;
  readonly structure: string;
  readonly entries: number;
}

/**
 * Every folder of a tree by its path, the outermost first, with its two hashes (ASC MHL 2.0): the content hash is of the hashes
 * of its files and the content hashes of its folders, one behind the other in the order of their names; the structure hash of the
 * names of its files, and of the names of its folders each with its structure hash. Null where a hash in it is not known. None
 * for C4 identifiers, which are no digits to put one behind the other.
 */
export function folderHashes(
  tree: Tree,
  name: HashName,
  hashOf: HashOf,
): ReadonlyMap<string, FolderHashes | null> {
  const all = new Map<string, FolderHashes | null>();
  const visit = (folder: Tree, path: string): FolderHashes | null => {
    all.set(path, null); // outer ones stand before inner ones
    const content: Uint8Array[] = [];
    const structure: (string | Uint8Array)[] = [];
    let isKnown = true;
    const names = [...folder.files.keys(), ...folder.folders.keys()].sort((a, b) => (a < b ? -1 : 1));
    for (const child of names) {
      const below = folder.folders.get(child);
      const inner = below ? visit(below, path === '' ? child : `${path}/${child}`) : null;
      const hash = below ? inner?.content : folder.files.get(child);
      if (hash == null) isKnown = false;
      else content.push(fromHex(hash));
      structure.push(child);
      if (inner) structure.push(fromHex(inner.structure));
    }
    if (!isKnown) return null;
    const own = {
      content: hashOf(name, content),
      structure: hashOf(name, structure),
      entries: names.length,
    };
    all.set(path, own);
    return own;
  };
  if (name !== 'c4') visit(tree, '');
  return all;
}
