import { mkdir, readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { findMount } from './mount';
import { inspectFolder } from './volume';
import { newFolder } from './testing/testStorage';

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
