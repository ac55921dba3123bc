import { findMount, readErrorPlace } from './mount';
import { fileError } from './errors';

const table = [
  '/dev/vda1 / ext4 rw,relatime 0 0',
  'store.local:/export/tidewrack /mnt/store nfs4 rw,vers=4.2,rsize=1048576,hard 0 0',
  '//office/scans /mnt/office\\040scans cifs ro,vers=3.1.1 0 0',
  '/dev/sdb1 /mnt/shuttle exfat rw,nosuid 0 0',
  'tmpfs /mnt/shuttle tmpfs rw 0 0', // mounted over it
].join('\n');

test('the mount that covers a path is found, the nearest and the last one', () => {
  expect(findMount(table, '/home/assistant')).toEqual({
    fileSystem: 'ext4',
    device: '/dev/vda1',
    mountPoint: '/',
    mountOptions: ['rw', 'relatime'],
    network: null,
  });
  expect(findMount(table, '/mnt/shuttle/day 3')).toMatchObject({
    fileSystem: 'tmpfs',
    mountPoint: '/mnt/shuttle',
  });
  expect(findMount(table, '/mnt/shuttle-two')).toMatchObject({ mountPoint: '/' });
  expect(findMount('', '/x')).toEqual({
    fileSystem: 'unknown',
    device: 'unknown',
    mountPoint: '/',
    mountOptions: [],
    network: null,
  });
});

test('network mounts name their server and share', () => {
  expect(findMount(table, '/mnt/store/cards')).toMatchObject({
    network: { server: 'store.local', share: '/export/tidewrack' },
    mountOptions: ['rw', 'vers=4.2', 'rsize=1048576', 'hard'],
  });
  expect(findMount(table, '/mnt/office scans')).toMatchObject({
    fileSystem: 'cifs',
    mountPoint: '/mnt/office scans',
    network: { server: 'office', share: '/scans' },
  });
});

test.each([
  ['a network mount', '/mnt/store/cards/A001.mov', [], 'store'],
  ['a drive that is there', '/mnt/archive/A001.mov', ['/sys/class/block/sdc1'], 'drive'],
  ['a node of another name', '/mnt/archive/A001.mov', ['/dev/sdc1'], 'drive'],
  ['a drive that is gone', '/mnt/archive/A001.mov', [], 'drive-gone'],
  ['what has no drive', '/mnt/shuttle/A001.mov', [], 'drive'],
  ['a root without a node', '/mnt/root/A001.mov', [], 'drive'],
] as const)('a read error of %s says where to look', (_, path, nodes, place) => {
  const mounts = [table, '/dev/sdc1 /mnt/archive ext4 rw 0 0', '/dev/root /mnt/root ext4 rw 0 0'].join('\n');
  const there: readonly string[] = nodes;
  expect(readErrorPlace(mounts, path, (node) => there.includes(node))).toBe(place);
});

test('what is no path is said to be of its drive', () => {
  const cause = Object.assign(new Error('i/o'), { code: 'EIO' });
  expect(fileError(cause, 'the clip').code).toBe('device-read-error');
});
