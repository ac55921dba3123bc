import { readFile } from 'node:fs/promises';
import { formatsFile, formatsTable } from './formatsTable';

test('the published table of formats is what the codec library and the test media give', async () => {
  expect(await formatsTable()).toBe(await readFile(formatsFile, 'utf8'));
});
