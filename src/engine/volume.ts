import { constants } from 'node:fs';
import { access, readdir, readFile, realpath, stat, statfs } from 'node:fs/promises';
import { basename, extname, join, relative } from 'node:path';
import { EngineError, fileErrorMessage } from './errors';

/** What the system tells of the place a volume lies on. Sizes in bytes. */
export interface VolumeFacts {
  readonly fileSystem: string;
  readonly device: string;
  readonly mountPoint: string;
  readonly sizeBytes: number;
  readonly freeBytes: number;
  readonly rotational: boolean | null;
  readonly writable: boolean;
}

const mediaEndings = new Set(['.mov', '.mp4', '.m4v', '.mxf', '.mkv', '.avi', '.mts', '.m2ts', '.ts', '.webm', '.mpg', '.dv']);

/**
 * Checks that a folder can be a volume and reads its facts.
 * @returns the folder's real path and its facts
 * @throws EngineError saying what is wrong with the folder
 */
export async function inspectFolder(path: string): Promise<{ path: string; facts: VolumeFacts }> {
  try {
    const real = await realpath(path);
    if (!(await stat(real)).isDirectory()) throw new EngineError(`${path} is a file. Choose the folder that holds the media.`);
    await access(real, constants.R_OK | constants.X_OK);
    const mount = await mountOf(real);
    const { blocks, bsize, bavail } = await statfs(real);
    return {
      path: real,
      facts: {
        ...mount, sizeBytes: blocks * bsize, freeBytes: bavail * bsize,
        rotational: await isRotational(mount.device),
        writable: await access(real, constants.W_OK).then(() => true, () => false),
      },
    };
  } catch (error) {
    if (error instanceof EngineError) throw error;
    throw new EngineError(fileErrorMessage(error, path), { cause: error });
  }
}

async function mountOf(path: string): Promise<Pick<VolumeFacts, 'fileSystem' | 'device' | 'mountPoint'>> {
  const table = await readFile('/proc/self/mounts', 'utf8').catch(() => '');
  const mounts = table.split('\n').map((line) => line.split(' ')).filter((fields) => fields.length > 3);
  const covering = mounts.filter(([, point]) => point && (path === point || path.startsWith(point === '/' ? '/' : `${point}/`)));
  const [device = 'unknown', mountPoint = '/', fileSystem = 'unknown'] = covering.sort((a, b) => (b[1]?.length ?? 0) - (a[1]?.length ?? 0))[0] ?? [];
  return { device, mountPoint, fileSystem };
}

async function isRotational(device: string): Promise<boolean | null> {
  const name = basename(device).replace(/p?\d+$/, '');
  const flag = await readFile(`/sys/block/${name}/queue/rotational`, 'utf8').catch(() => null);
  return flag === null ? null : flag.trim() === '1';
}

/** Paths of media files below a folder, relative to it, in order of name. Hidden and half-written files are left out. */
export async function findMedia(folder: string): Promise<string[]> {
  const found: string[] = [];
  const visit = async (current: string): Promise<void> => {
    for (const entry of await readdir(current, { withFileTypes: true })) {
      if (entry.name.startsWith('.')) continue;
      const path = join(current, entry.name);
      if (entry.isDirectory()) await visit(path);
      else if (entry.isFile() && mediaEndings.has(extname(entry.name).toLowerCase()) && !entry.name.includes('.partial.')) found.push(relative(folder, path));
    }
  };
  try {
    await visit(folder);
  } catch (error) {
    throw new EngineError(fileErrorMessage(error, folder), { cause: error });
  }
  return found.sort();
}
