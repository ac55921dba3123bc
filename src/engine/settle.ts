import { link, open, rename, rm } from 'node:fs/promises';
import { basename, dirname } from 'node:path';
import { errorCode } from './errors';
import { HeldFolder } from './inPlace';

/** Gives a whole file its name, and never another file's: a name that is taken meanwhile is an error. */
export async function settle(partial: string, target: string): Promise<void> {
  try {
    await link(partial, target);
    await rm(partial, { force: true });
  } catch (error) {
    // File systems of cards and shuttle drives often have no hard links.
    if (!['EPERM', 'ENOTSUP', 'EOPNOTSUPP', 'ENOSYS', 'EMLINK'].includes(errorCode(error) ?? '')) throw error;
    await (await open(target, 'wx')).close(); // takes the name, or fails
    await rename(partial, target);
  }
}

/** The same in one folder, which is in hand meanwhile. @throws EngineError where a link is on the way to it */
export function settleBeside(partial: string, target: string): Promise<void> {
  return HeldFolder.during(dirname(target), (folder) =>
    settle(folder.at(basename(partial)), folder.at(basename(target))),
  );
}
