import { link, open, rename, rm } from 'node:fs/promises';
import { errorCode } from './errors';

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
