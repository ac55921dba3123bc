import { mkdir, readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { findMount, inspectFolder } from './volume';
import { newFolder } from './testing/testStorage';

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

test('a real folder tells what the system knows', async () => {
  const folder = await newFolder();
  const { path, facts } = await inspectFolder(folder, [folder.slice(0, folder.lastIndexOf('/'))]);
  expect(path).toBe(folder);
  expect(facts.sizeBytes).toBeGreaterThan(facts.freeBytes);
  // As its mount table has it, which is empty for a folder below a changed root.
  expect(facts).toMatchObject({
    writable: true,
    ...findMount(await readFile('/proc/self/mounts', 'utf8'), folder),
  });
});

test('a folder whose name begins with dots lies within its root, the one above does not', async () => {
  const root = await newFolder();
  await mkdir(join(root, '..takes'));
  expect((await inspectFolder(join(root, '..takes'), [root])).path).toBe(join(root, '..takes'));
  await expect(inspectFolder(join(root, '..'), [root])).rejects.toThrow(/lies outside the folders/);
});
