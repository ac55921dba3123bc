import { createHash } from 'node:crypto';
import { mkdir, readFile, symlink, writeFile } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { verificationSentence } from '@/core/sentences/storage';
import { getHashList, listCheckedFiles } from '@/db/queries/storageRecords';
import { getTrial } from '@/db/queries/trials';
import { startTrials } from '../kinds/trialStart';
import { recordCsv } from '../kinds/recordCsv';
import { emptyVolume, measureTrial, onTestDatabase } from '../testing/testDatabase';
import { listsOnVolume, takeHashList } from './hashLists';

onTestDatabase();

const md5 = (text: string) => createHash('md5').update(text).digest('hex');
const files = { 'clips/wall.mov': 'wall', 'clips/kite.mov': 'kite', 'index.txt': 'index' };
const text = Object.entries(files)
  .map(([path, content]) => `${md5(content)}  ${path}\n`)
  .join('');

async function shelf(below: string): Promise<{ id: string; folder: string }> {
  const volume = await emptyVolume();
  for (const [path, content] of Object.entries(files)) {
    const at = join(volume.folder, below, path);
    await mkdir(dirname(at), { recursive: true });
    await writeFile(at, content);
  }
  return volume;
}

const sent = { name: 'card.md5', text, volumeId: null, path: null };

test('a list is told before it is kept, with the folders that hold what it names', async () => {
  const beside = await shelf('cards/A001');
  const plain = await shelf('');
  await writeFile(join(beside.folder, 'cards/A001/card.md5'), text);
  const told = await takeHashList({ ...sent, store: false });
  expect(told).toMatchObject({
    id: null,
    form: 'checksums',
    files: 3,
    bytes: null,
    hashes: ['md5'],
    notes: [],
    places: [{ volumeId: plain.id, folder: '', found: 3, of: 3 }],
  });
  const id = createHash('sha256').update(text).digest('hex');
  expect(await getHashList(id)).toBeNull();
  // One that lies on a volume is of the folder that it lies in.
  const [found] = await listsOnVolume(beside.id);
  expect(found).toMatchObject({ path: 'cards/A001/card.md5', bytes: text.length });
  const there = await takeHashList({
    name: '',
    text: null,
    volumeId: beside.id,
    path: found!.path,
    store: true,
  });
  expect(there).toMatchObject({ id, name: 'card.md5' });
  expect(there.places[0]).toMatchObject({ volumeId: beside.id, folder: 'cards/A001', found: 3, of: 3 });
  expect((await getHashList(id))?.text).toBe(text);
});

test('what it came to is kept file by file, what is wrong first, as lines too', async () => {
  const volume = await shelf('A001');
  await writeFile(join(volume.folder, 'A001/clips/kite.mov'), 'kitE');
  await writeFile(join(volume.folder, 'A001/late.mov'), 'late');
  const { id: listId } = await takeHashList({ ...sent, store: true });
  const [id] = await startTrials({ kind: 'verification', volumeId: volume.id, folder: 'A001', listId });
  await measureTrial(id);
  const trial = await getTrial(id, ['verification']);
  expect(trial).toMatchObject({
    status: 'done',
    summary: { files: 3, same: 2, changed: 1, missing: 0, extra: 1 },
  });
  expect(verificationSentence(trial!.summary!)).toBe(
    '2 of 3 files are what the list has: 1 changed; 1 not in the list.',
  );
  const checked = await listCheckedFiles(id);
  expect(checked.map(({ path, outcome }) => [path, outcome])).toEqual([
    ['clips/kite.mov', 'changed'],
    ['late.mov', 'extra'],
    ['clips/wall.mov', 'same'],
    ['index.txt', 'same'],
  ]);
  expect(checked[2]?.hash).toBe(`md5 ${md5('wall')}`);
  expect((await recordCsv(id)).csv.split('\r\n')[0]).toContain('path,');
  expect(await readFile(join(volume.folder, 'A001/clips/kite.mov'), 'utf8')).toBe('kitE');
});

test.each([
  [{ ...sent, text: 'no list', store: true }, 'Line 1: "no list" is not a hash with a path'],
  [{ ...sent, text: null, store: true }, 'Choose a hash list'],
  [{ ...sent, text: `${md5('')}  ../out.mov`, store: true }, 'does not lie in the folder'],
])('what is no list is refused and not kept: %#', async (input, message) => {
  await expect(takeHashList(input)).rejects.toMatchObject({
    status: 400,
    message: expect.stringContaining(message) as string,
  });
});

test('a list behind a link is not read, and one that is not kept starts nothing', async () => {
  const volume = await emptyVolume();
  await symlink('/etc', join(volume.folder, 'ascmhl'));
  await expect(
    takeHashList({ ...sent, text: null, volumeId: volume.id, path: 'ascmhl/hostname', store: false }),
  ).rejects.toThrow(/leads by a link|leads out/);
  await expect(
    startTrials({ kind: 'verification', volumeId: volume.id, folder: '', listId: 'never' }),
  ).rejects.toMatchObject({ status: 404, field: 'listId' });
});
