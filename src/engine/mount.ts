import { existsSync, readFileSync } from 'node:fs';
import { readFile } from 'node:fs/promises';
import { basename, isAbsolute, relative } from 'node:path';
import type { VolumeFacts } from '@/core/storage/volumeFacts';

/** Mounts as the kernel tells them. */
const mountTable = '/proc/self/mounts';

/** Whether a path is one of some folders or lies below one. */
export function isWithin(path: string, roots: readonly string[]): boolean {
  return roots.some((root) => {
    const below = relative(root, path);
    return below !== '..' && !below.startsWith('../') && !isAbsolute(below);
  });
}

export type MountFacts = Pick<
  VolumeFacts,
  'fileSystem' | 'device' | 'mountPoint' | 'mountOptions' | 'network'
>;

/** The mount that covers a path, as the kernel tells now. */
export async function mountOf(path: string): Promise<MountFacts> {
  return findMount(await readFile(mountTable, 'utf8').catch(() => ''), path);
}

/** The mount that covers a path, from a mount table as the kernel writes it: later lines cover earlier ones. */
export function findMount(table: string, path: string): MountFacts {
  let found: readonly string[] = [];
  for (const line of table.split('\n')) {
    const fields = line
      .split(' ')
      .map((field) =>
        field.replace(/\\([0-7]{3})/g, (_, octal: string) => String.fromCharCode(Number.parseInt(octal, 8))),
      );
    const point = fields[1];
    if (fields.length > 3 && point && isWithin(path, [point]) && point.length >= (found[1]?.length ?? 0))
      found = fields;
  }
  const [device = 'unknown', mountPoint = '/', fileSystem = 'unknown', options = ''] = found;
  return {
    device,
    mountPoint,
    fileSystem,
    mountOptions: options.split(',').filter(Boolean),
    network: networkShare(fileSystem, device),
  };
}

const networkFileSystems =
  /^(nfs\d?|cifs|smb\d?|smbfs|afpfs|ceph|fuse\.(sshfs|glusterfs|ceph)|9p|lustre|beegfs)$/;

/** Server and share of a network mount: "server:/share" or "//server/share". */
function networkShare(fileSystem: string, device: string): { server: string; share: string } | null {
  if (!networkFileSystems.test(fileSystem)) return null;
  const [, server, share] = /^\/\/([^/]+)(\/.*)$/.exec(device) ?? /^(.+):(\/.*)$/.exec(device) ?? [];
  return { server: server ?? device, share: share ?? '' };
}

/** What lies behind a read error of a file: the server of a network mount or the link to it, a drive that is not there any more, or the drive itself. */
export type ReadErrorPlace = 'store' | 'drive-gone' | 'drive';

/**
 * Where a read error (EIO) of a file comes from. A read that is under way while a network mount loses its server ends
 * with this error, as one from a bad drive does; what is mounted there tells them apart.
 * Nothing is asked of the file itself: a mount that hangs would hold up who asks.
 * @param table mounts as the kernel writes them @param isThere whether a device node is there
 */
export function readErrorPlace(
  table: string,
  path: string,
  isThere: (node: string) => boolean,
): ReadErrorPlace {
  const { network, device } = findMount(table, path);
  if (network !== null) return 'store';
  if (device === '/dev/root') return 'drive'; // the kernel's word for what it started from; no node has that name
  const isGone =
    device.startsWith('/dev/') && !isThere(`/sys/class/block/${basename(device)}`) && !isThere(device);
  return isGone ? 'drive-gone' : 'drive';
}

/** The same of this host, now. It is asked once a failure, which ends what reads. */
export function readErrorPlaceHere(path: string): ReadErrorPlace {
  if (!isAbsolute(path)) return 'drive';
  try {
    return readErrorPlace(readFileSync(mountTable, 'utf8'), path, existsSync);
  } catch {
    return 'drive';
  }
}
