import { writings, type HashName } from '@/core/formats/hashLists/hashes';
import type { ListedFile } from '@/core/formats/hashLists/read';
import type { CheckedFile } from '@/core/storage/copiedFile';
import { verdictOf, type FileHashes } from '@/core/storage/heldAgainst';

/** Files that are not where their list has them, found by what is in them. */
export class Missing {
  private readonly rows: ReadonlyMap<string, number>;
  /** By each of their hashes as it may be written. */
  private readonly byHash = new Map<string, Set<ListedFile>>();
  /** Kinds of hashes by the size of the files that have them; null: the list does not say. */
  private readonly kinds = new Map<number | null, Set<HashName>>();

  constructor(checked: readonly CheckedFile[], files: readonly ListedFile[]) {
    this.rows = new Map(
      checked.flatMap(({ path, outcome }, index) => (outcome === 'missing' ? [[path, index]] : [])),
    );
    for (const file of files)
      if (this.rows.has(file.path))
        for (const hash of file.hashes) {
          addTo(this.kinds, file.bytes, hash.name);
          for (const value of writings(hash)) addTo(this.byHash, `${hash.name} ${value}`, file);
        }
  }

  /** Where the row of one stands among those that were checked. */
  rowOf({ path }: ListedFile): number {
    return this.rows.get(path) as number;
  }

  /** Kinds of hashes that tell whether a file of a size is one of them. */
  hashesFor(bytes: number): readonly HashName[] {
    return [...(this.kinds.get(bytes) ?? []), ...(this.kinds.get(null) ?? [])];
  }

  /** One that has these hashes; it is missing no more. Null where none has. */
  takeSame(bytes: number, computed: FileHashes): ListedFile | null {
    for (const [name, value] of computed)
      for (const file of this.byHash.get(`${name} ${value}`) ?? [])
        if (
          (file.bytes === null || file.bytes === bytes) &&
          verdictOf(file.hashes, computed).outcome === 'same'
        ) {
          for (const hash of file.hashes)
            for (const written of writings(hash)) this.byHash.get(`${hash.name} ${written}`)?.delete(file);
          return file;
        }
    return null;
  }
}

function addTo<Key, Value>(map: Map<Key, Set<Value>>, key: Key, value: Value): void {
  const had = map.get(key);
  if (had) had.add(value);
  else map.set(key, new Set([value]));
}
