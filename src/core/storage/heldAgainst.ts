import { isSame, type Hash, type HashName } from '../formats/hashLists/hashes';
import type { CheckedFile } from './copiedFile';

/** What holding a folder against a hash list came to. */
export interface VerificationResult {
  /** Files that the list names, and their bytes as it has them or as they are. */
  readonly files: number;
  readonly bytes: number;
  readonly seconds: number;
  /** Bytes that were read, and how long reading and hashing took, µs. */
  readonly work: {
    readonly read: { readonly bytes: number; readonly us: number };
    readonly hash: { readonly bytes: number; readonly us: number };
  };
  readonly same: number;
  readonly changed: number;
  readonly missing: number;
  /** Missing at their place, and found at another with the same content. */
  readonly moved: number;
  readonly unreadable: number;
  /** There, with a hash in the list that cannot be computed here, or none. */
  readonly unproved: number;
  /** Files that the list does not name. */
  readonly extra: number;
  /** Links and special files, which no list has. */
  readonly leftOut: number;
  /** Folders whose own hashes came out the same, came out otherwise, and prove nothing: not worked out here, or composed in another way. */
  readonly folders: { readonly same: number; readonly changed: number; readonly unproved: number };
}

/** Counts what files came to. */
export const countOf = (files: readonly CheckedFile[], outcome: CheckedFile['outcome']): number =>
  files.reduce((sum, file) => sum + (file.outcome === outcome ? 1 : 0), 0);

/** What was computed of a file, each in small letters. */
export type FileHashes = ReadonlyMap<HashName, string>;

/** What a file comes to against its hashes in a list: all must come out the same. */
export function verdictOf(
  hashes: readonly Hash[],
  computed: FileHashes,
): Pick<CheckedFile, 'outcome' | 'problem'> {
  if (hashes.length === 0)
    return { outcome: 'unproved', problem: 'The list has no hash of it that can be computed here.' };
  const wrong = hashes.filter((hash) => !isSame(hash, computed.get(hash.name) ?? ''));
  return wrong.length === 0
    ? { outcome: 'same', problem: null }
    : {
        outcome: 'changed',
        problem: `Its ${wrong.map(({ name, value }) => `${name} is ${computed.get(name)}; the list has ${value}`).join('; its ')}.`,
      };
}
