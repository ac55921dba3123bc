/** A failure with a message for people: what happened, to which file or volume, and what to do. */
export class EngineError extends Error {
  constructor(message: string, options?: { cause?: unknown }) {
    super(message, options);
    this.name = 'EngineError';
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
  return typeof error === 'object' && error !== null && 'code' in error && typeof error.code === 'string'
    ? error.code
    : null;
}

/** Says a file system error in words; what has its own words keeps them. `what` names the file or folder. */
export function fileErrorMessage(error: unknown, what: string): string {
  if (error instanceof EngineError) return error.message;
  switch (errorCode(error)) {
    case 'ENOENT':
      return `${what} is not there. Check that the volume is connected and the file has not been moved, then scan the volume again.`;
    case 'EACCES':
    case 'EPERM':
      return `${what} may not be used by this user. Give permission on it and try again.`;
    case 'ENOSPC':
    case 'EDQUOT':
      return `${what} could not be written: the volume is full. Free space on it or ask for less, then try again.`;
    case 'EROFS':
      return `${what} could not be written: the volume is read-only. Mount it for writing or choose another.`;
    case 'EEXIST':
      return `${what} is there already and was left as it is. Choose another folder or move it away.`;
    case 'EIO':
      return `${what} gave a read error from the device. Check the drive, cable or link, then try again.`;
    case 'ESTALE':
      return `${what} belongs to a network store that has dropped out. Connect the store again and repeat.`;
    case 'ENOTDIR':
      return `${what} is no folder. Choose the folder that holds the media.`;
    default:
      return `${what} could not be used: ${error instanceof Error ? error.message : String(error)}.`;
  }
}
