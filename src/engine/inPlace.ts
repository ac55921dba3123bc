import { closeSync, constants, fstatSync, openSync, readlinkSync } from 'node:fs';
import { open, readlink, type FileHandle } from 'node:fs/promises';
import { join, resolve } from 'node:path';
import { EngineError, errorCode, fileError } from './errors';

/*
 * Files and folders are opened where they are: what a path leads to by a link, at its end or in a folder on the way, is
 * something else than what was scanned or chosen, and may lie anywhere. It is found out of what was really opened, so that
 * nothing can be changed between looking and opening.
 */

/** A path that leads to what is open, wherever it is now (proc(5), fd). @param process that has it open; absent: this one */
export const descriptorPath = (fd: number, process: number | 'self' = 'self'): string =>
  `/proc/${process}/fd/${fd}`;

/** Names that differ in case or composition alone are one on many volumes. */
const folded = (path: string) => path.normalize('NFC').toLowerCase();
/** What the system puts behind the place of a file that was removed while it is open. */
const removed = / \(deleted\)$/;

/** Whether a place, as the system tells it, is where a path says. */
export const isPlace = (real: string, path: string): boolean =>
  folded(real.replace(removed, '')) === folded(resolve(path));

const elsewhere = (path: string, real: string | null) => new EngineError('leads-by-link', { path, real });
const noFile = (path: string) => new EngineError('no-file', { path });

/** Nobody waits for a pipe that has the name of a file. */
const safely = constants.O_NOFOLLOW | constants.O_NONBLOCK;

/** A refusal by the system, in words where it refuses a link. */
const refusal = (error: unknown, path: string) =>
  errorCode(error) === 'ELOOP' ? elsewhere(path, null) : error;

/** @throws EngineError where what is open is not at its path: a link was on the way */
export async function assertInPlace({ fd }: FileHandle, path: string): Promise<void> {
  const real = await readlink(descriptorPath(fd));
  if (!isPlace(real, path)) throw elsewhere(path, real);
}

/**
 * Opens a file where it is.
 * @param flags as of open(2)
 * @throws EngineError where a link is on the way, or it is no file; else the system's error
 */
export async function openInPlace(path: string, flags: number = constants.O_RDONLY): Promise<FileHandle> {
  const handle = await openAny(path, flags);
  try {
    await assertFileInPlace(handle, path);
    return handle;
  } catch (error) {
    await handle.close();
    throw error;
  }
}

/** Opens a file where it is for some work, and closes it behind it. @throws what opening throws, and the work */
export async function inPlace<Outcome>(
  path: string,
  work: (handle: FileHandle) => Promise<Outcome>,
): Promise<Outcome> {
  const handle = await openInPlace(path);
  try {
    return await work(handle);
  } finally {
    await handle.close();
  }
}

/**
 * Opens a file for one piece of work and closes it behind it. Whether it is in place is looked at beside the work, whose outcome is
 * given only if it is: reading must be harmless whatever the path leads to.
 */
export async function withFileInPlace<Outcome>(
  path: string,
  flags: number,
  work: (handle: FileHandle) => Promise<Outcome>,
): Promise<Outcome> {
  const handle = await openAny(path, flags);
  try {
    const [outcome] = await Promise.all([work(handle), assertFileInPlace(handle, path)]);
    return outcome;
  } finally {
    // Nobody waits for it, as nothing depends on it.
    void handle.close().catch(() => undefined);
  }
}

const openAny = (path: string, flags: number): Promise<FileHandle> =>
  open(path, flags | safely).catch((error: unknown) => {
    throw refusal(error, path);
  });

async function assertFileInPlace(handle: FileHandle, path: string): Promise<void> {
  if (!(await handle.stat()).isFile()) throw noFile(path);
  await assertInPlace(handle, path);
}

/** The same for threads that wait for their files. @returns the descriptor */
export function openInPlaceSync(path: string, flags: number = constants.O_RDONLY): number {
  let fd: number;
  try {
    fd = openSync(path, flags | safely);
  } catch (error) {
    throw refusal(error, path);
  }
  try {
    if (!fstatSync(fd).isFile()) throw noFile(path);
    const real = readlinkSync(descriptorPath(fd));
    if (!isPlace(real, path)) throw elsewhere(path, real);
    return fd;
  } catch (error) {
    closeSync(fd);
    throw error;
  }
}

/** A folder that is kept in hand: what is written there goes there and can be removed, also when it has been moved or mounted elsewhere. */
export class HeldFolder {
  private constructor(private readonly handle: FileHandle) {}

  /** @throws EngineError where a link is on the way, it is no folder, or it cannot be opened */
  static async open(path: string): Promise<HeldFolder> {
    const handle = await open(path, constants.O_RDONLY | constants.O_DIRECTORY).catch((error: unknown) => {
      throw fileError(refusal(error, path), path);
    });
    const real = await readlink(descriptorPath(handle.fd));
    if (isPlace(real, path)) return new HeldFolder(handle);
    await handle.close();
    throw elsewhere(path, real);
  }

  /** Does something with a folder in hand, and lets go of it. @throws as `open` does, and what the work throws */
  static async during<Result>(path: string, work: (folder: HeldFolder) => Promise<Result>): Promise<Result> {
    const folder = await HeldFolder.open(path);
    try {
      return await work(folder);
    } finally {
      await folder.close();
    }
  }

  /** A path that leads to the folder wherever it is now. */
  get path(): string {
    return descriptorPath(this.handle.fd);
  }

  /** The same of what lies in it, by its name. */
  at(name: string): string {
    return join(this.path, name);
  }

  close(): Promise<void> {
    return this.handle.close();
  }
}
