import { wordsFor, type About } from '../failure';
import { coreWords, type CoreCode } from '../words';

/** What is wrong in a file of lines, and where. `line` counts from 1; 0 when it concerns the whole file. */
export class LineError<Code extends CoreCode = CoreCode> extends Error {
  constructor(
    readonly line: number,
    readonly code: Code,
    ...[given]: About<(typeof coreWords)[Code]>
  ) {
    const reason = wordsFor(coreWords[code], given);
    super(line > 0 ? `Line ${line}: ${reason}` : reason);
  }
}
