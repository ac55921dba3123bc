import { homedir } from 'node:os';
import { resolve } from 'node:path';

/** Places where systems mount drives and keep media, and the home folder. */
const usualRoots = [homedir(), '/media', '/mnt', '/run/media', '/srv', '/data'];

/**
 * Folders that volumes may lie in: those of NAVVY_ROOTS, parted by colons, or
 * the usual ones; and always the folder of Navvy's own demo media.
 */
export function allowedRoots(): string[] {
  const named = process.env.NAVVY_ROOTS?.split(':')
    .map((root) => root.trim())
    .filter(Boolean);
  const own = process.env.NAVVY_MEDIA;
  return [
    ...(named && named.length > 0 ? named.map((root) => resolve(root)) : usualRoots),
    ...(own ? [own] : []),
  ];
}
