import { constants } from 'node:fs';
import { access, readdir, readFile, realpath, stat, statfs } from 'node:fs/promises';
import { basename, dirname, extname, join, normalize, relative } from 'node:path';
import { EngineError, fileError } from './errors';
import { isPlace } from './inPlace';
import { isWithin, mountOf } from './mount';
import { findSequences, pictureEndings, sequenceName } from '@/core/media/imageSequence';
import type { VolumeFacts } from '@/core/storage/volumeFacts';

/** Endings of files in open media containers. */
export const mediaEndings: ReadonlySet<string> = new Set([
  '.mov',
  '.mp4',
  '.m4v',
  '.mxf',
  '.mkv',
  '.avi',
  '.mts',
  '.m2ts',
  '.m2t',
  '.ts',
  '.webm',
  '.mpg',
  '.mpeg',
  '.vob',
  '.mod',
  '.tod',
  '.dv',
  '.ivf',
  '.nut',
  '.y4m',
]);

/** Endings of files that lie beside media and are none. */
const otherEndings = new Set([
  '.txt',
  '.xml',
  '.mhl',
  '.json',
  '.csv',
  '.pdf',
  '.md',
  '.bmp',
  '.gif',
  '.svg',
  '.ico',
  '.cube',
  '.edl',
  '.otio',
  '.zip',
  '.gz',
  '.tar',
  '.7z',
  '.iso',
  '.img',
  '.dmg',
  '.log',
  '.db',
  '.sqlite',
  '.exe',
  '.sh',
  '.html',
  '.css',
  '.js',
  '.ts',
  '.wav',
  '.bwf',
  '.aif',
  '.aiff',
  '.mp3',
  '.flac',
  '.ogg',
  '.doc',
  '.docx',
  '.xls',
  '.xlsx',
  '.rtf',
  '.srt',
  '.bin',
  '.tmp',
  '.bak',
  '.idx',
  '.dat',
]);

/** Files at least so large with an ending that says nothing may be camera files of a closed form: they are listed with what is known. */
const leastUnknownBytes = 1_000_000;

/**
 * Checks that a folder can be a volume and reads its facts.
 * @param roots folders it must lie in, links followed; null allows all
 * @returns the folder's real path and its facts
 * @throws EngineError saying what is wrong with the folder
 */
export async function inspectFolder(
  path: string,
  roots: readonly string[] | null = null,
): Promise<{ path: string; facts: VolumeFacts }> {
  const typed = normalize(path);
  if (roots && !isWithin(typed, roots))
    throw new EngineError('outside-roots', { path, roots: roots.join(', ') });
  try {
    const real = await realpath(typed);
    if (roots && !isWithin(real, await realRoots(roots)))
      throw new EngineError('link-outside-roots', { path, real, roots: roots.join(', ') });
    if (!(await stat(real)).isDirectory()) throw new EngineError('file-no-folder', { path });
    await access(real, constants.R_OK | constants.X_OK);
    const mount = await mountOf(real);
    const { blocks, bsize, bavail } = await statfs(real);
    return {
      path: real,
      facts: {
        ...mount,
        sizeBytes: blocks * bsize,
        freeBytes: bavail * bsize,
        rotational: await isRotational(mount.device),
        writable: await access(real, constants.W_OK).then(
          () => true,
          () => false,
        ),
      },
    };
  } catch (error) {
    if (error instanceof EngineError) throw error;
    throw fileError(error, path);
  }
}

/**
 * The folder of a volume as it was added, and no other that a link leads to now.
 * @throws EngineError saying what is wrong with it
 */
export async function inspectVolume(
  path: string,
  roots: readonly string[] | null,
): Promise<{ path: string; facts: VolumeFacts }> {
  const found = await inspectFolder(path, roots);
  if (isPlace(found.path, path)) return found;
  throw new EngineError('volume-is-link', { path, real: found.path });
}

/**
 * Follows the links of a path below a folder that is there, as far as the path is there already.
 * @throws EngineError when it leads out of its root
 */
export async function assertInside(root: string, path: string): Promise<void> {
  let there = path;
  let real = await realpath(there).catch(() => null);
  while (real === null && there !== dirname(there)) {
    there = dirname(there);
    real = await realpath(there).catch(() => null);
  }
  if (real === null || !isWithin(real, await realRoots([root])))
    throw new EngineError('link-out-of-volume', { path, root });
}

/** Roots with their links followed; one that is not there stays as it is written. */
function realRoots(roots: readonly string[]): Promise<string[]> {
  return Promise.all(roots.map((root) => realpath(root).catch(() => root)));
}

/** Whether a device turns, as the kernel tells; of a partition its drive is asked. */
async function isRotational(device: string): Promise<boolean | null> {
  const name = basename(await realpath(device).catch(() => device));
  for (const place of ['', '/..']) {
    const flag = await readFile(`/sys/class/block/${name}${place}/queue/rotational`, 'utf8').catch(
      () => null,
    );
    if (flag !== null) return flag.trim() === '1';
  }
  return null;
}

/**
 * Paths of media files below a folder, relative to it, in order of name, of pictures, of which those that differ by a
 * number alone are one clip (see `sequenceName`), and of large files whose kind is not known. Hidden and half-written files are left out.
 */
export async function findMedia(folder: string): Promise<string[]> {
  const found: string[] = [];
  const visit = async (current: string): Promise<void> => {
    const pictures: string[] = [];
    for (const entry of await readdir(current, { withFileTypes: true })) {
      if (entry.name.startsWith('.')) continue;
      const path = join(current, entry.name);
      if (entry.isDirectory()) await visit(path);
      else if (!entry.isFile() || entry.name.includes('.partial.')) continue;
      else if (pictureEndings.has(extname(path).toLowerCase())) pictures.push(entry.name);
      else if (await mayBeMedia(path)) found.push(relative(folder, path));
    }
    const { sequences, loose } = findSequences(pictures);
    for (const name of [...sequences.map(sequenceName), ...loose])
      found.push(relative(folder, join(current, name)));
  };
  try {
    await visit(folder);
  } catch (error) {
    throw fileError(error, folder);
  }
  return found.sort();
}

async function mayBeMedia(path: string): Promise<boolean> {
  const ending = extname(path).toLowerCase();
  if (mediaEndings.has(ending)) return true;
  return ending !== '' && !otherEndings.has(ending) && (await stat(path)).size >= leastUnknownBytes;
}
