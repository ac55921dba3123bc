import type { CopyWork } from './copyRates';

/** What a copy has done. */
export interface CopyResult {
  readonly work: CopyWork;
  readonly files: number;
  readonly bytes: number;
  readonly seconds: number;
  readonly copied: number;
  readonly present: number;
  readonly conflicts: number;
  readonly damaged: number;
  /** Links and special files that were left out. */
  readonly leftOut: number;
  /** Hash lists that were written, as paths. */
  readonly hashLists: readonly string[];
  /** What had to be done otherwise; absent of older copies. */
  readonly remarks?: readonly string[];
}
