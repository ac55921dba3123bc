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
