import { createHash } from 'node:crypto';
import {
  appendFile,
  mkdir,
  readFile,
  readdir,
  rename,
  stat,
  symlink,
  truncate,
  writeFile,
} from 'node:fs/promises';
import { dirname, join } from 'node:path';
import xxhash from 'xxhash-wasm';
import { readHashes } from '@/core/formats/hashLists/read';
import { c4Id, readChain } from '@/core/formats/hashLists/write';
import { copyLimit } from '@/core/storage/copyRates';
import type { CopyResult, StorageSpec, VolumeAccess } from './spec';
import {
  cardContents,
  cardShot,
  namesIn,
  newFolder,
  runStorage,
  steadyModel,
  testCard,
} from '../testing/testStorage';
import type { CopiedFile } from '@/core/storage/copiedFile';

const mebi = 2 ** 20;

type CopySpec = Extract<StorageSpec, { kind: 'copy' }>;

function copySpec(source: string, destinations: readonly string[], change: Partial<CopySpec> = {}): CopySpec {
  const real = (path: string): VolumeAccess => ({ path, standIn: null });
  return {
    kind: 'copy',
    trialId: 'copytest',
    source: real(source),
    destinations: destinations.map(real),
    verify: true,
    softwareVersion: '0',
    finished: [],
    ...change,
  };
}

function resultOf({ end }: Awaited<ReturnType<typeof runStorage>>): CopyResult {
  if (!end.last?.copy) throw new Error(`The copy ended ${JSON.stringify(end)}`);
  return end.last.copy;
}

const listsIn = async (folder: string) =>
  (await readdir(join(folder, 'ascmhl'))).filter((name) => name.endsWith('.mhl')).sort();

test('a card is copied to two places, byte for byte, with times, hashes and a hash list at each', async () => {
  const source = await testCard();
  await symlink('/etc/hostname', join(source, 'A001/way-out'));
  const [one, two] = [join(await newFolder('one'), 'cards/A001'), join(await newFolder('two'), 'A001')];
  const run = await runStorage(copySpec(source, [one, two]));
  const result = resultOf(run);
  expect(result).toMatchObject({
    files: 4,
    copied: 4,
    present: 0,
    conflicts: 0,
    damaged: 0,
    leftOut: 1,
    bytes: Object.values(cardContents).reduce((sum, { length }) => sum + length, 0),
  });
  const hasher = await xxhash();
  const hashOf = (content: Buffer) => hasher.h64Raw(content).toString(16).padStart(16, '0');
  for (const target of [one, two]) {
    for (const [path, content] of Object.entries(cardContents)) {
      expect((await readFile(join(target, path))).equals(content)).toBe(true);
      expect((await stat(join(target, path))).mtime).toEqual(cardShot);
    }
    const [name] = await listsIn(target);
    const xml = await readFile(join(target, 'ascmhl', name!), 'utf8');
    expect(readHashes(xml, name!).files).toEqual(
      Object.entries(cardContents)
        .sort()
        .map(([path, content]) => ({
          path,
          bytes: content.length,
          hashes: [{ name: 'xxh64', value: hashOf(content) }],
        })),
    );
    expect(readChain(await readFile(join(target, 'ascmhl/ascmhl_chain.xml'), 'utf8'))).toEqual([
      { sequence: 1, path: name, c4: c4Id(createHash('sha512').update(xml).digest()) },
    ]);
  }
  expect((await namesIn(one)).some((name) => name.includes('navvy'))).toBe(false);
  expect(run.files.map(({ outcome }) => outcome)).toEqual(['copied', 'copied', 'copied', 'copied']);
  expect(result.work.verify.bytes).toBe(2 * result.bytes);
  expect(result.work.read.bytes).toBe(result.bytes);
});

test('small files are checked on a stand-in for what they hold, not for whole blocks', async () => {
  const source = await newFolder('card');
  for (let file = 0; file < 20; file++) await writeFile(join(source, `${file}.txt`), 'take');
  const target = { path: await newFolder('target'), standIn: steadyModel(20) };
  const { work } = resultOf(await runStorage({ ...copySpec(source, []), destinations: [target] }));
  expect(work.verify.bytes).toBe(80);
  expect(work.verify.us).toBeLessThan((20 * 4 * 2 ** 20 * 1e6) / 20e6); // what twenty blocks of the copy would take
});

test('copied again, what is there is compared and left; the hash lists go on in their chain', async () => {
  const source = await testCard();
  const target = await newFolder('target');
  await runStorage(copySpec(source, [target]));
  const before = await stat(join(target, 'A001/clips/wall 01.mov'));
  const again = resultOf(await runStorage(copySpec(source, [target])));
  expect(again).toMatchObject({ copied: 0, present: 4 });
  expect((await stat(join(target, 'A001/clips/wall 01.mov'))).ino).toBe(before.ino);
  expect(await listsIn(target)).toHaveLength(2);
  expect(
    readChain(await readFile(join(target, 'ascmhl/ascmhl_chain.xml'), 'utf8')).map(
      ({ sequence }) => sequence,
    ),
  ).toEqual([1, 2]);
});

test('hash lists are written in the copy or not at all: by a link nothing is begun', async () => {
  const source = await testCard();
  const outside = await newFolder('outside');
  for (const place of ['ascmhl', 'ascmhl/ascmhl_chain.xml']) {
    const target = await newFolder('target');
    await mkdir(dirname(join(target, place)), { recursive: true });
    await writeFile(join(outside, 'mine.xml'), 'mine');
    await symlink(place === 'ascmhl' ? outside : join(outside, 'mine.xml'), join(target, place));
    expect((await runStorage(copySpec(source, [target]))).end).toMatchObject({
      kind: 'failed',
      message: expect.stringContaining('Nothing was written') as string,
    });
    expect(await readdir(target)).toEqual(['ascmhl']);
    expect(await readdir(outside)).toEqual(['mine.xml']);
    expect(await readFile(join(outside, 'mine.xml'), 'utf8')).toBe('mine');
  }
});

test('a chain that cannot be read is kept under another name, and the copy is whole', async () => {
  const source = await testCard();
  const target = await newFolder('target');
  await runStorage(copySpec(source, [target]));
  for (const damaged of [
    '<ascmhl',
    '',
    '<other/>',
    '<ascmhldirectory><hashlist sequencenr="x"/></ascmhldirectory>',
  ]) {
    await writeFile(join(target, 'ascmhl/ascmhl_chain.xml'), damaged);
    const before = (await listsIn(target)).length;
    const again = resultOf(await runStorage(copySpec(source, [target])));
    expect(again).toMatchObject({ present: 4, remarks: [expect.stringContaining('could not be read')] });
    const lists = await listsIn(target);
    expect(lists).toHaveLength(before + 1);
    expect(readChain(await readFile(join(target, 'ascmhl/ascmhl_chain.xml'), 'utf8'))).toMatchObject([
      { sequence: before + 1, path: lists.at(-1) },
    ]);
    const kept = (await readdir(join(target, 'ascmhl'))).filter((name) => name.includes('unreadable'));
    expect(await readFile(join(target, 'ascmhl', kept.sort().at(-1)!), 'utf8')).toBe(damaged);
  }
});

test('nothing is overwritten: another size is refused before the start, other content is left and named', async () => {
  const source = await testCard();
  const target = await newFolder('target');
  await mkdir(join(target, 'A001'));
  await writeFile(join(target, 'A001/index.xml'), 'someone else’s, longer');
  const refused = await runStorage(copySpec(source, [target]));
  expect(refused.end).toMatchObject({
    kind: 'failed',
    message: expect.stringMatching(
      /has other files under the names of 1 of 4 \(A001\/index\.xml\)\. Nothing was written/,
    ) as string,
  });
  expect(await namesIn(target)).toEqual(['A001', 'A001/index.xml']);

  await writeFile(join(target, 'A001/index.xml'), '<INDEX/>'); // the same size
  const run = await runStorage(copySpec(source, [target]));
  expect(resultOf(run)).toMatchObject({ copied: 3, conflicts: 1 });
  expect(run.files.find(({ outcome }) => outcome === 'conflict')).toMatchObject({
    path: 'A001/index.xml',
    problem: expect.stringContaining('was there with other content and was left as it is') as string,
  });
  expect(await readFile(join(target, 'A001/index.xml'), 'utf8')).toBe('<INDEX/>');
});

test('a paused copy keeps what is whole, leaves nothing half-written, and goes on after it', async () => {
  const source = await testCard();
  const target = await newFolder('target');
  const slow: VolumeAccess = { path: source, standIn: steadyModel(8) };
  const first = await runStorage(copySpec(source, [target], { source: slow }), ({ step, phase }, host) => {
    if (step >= 1 && phase === 'copying') host.pause();
  });
  expect(first.end.kind).toBe('paused');
  expect(first.files.length).toBeGreaterThan(0);
  expect(first.files.length).toBeLessThan(4);
  expect((await namesIn(target)).some((name) => name.includes('partial'))).toBe(false);
  await expect(listsIn(target)).rejects.toThrow(); // no hash list before it is complete
  const before = await stat(join(target, first.files[0]!.path));
  const second = await runStorage(copySpec(source, [target], { finished: first.files }));
  expect(resultOf(second)).toMatchObject({ files: 4, copied: 4 });
  expect(second.files.length).toBe(4 - first.files.length);
  expect((await stat(join(target, first.files[0]!.path))).ino).toBe(before.ino);
  const [name] = await listsIn(target);
  expect(readHashes(await readFile(join(target, 'ascmhl', name!), 'utf8'), name!).files).toHaveLength(4);
});

test('a file that was finished and has gone since is copied anew', async () => {
  const source = await testCard();
  const target = await newFolder('target');
  const gone: CopiedFile = {
    path: 'A001/index.xml',
    bytes: 8,
    modifiedMs: cardShot.getTime(),
    outcome: 'copied',
    xxh64: '0',
    hashedMs: 0,
    problem: null,
  };
  const run = await runStorage(copySpec(source, [target], { finished: [gone] }));
  expect(resultOf(run).copied).toBe(4);
  expect(await readFile(join(target, 'A001/index.xml'), 'utf8')).toBe('<index/>');
});

test.each([
  [
    'other content',
    'A001/clips/wall 01.mov',
    0,
    async (path: string) => {
      await truncate(path, 9 * mebi);
      await appendFile(path, Buffer.alloc(123, 'x'));
    },
  ],
  ['more of it', 'A001/clips/wall 02.mov', 1, (path: string) => appendFile(path, 'x')],
])('a copy that differs when read back is named as damaged: %s', async (_, name, itsStep, spoil) => {
  const source = await testCard();
  const target = await newFolder('target');
  let spoiled = false;
  const run = await runStorage(
    copySpec(source, [target], { destinations: [{ path: target, standIn: steadyModel(6) }] }),
    async ({ phase, step }) => {
      if (phase !== 'verifying' || step !== itsStep || spoiled) return;
      spoiled = true;
      await spoil(join(target, name));
    },
  );
  const result = resultOf(run);
  expect(spoiled).toBe(true);
  expect(run.files.find(({ path }) => path === name)).toMatchObject({
    outcome: 'damaged',
    problem: expect.stringContaining('differs when read back') as string,
  });
  expect(result).toMatchObject({ damaged: 1, copied: 3 });
  const [list] = await listsIn(target);
  expect(
    readHashes(await readFile(join(target, 'ascmhl', list!), 'utf8'), list!).files.map(({ path }) => path),
  ).not.toContain(name);
});

test.each([
  [
    'a card with read errors',
    (source: string): Partial<CopySpec> => ({
      source: { path: source, standIn: steadyModel(100, { fault: { kind: 'read-error', atSeconds: 0 } }) },
    }),
    /wall 01\.mov gave a read error from the device/,
  ],
  [
    'a destination that fills up',
    (_: string, target: string): Partial<CopySpec> => ({
      destinations: [
        { path: target, standIn: steadyModel(100, { fault: { kind: 'full', afterBytes: 5 * mebi } }) },
      ],
    }),
    /wall 01\.mov could not be written: the volume is full/,
  ],
  [
    'a read-only destination',
    (_: string, target: string): Partial<CopySpec> => ({
      destinations: [{ path: target, standIn: steadyModel(100, { fault: { kind: 'read-only' } }) }],
    }),
    /the volume is read-only/,
  ],
])(
  '%s ends the copy with the file and what to do, and leaves nothing half-written',
  async (_, change, message) => {
    const source = await testCard();
    const target = await newFolder('target');
    const { end } = await runStorage(copySpec(source, [target], change(source, target)));
    expect(end).toMatchObject({ kind: 'failed', message: expect.stringMatching(message) as string });
    expect((await namesIn(target)).some((name) => name.includes('partial'))).toBe(false);
  },
);

test('a card that is pulled, or a destination that goes away, is named', async () => {
  // Slow enough that a folder is renamed in the midst of it, also where the disk lets that wait.
  const slow = (path: string): VolumeAccess => ({ path, standIn: steadyModel(2) });
  const pull = (folder: string) => {
    let pulled = false;
    return async ({ phase }: { phase: string }) => {
      if (phase !== 'copying' || pulled) return;
      pulled = true;
      await rename(folder, `${folder}-pulled`);
    };
  };
  const source = await testCard();
  const first = await newFolder('target');
  const cardGone = await runStorage(copySpec(source, [first], { source: slow(source) }), pull(source));
  expect(cardGone.end).toMatchObject({
    kind: 'failed',
    message: expect.stringMatching(/wall 0\d\.mov is not there/) as string,
  });
  const again = await testCard();
  const target = await newFolder('target');
  const targetGone = await runStorage(
    copySpec(again, [target], { destinations: [slow(target)] }),
    pull(target),
  );
  expect(targetGone.end).toMatchObject({
    kind: 'failed',
    message: expect.stringMatching(/is not there/) as string,
  });
  expect((await namesIn(`${target}-pulled`)).some((name) => name.includes('partial'))).toBe(false);
});

test('a link in the destination does not lead the copy elsewhere', async () => {
  const source = await testCard();
  const [target, outside] = [await newFolder('target'), await newFolder('outside')];
  await mkdir(join(target, 'A001'));
  await symlink(outside, join(target, 'A001/clips'));
  const { end } = await runStorage(copySpec(source, [target]));
  expect(end).toMatchObject({
    kind: 'failed',
    message: expect.stringMatching(/leads by a link out of/) as string,
  });
  expect(await namesIn(outside)).toEqual([]);
});

test('an empty card is no copy; and a slow reader is named as the limit', async () => {
  const empty = await newFolder('card');
  expect((await runStorage(copySpec(empty, [await newFolder('target')]))).end).toMatchObject({
    kind: 'failed',
    message: expect.stringContaining('holds no files') as string,
  });
  // A MiB takes the reader four seconds: no disk is as slow, whatever else the machine does.
  const source = await newFolder('card');
  await writeFile(join(source, 'wall.mov'), Buffer.alloc(mebi, 'wall'));
  const result = resultOf(
    await runStorage(
      copySpec(source, [await newFolder('target')], { source: { path: source, standIn: steadyModel(0.25) } }),
    ),
  );
  expect(result.work.read.us).toBeGreaterThan(3.5e6);
  expect(copyLimit(result.work)).toBe('read');
});
