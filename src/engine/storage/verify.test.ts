import { execFileSync } from 'node:child_process';
import {
  cp,
  mkdir,
  readdir,
  readFile,
  rename,
  rm,
  symlink,
  truncate,
  utimes,
  writeFile,
} from 'node:fs/promises';
import { join } from 'node:path';
import { hashNames, isHash, type HashName } from '@/core/formats/hashLists/hashes';
import { readHashes } from '@/core/formats/hashLists/read';
import type { CheckedFile } from '@/core/storage/copiedFile';
import type { VerificationResult } from '@/core/storage/heldAgainst';
import { cardContents, newFolder, runStorage, steadyModel, testCard } from '../testing/testStorage';
import { hasher } from './hashers';
import type { StorageSpec } from './spec';

const mebi = 2 ** 20;

type Verification = Extract<StorageSpec, { kind: 'verification' }>;

function verificationSpec(
  folder: string,
  listText: string,
  listName: string,
  change: Partial<Verification> = {},
) {
  return {
    kind: 'verification',
    trialId: 'verifytest',
    volume: { path: folder, standIn: null },
    list: readHashes(listText, listName),
    listName,
    finished: [],
    ...change,
  } satisfies Verification;
}

async function verified(spec: Verification, during?: Parameters<typeof runStorage>[1]) {
  const { end, checked } = await runStorage(spec, during);
  if (!end.last?.verification) throw new Error(`The verification ended ${JSON.stringify(end)}`);
  const result: VerificationResult = end.last.verification;
  const outcomes = Object.fromEntries(checked.map(({ path, outcome }) => [path, outcome]));
  return {
    end,
    result,
    checked,
    outcomes,
    of: (path: string) => checked.find((file) => file.path === path)!,
  };
}

/** A list as a program of the system writes it: `md5sum` and its like. */
const listBy = (program: string, folder: string) =>
  execFileSync('sh', ['-c', `find . -type f | sort | xargs -d '\\n' ${program}`], {
    cwd: folder,
    encoding: 'utf8',
  });

async function copied(): Promise<{ folder: string; list: string; name: string }> {
  const source = await testCard();
  const target = join(await newFolder('copy'), 'A001');
  const { end } = await runStorage({
    kind: 'copy',
    trialId: 'copytest',
    source: { path: source, standIn: null },
    destinations: [{ path: target, standIn: null }],
    verify: true,
    softwareVersion: '0',
    finished: [],
  });
  expect(end.last?.copy).toMatchObject({ copied: 4 });
  const [name] = (await readdir(join(target, 'ascmhl'))).filter((entry) => entry.endsWith('.mhl'));
  return { folder: target, list: await readFile(join(target, 'ascmhl', name!), 'utf8'), name: name! };
}

test('a copy is what its own list has, its folders too, and so are the same bytes that another program moved', async () => {
  const { folder, list, name } = await copied();
  const first = await verified(verificationSpec(folder, list, name));
  expect(first.result).toMatchObject({
    files: 4,
    same: 4,
    changed: 0,
    missing: 0,
    extra: 0,
    unproved: 0,
    folders: { same: 3, changed: 0, unproved: 0 },
    bytes: Object.values(cardContents).reduce((sum, { length }) => sum + length, 0),
  });
  expect(first.result.work.read.bytes).toBe(first.result.bytes);
  const moved = await newFolder('moved');
  execFileSync('cp', ['-r', `${folder}/.`, moved]);
  expect((await verified(verificationSpec(moved, list, name))).result).toMatchObject({ same: 4, extra: 0 });
});

test('what changed, is missing, lies elsewhere, is new or cannot be read is told, each by its name', async () => {
  const { folder, list, name } = await copied();
  const at = (path: string) => join(folder, path);
  const wall = Buffer.from(cardContents['A001/clips/wall 01.mov']!);
  wall[5 * mebi] = wall[5 * mebi]! ^ 1;
  await writeFile(at('A001/clips/wall 01.mov'), wall);
  await mkdir(at('sorted'));
  await rename(at('A001/clips/wall 02.mov'), at('sorted/tide.mov'));
  await rm(at('A001/index.xml'));
  await truncate(at('A001/empty.txt'), 3);
  await writeFile(at('notes.txt'), 'new');
  await symlink('/etc/hostname', at('A001/way-out'));
  const { result, outcomes, of } = await verified(verificationSpec(folder, list, name));
  expect(outcomes).toEqual({
    'A001/clips/wall 01.mov': 'changed',
    'A001/clips/wall 02.mov': 'moved',
    'A001/index.xml': 'missing',
    'A001/empty.txt': 'changed',
    'notes.txt': 'extra',
  });
  expect(of('A001/clips/wall 01.mov').problem).toMatch(
    /^Its xxh64 is [0-9a-f]{16}; the list has [0-9a-f]{16}\.$/,
  );
  expect(of('A001/clips/wall 02.mov').problem).toBe('The same content lies at sorted/tide.mov.');
  expect(of('A001/empty.txt').problem).toBe('It has 3 bytes; the list has 0.');
  expect(of('A001/index.xml')).toMatchObject({ bytes: 8, modifiedMs: null, hash: null });
  expect(result).toMatchObject({ same: 0, changed: 2, missing: 1, moved: 1, extra: 1, leftOut: 1 });
  expect(result.folders.same).toBe(0);
});

test('folders of a list that composes their hashes in another way prove nothing; one that comes out right shows its way is ours', async () => {
  const { folder, list, name } = await copied();
  const other = list.replace(/(<tool[^>]*>)Navvy</, '$1Another<');
  expect(other).not.toBe(list);
  // Another way: hashes of folders that no composition of ours gives.
  const turned = other.replace(/<(content|structure)>([\s\S]*?)<\/\1>/g, (element) =>
    element.replace(/>([0-9a-f]{16})</, (_, value: string) => `>${value.split('').toReversed().join('')}<`),
  );
  expect((await verified(verificationSpec(folder, turned, name))).result).toMatchObject({
    same: 4,
    folders: { same: 0, changed: 0, unproved: 3 },
  });
  await writeFile(join(folder, 'A001/clips/more.mov'), 'new');
  await mkdir(join(folder, 'A001/clips/still'));
  // Only folders that hold the new file differ, and none of several entries is left to prove the way.
  expect((await verified(verificationSpec(folder, other, name))).result.folders).toMatchObject({
    changed: 0,
  });
  expect((await verified(verificationSpec(folder, list, name))).result.folders).toMatchObject({
    changed: 3,
    unproved: 0,
  });
  await rename(join(folder, 'A001/clips/more.mov'), join(folder, 'A001/more.mov'));
  // The folder of both clips is as it was: its list counts the others' difference as a change.
  expect((await verified(verificationSpec(folder, other, name))).result.folders).toEqual({
    same: 1,
    changed: 2,
    unproved: 0,
  });
});

test('two thousand files that lie in another folder are all found there', async () => {
  const folder = await newFolder('many');
  const count = 2_000;
  await mkdir(join(folder, 'before'));
  for (let at = 0; at < count; at++) await writeFile(join(folder, 'before', `${at}.txt`), `frame ${at}`);
  const text = listBy('md5sum', folder);
  await rename(join(folder, 'before'), join(folder, 'after'));
  const { result, of } = await verified(verificationSpec(folder, text, 'card.md5'));
  expect(result).toMatchObject({ files: count, moved: count, missing: 0, extra: 0 });
  expect(of('before/777.txt').problem).toBe('The same content lies at after/777.txt.');
});

test.each([
  ['md5sum', 'card.md5', 'md5'],
  ['md5sum --tag', 'card.txt', 'md5'],
  ['sha1sum -b', 'card.sha1', 'sha1'],
  ['sha256sum', 'SHA256SUMS', 'sha256'],
  ['sha512sum --tag', 'list.sha512', 'sha512'],
])('a list by %s is taken, and names one byte that is another', async (program, name, kind) => {
  const folder = await testCard();
  const text = listBy(program, folder);
  await writeFile(join(folder, name), text);
  const whole = await verified(verificationSpec(folder, text, name));
  expect(whole.result).toMatchObject({ files: 4, same: 4, changed: 0, extra: 0 });
  expect(whole.checked.every(({ hash }) => hash?.startsWith(`${kind} `))).toBe(true);
  const path = join(folder, 'A001/clips/wall 02.mov');
  const bytes = await readFile(path);
  bytes[bytes.length - 1] = 0;
  await writeFile(path, bytes);
  const touched = await verified(verificationSpec(folder, text, name));
  expect([touched.result.same, touched.outcomes['A001/clips/wall 02.mov']]).toEqual([3, 'changed']);
});

test.each<[HashName, string, string]>([
  ['md5', 'd41d8cd98f00b204e9800998ecf8427e', '900150983cd24fb0d6963f7d28e17f72'],
  ['sha1', 'da39a3ee5e6b4b0d3255bfef95601890afd80709', 'a9993e364706816aba3e25717850c26c9cd0d89d'],
  ['xxh32', '02cc5d05', '32d153ff'],
  ['xxh64', 'ef46db3751d8e999', '44bc2cf5ad770999'],
  ['xxh3', '2d06800538d394c2', '78af5f94892f3950'],
  ['xxh128', '99aa06d3014798d86001c324468d497f', '06b05ab6733a618578af5f94892f3950'],
  [
    'c4',
    'c459dsjfscH38cYeXXYogktxf4Cd9ibshE3BHUo6a58hBXmRQdZrAkZzsWcbWtDg5oQstpDuni4Hirj75GEmTc1sFT',
    'c45S4rnaTNWonxss1u8LzsaJdEph1AJhWUF4sh2waXKMsutyfAxg4ybUeuXVWS9HdNcEypmeXn8FZGonD4w1rj9DZp',
  ],
])('%s of nothing and of "abc" is what is published', async (name, empty, abc) => {
  const hash = await hasher(name);
  expect(hash.digest()).toBe(empty);
  hash.begin();
  hash.update(Buffer.from('a'));
  hash.update(Buffer.from('bc'));
  expect(hash.digest()).toBe(abc);
});

test('every hash that lists name can be computed, in the form that lists have', async () => {
  for (const name of hashNames)
    expect([name, isHash(name, (await hasher(name)).digest())]).toEqual([name, true]);
});

test('a name whose accents are two signs on one side is the same name', async () => {
  const folder = await newFolder('accents');
  await writeFile(join(folder, 'Ha\u0308fen.mov'), 'harbour');
  const text = listBy('md5sum', folder).replace('a\u0308', '\u00e4');
  const { result } = await verified(verificationSpec(folder, text, 'card.md5'));
  expect(result).toMatchObject({ same: 1, missing: 0, extra: 0 });
});

test('what the list leaves out by a pattern is no extra file', async () => {
  const { folder, list, name } = await copied();
  await writeFile(join(folder, '.DS_Store'), 'x');
  await writeFile(join(folder, 'A001/clips/.DS_Store'), 'x');
  expect((await verified(verificationSpec(folder, list, name))).result.extra).toBe(2);
  const ignoring = list.replace(
    '<pattern>ascmhl</pattern>',
    '<pattern>ascmhl</pattern><pattern>.DS_Store</pattern>',
  );
  expect((await verified(verificationSpec(folder, ignoring, name))).result.extra).toBe(0);
});

test('a verification that is paused keeps what was the same, and goes on after it', async () => {
  const folder = await testCard();
  const text = listBy('md5sum', folder);
  const slow = { path: folder, standIn: steadyModel(8) };
  const paused = await verified(
    verificationSpec(folder, text, 'card.md5', { volume: slow }),
    (progress, host) => {
      if (progress.step >= 1) host.pause();
    },
  );
  expect(paused.end.kind).toBe('paused');
  const kept = paused.checked.filter(({ outcome }) => outcome === 'same');
  expect(kept.length).toBeGreaterThan(0);
  expect(kept.length).toBeLessThan(4);
  const rest = await verified(verificationSpec(folder, text, 'card.md5', { finished: kept }));
  expect(rest.result).toMatchObject({ files: 4, same: 4 });
  expect(rest.checked).toHaveLength(4 - kept.length);
  // One that is not as old any more is read again.
  const first = kept[0] as CheckedFile;
  await utimes(join(folder, first.path), new Date(0), new Date(0));
  const again = await verified(verificationSpec(folder, text, 'card.md5', { finished: kept }));
  expect(again.checked.map(({ path }) => path)).toContain(first.path);
});

test('a folder that is not there ends with the reason; a simulated volume takes its own time', async () => {
  const folder = await testCard();
  const text = listBy('md5sum', folder);
  const gone = await runStorage(verificationSpec(join(folder, 'never'), text, 'card.md5'));
  expect(gone.end).toMatchObject({
    kind: 'failed',
    message: expect.stringContaining('is not there') as string,
  });
  const fast = await verified(verificationSpec(folder, text, 'card.md5'));
  const slow = await verified(
    verificationSpec(folder, text, 'card.md5', { volume: { path: folder, standIn: steadyModel(10) } }),
  );
  // 13 MiB at 10 MB/s take more than a second, whatever the machine.
  expect(slow.result.seconds).toBeGreaterThan(1.2);
  expect(fast.result.same).toBe(slow.result.same);
});

test('its own copy elsewhere is judged by the list and not by where it lies', async () => {
  const { folder, list, name } = await copied();
  const below = join(await newFolder('shelf'), 'cards/A001');
  await cp(folder, below, { recursive: true });
  expect((await verified(verificationSpec(below, list, name))).result).toMatchObject({ same: 4, extra: 0 });
});
