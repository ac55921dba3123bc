import { wordsFor, type About } from '../failure';
import { coreWords, type CoreCode } from '../words';

/** A bundle that cannot be read, with the place and what to do. */
export class BundleError<Code extends CoreCode = CoreCode> extends Error {
  constructor(
    readonly code: Code,
    ...[given]: About<(typeof coreWords)[Code]>
  ) {
    super(wordsFor(coreWords[code], given));
  }
}
