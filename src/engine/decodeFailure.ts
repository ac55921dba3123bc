import {
  AVERROR_ENOMEM,
  AVERROR_EXPERIMENTAL,
  AVERROR_INVALIDDATA,
  AVERROR_PATCHWELCOME,
} from 'node-av/constants';
import { FFmpegError } from 'node-av/lib';
import type { Refusal } from '@/core/media/faults';
import { EngineError } from './errors';

/** Why a decoder refused. */
export type DecodeFailure = Exclude<Refusal, 'no-picture'>;

/** The system's code for a function that is not there (ENOSYS), by which decoders refuse what they do not do. */
const notImplemented = -38;

/** Sorts a decoder's code. Invalid data is what a decoder calls bits that break its format's rules. */
export function decodeFailureOf(code: number): DecodeFailure {
  switch (code) {
    case AVERROR_INVALIDDATA:
      return 'damage';
    case AVERROR_PATCHWELCOME:
    case AVERROR_EXPERIMENTAL:
    case notImplemented:
      return 'feature';
    case AVERROR_ENOMEM:
      return 'memory';
    default:
      return 'unknown';
  }
}

/** As messages name a clip that has no name of its own there. */
export const thisClip = 'This clip';

/** Nothing could be decoded, for a reason. */
export class DecodeError extends EngineError<`not-decoded-${DecodeFailure}` | 'no-decoder'> {
  constructor(
    what: string,
    readonly refusal: DecodeFailure,
    /** what refused, and how; null where there is nothing to decode by */
    by: { readonly decoder: string; readonly code: number } | null,
  ) {
    if (by === null) super('no-decoder', { clip: what });
    else
      super(`not-decoded-${refusal}`, {
        what,
        decoder: by.decoder,
        reason: `${FFmpegError.strerror(by.code)}, code ${by.code}`,
      });
  }
}

/**
 * Says why something could not be decoded, and what to do.
 * @param what was to be decoded, as the beginning of a sentence: "This clip"
 */
export function decodeFailure(what: string, code: number, decoder: string): DecodeError {
  return new DecodeError(what, decodeFailureOf(code), { decoder, code });
}
