import { execFile } from 'node:child_process';
import { readFileSync } from 'node:fs';
import {
  appendFile,
  link,
  mkdir,
  readFile,
  realpath,
  rename,
  rm,
  symlink,
  unlink,
  writeFile,
} from 'node:fs/promises';
import { basename, dirname, join } from 'node:path';
import { setImmediate } from 'node:timers/promises';
import { promisify } from 'node:util';
import { smallIntra } from '@/demo/smallClips';
import { loadWindow } from './codec/window';
import { EngineError } from './errors';
import { HeldFolder, isPlace, openInPlace, openInPlaceSync } from './inPlace';
import { ColdFile, evict } from './media/coldFile';
import { MediaFile } from './media/container';
import { FrameAccess } from './codec/frameAccess';
import { makePreview } from './library/preview';
import { contentHash } from './media/contentHash';
import { probeClip } from './media/probe';
import { PacedFile } from './storage/pacedFile';
import { Source } from './rendition/source';
import { settleBeside } from './settle';
import { createTestFile } from './storage/testFile';
import { SoundReader } from './task/soundMix';
import { inspectVolume } from './volume';
import { newFolder } from './testing/testStorage';
import { smallClip } from './testing/testTrial';

const run = promisify(execFile);
const other = 'what nobody chose';

/** A folder with a file in it, and another one elsewhere with a file of the same name. */
async function twoFolders() {
  const [volume, outside] = [await newFolder(), await newFolder()];
  const folder = join(volume, 'card');
  await mkdir(folder);
  await writeFile(join(folder, 'a.mov'), 'own');
  await writeFile(join(outside, 'a.mov'), other);
  return { folder, outside, path: join(folder, 'a.mov') };
}

/** Puts a link to another folder in the place of one. */
async function swap(folder: string, outside: string): Promise<void> {
  await rename(folder, `${folder}-away`);
  await symlink(outside, folder);
}

test('a file is opened where it is, by any of its names, and nothing else', async () => {
  const { folder, path, outside } = await twoFolders();
  const file = await openInPlace(path);
  expect(await file.readFile('utf8')).toBe('own');
  await file.close();
  await link(path, join(folder, 'b.mov'));
  await (await openInPlace(join(folder, 'b.mov'))).close();
  await symlink(join(outside, 'a.mov'), join(folder, 'c.mov'));
  await run('mkfifo', [join(folder, 'd.mov')]);
  for (const [name, words] of [
    ['c.mov', 'leads by a link'],
    ['d.mov', 'is not a file'],
    ['.', 'is not a file'],
  ] as const) {
    await expect(openInPlace(join(folder, name))).rejects.toThrow(words);
    expect(() => openInPlaceSync(join(folder, name))).toThrow(words);
  }
  await expect(openInPlace(join(folder, 'none'))).rejects.toMatchObject({ code: 'ENOENT' });
  await expect(HeldFolder.open(path)).rejects.toThrow(EngineError);
});

test('a place is told apart from another, but not for its letters’ case or how they are composed', () => {
  expect(isPlace('/mnt/card/DCIM/a.mov', '/mnt/card/dcim/A.MOV')).toBe(true);
  expect(isPlace('/mnt/e\u0301', '/mnt/\u00e9/')).toBe(true);
  expect(isPlace('/mnt/a.mov (deleted)', '/mnt/a.mov')).toBe(true);
  expect(isPlace('/mnt/b.mov', '/mnt/a.mov')).toBe(false);
  expect(isPlace('/mnt/card/a.mov', '/mnt/card')).toBe(false);
});

test('a folder that is a link now is refused by every way to open what is in it', async () => {
  const whole = await smallClip(smallIntra);
  const folder = join(await newFolder(), 'clips');
  await mkdir(folder);
  const path = join(folder, basename(whole));
  await link(whole, path);
  const probed = await probeClip(path);
  const source = { ...probed, path, rate: probed.format.rate };
  const stop = new Int32Array(new SharedArrayBuffer(4));
  const ways: Readonly<Record<string, () => unknown>> = {
    probe: () => probeClip(path),
    hash: () => contentHash(path),
    container: () => MediaFile.open(path),
    preview: () => makePreview(source, 1),
    frames: () => FrameAccess.open(source),
    cold: async () => (await ColdFile.open(path, 1)).close(),
    warm: async () => (await ColdFile.open(path, 1, 'warm')).close(),
    evict: () => evict(path),
    paced: () => new PacedFile(source, null, stop, false).close(),
    'paced past the cache': () => new PacedFile(source, null, stop, true).close(),
    packets: () => loadWindow({ path, setup: probed.setup, packets: probed.packets }, 2),
    sound: () => SoundReader.open(path, 0),
    rendition: async () => (await Source.open({ sourcePath: path, threads: 1 })).close(),
    volume: () => inspectVolume(folder, null),
    'test file': () => createTestFile(join(folder, 'test')),
    'kept file': () => settleBeside(`${path}-partial`, `${path}-whole`),
  };
  await appendFile(`${path}-partial`, 'x');
  await inspectVolume(folder, null);
  const opened = await ColdFile.open(path, 4_096);
  await swap(folder, dirname(whole));
  for (const [name, open] of Object.entries(ways)) {
    const end = await Promise.resolve()
      .then(open)
      .then(
        () => 'opened',
        (error: unknown) => (error instanceof EngineError ? error.message : `${String(error)} is no word`),
      );
    expect(`${name}: ${end}`).toMatch(/leads by a link/);
  }
  // One that was open before reads on, of the file that it had; and no other of it is opened.
  await expect(opened.another()).rejects.toThrow('leads by a link');
  expect((await opened.read(0, 4)).length).toBe(4);
  await opened.close();
  expect(await realpath(folder)).toBe(await realpath(dirname(whole)));
});

test('whatever is swapped while it is opened, no other file is read', async () => {
  const { folder, path, outside } = await twoFolders();
  let going = true;
  let turn = 0;
  const swapping = (async () => {
    for (let swaps = 0; going; swaps++) {
      // Some turns find the folder as it was from their beginning to their end.
      for (const from = turn; going && turn < from + (swaps % 3);) await setImmediate();
      await swap(folder, outside);
      await unlink(folder);
      await rename(`${folder}-away`, folder);
    }
  })();
  const ends = { own: 0, refused: 0, gone: 0 };
  for (; turn < 20_000 && (turn < 300 || ends.refused === 0 || ends.own === 0); turn++) {
    try {
      const file = await openInPlace(path);
      expect(await file.readFile('utf8')).toBe('own');
      await file.close();
      ends.own++;
    } catch (error) {
      if (error instanceof EngineError) ends.refused++;
      else {
        expect(error).toMatchObject({ code: 'ENOENT' });
        ends.gone++;
      }
    }
  }
  going = false;
  await swapping;
  expect(ends.own).toBeGreaterThan(0);
  expect(ends.refused).toBeGreaterThan(0);
});

test('a folder in hand is written to where it is, whatever its path leads to meanwhile', async () => {
  const { folder, outside } = await twoFolders();
  const held = await HeldFolder.open(folder);
  await swap(folder, outside);
  await writeFile(join(held.path, 'b.mov'), 'b');
  await held.close();
  expect(readFileSync(`${folder}-away/b.mov`, 'utf8')).toBe('b');
  await expect(readFile(join(outside, 'b.mov'))).rejects.toMatchObject({ code: 'ENOENT' });
  await expect(HeldFolder.open(folder)).rejects.toThrow('leads by a link');
});

test.each([
  [
    'playlist.mov',
    (clip: string) => `#EXTM3U\n#EXT-X-TARGETDURATION:1\n#EXTINF:1,\nfile://${clip}\n#EXT-X-ENDLIST\n`,
  ],
  ['list.mp4', (clip: string) => `ffconcat version 1.0\nfile '${basename(clip)}'\n`],
  [
    'session.mxf',
    () => 'v=0\no=- 0 0 IN IP4 127.0.0.1\ns=x\nc=IN IP4 127.0.0.1\nt=0 0\nm=video 5004 RTP/AVP 96\n',
  ],
])('%s only names other files, and none of them is opened', async (name, text) => {
  const whole = await smallClip(smallIntra);
  const path = join(await newFolder(), name);
  await link(whole, join(dirname(path), basename(whole)));
  await writeFile(path, text(whole));
  await expect(probeClip(path)).rejects.toThrow('could not be opened as media');
  expect(await MediaFile.open(path)).toBeNull();
  await rm(path);
});
