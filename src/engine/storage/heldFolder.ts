import { constants } from 'node:fs';
import { open, type FileHandle } from 'node:fs/promises';
import { EngineError, fileErrorMessage } from '../errors';

/** A folder that is kept in hand: what was written there can still be removed when it has been moved or mounted elsewhere. */
export class HeldFolder {
  private constructor(private readonly handle: FileHandle) {}

  /** @throws EngineError when it is not there */
  static async open(path: string): Promise<HeldFolder> {
    return new HeldFolder(
      await open(path, constants.O_RDONLY | constants.O_DIRECTORY).catch((error: unknown) => {
        throw new EngineError(fileErrorMessage(error, path), { cause: error });
      }),
    );
  }

  /** A path that leads to the folder wherever it is now (proc(5), fd). */
  get path(): string {
    return `/proc/self/fd/${this.handle.fd}`;
  }

  close(): Promise<void> {
    return this.handle.close();
  }
}
