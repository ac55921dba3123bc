import { wordsFor, type About } from '../../failure';
import { coreWords, type CoreCode } from '../../words';

/** What is wrong in an edit list, and where. `line` counts from 1. */
export class EdlError<Code extends CoreCode = CoreCode> extends Error {
  override name = 'EdlError';
  constructor(
    readonly line: number,
    readonly code: Code,
    ...[given]: About<(typeof coreWords)[Code]>
  ) {
    super(`Line ${line}: ${wordsFor(coreWords[code], given)}`);
  }
}
