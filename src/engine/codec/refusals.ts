import type { Refusal } from '@/core/media/faults';
import { decodeFailure, thisClip, type DecodeError } from '../decodeFailure';

/** Errors that a decoder may give one after the other in place of a frame. */
export const mostErrorsInRow = 64;

/** What a decoder refused and is done without, in order. With frame threads it is told one packet later. */
export class Refusals {
  private readonly waiting: Refusal[] = [];
  count = 0;
  /** Why it refused the last time; null where it never did. */
  failure: DecodeError | null = null;

  /** @param clipName as messages name the clip at the beginning of a sentence */
  constructor(
    private readonly decoder: string,
    private readonly clipName = thisClip,
  ) {}

  /** Notes the code of an error. */
  note(code: number): void {
    this.failure = decodeFailure(this.clipName, code, this.decoder);
    this.waiting.push(this.failure.refusal);
    this.count++;
  }

  /** Why something was refused that was not asked for yet; null without. */
  take(): Refusal | null {
    return this.waiting.shift() ?? null;
  }

  /** Leaves what was not asked for behind. */
  forget(): void {
    this.waiting.length = 0;
  }
}
