import { AVERROR_ENOMEM, AVERROR_EXPERIMENTAL, AVERROR_INVALIDDATA, AVERROR_PATCHWELCOME } from 'node-av/constants';
import { FFmpegError } from 'node-av/lib';
import { EngineError } from '../errors';

/** Why a decoder refused: what to do about it differs. */
export type DecodeFailure = 'damage' | 'feature' | 'memory' | 'unknown';

/** The system's code for a function that is not there (ENOSYS), by which decoders refuse what they do not do. */
const notImplemented = -38;

/** Sorts a decoder's code. Invalid data is what a decoder calls bits that break its format's rules. */
export function decodeFailureOf(code: number): DecodeFailure {
  switch (code) {
    case AVERROR_INVALIDDATA: return 'damage';
    case AVERROR_PATCHWELCOME: case AVERROR_EXPERIMENTAL: case notImplemented: return 'feature';
    case AVERROR_ENOMEM: return 'memory';
    default: return 'unknown';
  }
}

/**
 * Says why something could not be decoded, and what to do.
 * @param what was to be decoded, as the beginning of a sentence: "Frame 17", "This clip"
 */
export function decodeFailure(what: string, code: number, decoder: string): EngineError {
  return new EngineError(`${what} could not be decoded${reasonOf(code, decoder)}`);
}

function reasonOf(code: number, decoder: string): string {
  switch (decodeFailureOf(code)) {
    case 'damage': return ': its data is damaged. Copy the file again from its source and compare the two.';
    case 'feature': return `: it uses a feature that the decoder ${decoder} does not have. Another copy will not help; choose another clip, or a rendition of it made elsewhere.`;
    case 'memory': return ': there was not enough memory. Close other programs, or choose fewer streams or a smaller clip, then start again.';
    case 'unknown': return ` by ${decoder} (${FFmpegError.strerror(code)}, code ${code}). Try another copy of the file, then another clip of its kind, to learn which of them it is.`;
  }
}
