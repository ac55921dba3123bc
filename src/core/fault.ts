import { wordsFor, type About } from './failure';
import { coreWords, type CoreCode } from './words';

/** What is wrong with something that was chosen or sent: its code, its words, and the field at fault; null where it is no single one. */
export interface Fault<Field extends string | null = string | null> {
  readonly code: CoreCode;
  readonly message: string;
  readonly field: Field;
}

export function faultAt<Field extends string | null, Code extends CoreCode>(
  field: Field,
  code: Code,
  ...[given]: About<(typeof coreWords)[Code]>
): Fault<Field> {
  return { code, message: wordsFor(coreWords[code], given), field };
}
