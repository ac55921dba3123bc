import { wordsFor, type About } from '@/core/failure';
import { refusals } from './words';

export type RefusalCode = keyof typeof refusals;

/** A request that cannot be done, with its words for the person, the HTTP status, and the field at fault. */
export class RequestError<Code extends RefusalCode = RefusalCode> extends Error {
  readonly status: number;
  readonly field: string | null;
  constructor(
    readonly code: Code,
    ...[given, field]: About<(typeof refusals)[Code][1], [string | null]>
  ) {
    const [status, words] = refusals[code];
    super(wordsFor(words, given));
    this.name = 'RequestError';
    this.status = status;
    this.field = field ?? null;
  }
}
