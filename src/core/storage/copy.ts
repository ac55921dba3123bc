import { count, size } from '../format';
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

/** A copy's result in a sentence. */
export function copySentence(
  { files, copied, present, conflicts, damaged, bytes }: CopyResult,
  verified: boolean,
): string {
  const problems = [
    damaged > 0 && `${count(damaged)} read back differently`,
    conflicts > 0 && `${count(conflicts)} had other content there and were left`,
  ].filter((part) => typeof part === 'string');
  const what = `${count(copied + present)} of ${count(files)} files, ${size(bytes)} in all, ${verified ? 'copied and verified' : 'copied, not verified'}`;
  return `${what}${present > 0 ? `; ${count(present)} were there already` : ''}${problems.length > 0 ? `; ${problems.join('; ')}` : ''}.`;
}
