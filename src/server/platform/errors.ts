import { wordsFor, type About } from '@/core/failure';
import type { Fault } from '@/core/fault';
import type { CoreCode } from '@/core/words';
import { refusals } from './words';

export type RefusalCode = keyof typeof refusals;

/** A request that cannot be done, with its words for the person, the HTTP status, and the field at fault. */
export class RequestError<Code extends RefusalCode = RefusalCode> extends Error {
  readonly status: number;
  readonly field: string | null;
  readonly code: Code | CoreCode;
  constructor(code: Code, ...[given, field]: About<(typeof refusals)[Code][1], [string | null]>) {
    const [status, words] = refusals[code];
    super(wordsFor(words, given));
    this.name = 'RequestError';
    this.code = code;
    this.status = status;
    this.field = field ?? null;
  }

  /** The refusal of what the core finds wrong with a choice. */
  static of(fault: Fault): RequestError {
    const { code, message, field } = fault;
    return Object.assign(new RequestError('not-as-asked', { problem: message }, field), { code });
  }
}
