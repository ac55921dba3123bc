export interface CopiedFile {
  readonly path: string;
  readonly bytes: number;
  readonly modifiedMs: number;
  /** `copied`: written and, where asked, verified. `present`: it was there with the same content. */
  readonly outcome: 'copied' | 'present' | 'conflict' | 'damaged';
  readonly xxh64: string | null;
  readonly hashedMs: number;
  readonly problem: string | null;
}

/** A file that was held against a hash list. */
export interface CheckedFile {
  /** As the list has it; of one that it does not name, as it lies there. */
  readonly path: string;
  /** As it is, or as the list has it where it is missing; null where neither says. */
  readonly bytes: number | null;
  /** Null where it is missing. */
  readonly modifiedMs: number | null;
  /** `moved`: its content lies elsewhere in the folder. `unproved`: it is there, and the list has no hash of it that can be computed here. */
  readonly outcome: 'same' | 'changed' | 'missing' | 'moved' | 'unreadable' | 'unproved' | 'extra';
  /** Name and value of the hash that came out; null where none was computed. */
  readonly hash: string | null;
  readonly hashedMs: number;
  readonly problem: string | null;
}
