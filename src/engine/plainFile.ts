import { constants } from 'node:fs';
import { open, type FileHandle } from 'node:fs/promises';

/**
 * Opens a file to read that is a file itself: no link is followed, and nothing waits for a pipe that has the name.
 * Null for what is something else. @throws the system's error when it cannot be opened
 */
export async function openPlainFile(path: string): Promise<FileHandle | null> {
  const handle = await open(path, constants.O_RDONLY | constants.O_NOFOLLOW | constants.O_NONBLOCK);
  if ((await handle.stat()).isFile()) return handle;
  await handle.close();
  return null;
}
