import { wordsFor, type About } from '@/core/failure';
import { readErrorPlaceHere, type ReadErrorPlace } from './mount';
import { engineWords } from './words';

export type EngineCode = keyof typeof engineWords;

/** A failure in measuring, with its words for people: what happened, to which file or volume, and what to do. */
export class EngineError<Code extends EngineCode = EngineCode> extends Error {
  readonly given: unknown;
  constructor(
    readonly code: Code,
    ...[given, options]: About<(typeof engineWords)[Code], [{ readonly cause?: unknown }]>
  ) {
    super(wordsFor(engineWords[code], given), options);
    this.name = 'EngineError';
    this.given = given;
  }
}

/** What a measuring process tells of its failure. @param what could not be done, in words, when the fault is Navvy's own */
export function failureOf(
  error: unknown,
  what = 'The trial',
): { type: 'failed'; message: string; detail: string } {
  if (error instanceof EngineError)
    return {
      type: 'failed',
      message: error.message,
      detail: error.cause instanceof Error ? error.cause.message : '',
    };
  return {
    type: 'failed',
    message: `${what} failed inside Navvy. The detail below helps to find out why.`,
    detail: error instanceof Error ? (error.stack ?? error.message) : String(error),
  };
}

/** The code of a system error ("ENOENT"), or null. */
export function errorCode(error: unknown): string | null {
  return !(error instanceof EngineError) &&
    typeof error === 'object' &&
    error !== null &&
    'code' in error &&
    typeof error.code === 'string'
    ? error.code
    : null;
}

/** Codes of what the system says. */
const systemCodes: Readonly<Record<string, FileCode>> = {
  ENOENT: 'file-missing',
  EACCES: 'file-forbidden',
  EPERM: 'file-forbidden',
  ENOSPC: 'volume-full',
  EDQUOT: 'volume-full',
  EROFS: 'volume-read-only',
  EEXIST: 'file-there-already',
  EIO: 'device-read-error',
  EREMOTEIO: 'device-read-error',
  ESTALE: 'store-dropped-out',
  // What a mount over a network answers when its server, its link or its own process has gone.
  ENOTCONN: 'store-went-away',
  ECONNABORTED: 'store-went-away',
  ECONNREFUSED: 'store-went-away',
  ECONNRESET: 'store-went-away',
  EHOSTDOWN: 'store-went-away',
  EHOSTUNREACH: 'store-went-away',
  ENETDOWN: 'store-went-away',
  ENETRESET: 'store-went-away',
  ENETUNREACH: 'store-went-away',
  ESHUTDOWN: 'store-went-away',
  ETIMEDOUT: 'store-went-away',
  // What a drive or card answers that was taken out.
  ENODEV: 'drive-went-away',
  ENOMEDIUM: 'drive-went-away',
  ENXIO: 'drive-went-away',
  ENOTDIR: 'no-folder',
};
type FileCode =
  | 'file-missing'
  | 'file-forbidden'
  | 'volume-full'
  | 'volume-read-only'
  | 'file-there-already'
  | 'device-read-error'
  | 'store-read-error'
  | 'store-dropped-out'
  | 'store-went-away'
  | 'drive-went-away'
  | 'no-folder';

/** A read error by where it comes from. */
const readErrors: Readonly<Record<ReadErrorPlace, FileCode>> = {
  store: 'store-read-error',
  'drive-gone': 'drive-went-away',
  drive: 'device-read-error',
};

/** What the system refused of a file or folder, as a failure with words; what is one already stays. @param what names the file or folder */
export function fileError(error: unknown, what: string): EngineError {
  if (error instanceof EngineError) return error as EngineError;
  const said = systemCodes[errorCode(error) ?? ''];
  const code = said === 'device-read-error' ? readErrors[readErrorPlaceHere(what)] : said;
  return code === undefined
    ? new EngineError(
        'file-unusable',
        { what, reason: error instanceof Error ? error.message : String(error) },
        { cause: error },
      )
    : new EngineError(code, { what }, { cause: error });
}

/** The same in words. */
export const fileErrorMessage = (error: unknown, what: string): string => fileError(error, what).message;

/** @throws EngineError naming the step when its code is an error's */
export function check(code: number, step: string): void {
  if (code < 0) throw new EngineError('step-failed', { step, code });
}
