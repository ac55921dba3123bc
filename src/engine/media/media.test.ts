import { copyFile, mkdir, readFile, rm, symlink, truncate, utimes, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { formatLabel } from '@/core/media/format';
import { smallIntra, smallLongGop, smallTenBit } from '@/demo/smallClips';
import { ColdFile } from './coldFile';
import { contentHash } from './contentHash';
import { probeClip } from './probe';
import { findMedia, inspectFolder } from '../volume';
import { smallClip, workFolder } from '../testing/testTrial';

test('a clip is known for what it is', async () => {
  const intra = await probeClip(await smallClip(smallIntra));
  expect(intra).toMatchObject({
    frames: 240,
    startTimecode: '01:00:00:00',
    problem: null,
    structure: { intra: true },
  });
  expect(formatLabel(intra.format)).toBe('Motion JPEG Baseline 8-bit 4:2:2, 480x270');

  const longGop = await probeClip(await smallClip(smallLongGop));
  expect(longGop.structure).toMatchObject({
    intra: false,
    hasBFrames: true,
    keyInterval: { min: 24, max: 24 },
  });
  expect(longGop.format).toMatchObject({ codec: 'H.264', rate: { num: 25, den: 1 }, container: 'MP4' });
  expect(longGop.packets.flags.some((flags) => (flags & 2) !== 0)).toBe(true); // frames nothing refers to

  const tenBit = await probeClip(await smallClip(smallTenBit));
  expect(formatLabel(tenBit.format)).toBe('ProRes Standard 10-bit 4:2:2, 480x270');
  expect(tenBit.peakBitsPerSecond).toBeGreaterThanOrEqual(tenBit.meanBitsPerSecond * 0.999);
});

test('packets lie where the table says, byte for byte', async () => {
  const path = await smallClip(smallIntra);
  const { packets } = await probeClip(path);
  const whole = await readFile(path);
  const file = await ColdFile.open(path, Math.max(...packets.size));
  for (const row of [0, 1, 100, 239]) {
    const [offset, size] = [packets.offset[row]!, packets.size[row]!];
    expect(Buffer.compare(await file.read(offset, size), whole.subarray(offset, offset + size))).toBe(0);
  }
  await file.close();
});

test('a cold file proves that it is cold, a warm one does not claim it', async () => {
  const path = await smallClip(smallIntra);
  await readFile(path);
  const warm = await ColdFile.open(path, 4096, 'warm');
  expect(warm.proof.residentBefore).toBeGreaterThan(0.9);
  expect(warm.proof).toMatchObject({ method: 'warm' });
  await warm.close();
  const cold = await ColdFile.open(path, 4096);
  expect(cold.proof.residentBefore).toBeGreaterThan(0.9);
  if (cold.proof.method !== 'warm') {
    await cold.read(0, 4096);
    expect(cold.proof.method === 'direct' || cold.proof.residentAtStart! < 0.01).toBe(true);
  }
  await cold.close();
});

test('a file that is damaged, cut short or no media says so', async () => {
  const base = await workFolder();
  const text = join(base, 'notes.mov');
  await writeFile(text, 'no media at all');
  await expect(probeClip(text)).rejects.toThrow('could not be opened as media');
  await writeFile(text, '');
  await expect(probeClip(text)).rejects.toThrow('is empty: 0 bytes');
  await expect(probeClip(`${text}.gone`)).rejects.toThrow('is not there');

  const cut = join(base, 'cut.mov');
  await copyFile(await smallClip(smallIntra), cut);
  const { packets } = await probeClip(cut);
  await truncate(cut, packets.offset[200]);
  expect((await probeClip(cut)).problem).toMatch(/Cut short: the last \d+ frames/);
  await expect(ColdFile.open(join(base, 'gone.mov'), 10)).rejects.toThrow('is not there');
});

test('the content hash follows the content and not the name or time', async () => {
  const path = await smallClip(smallTenBit);
  const copy = join(await workFolder(), 'copy.mov');
  await copyFile(path, copy);
  await utimes(copy, 1, 1);
  expect(await contentHash(copy)).toBe(await contentHash(path));
  await truncate(copy, 1000);
  expect(await contentHash(copy)).not.toBe(await contentHash(path));
});

test('a volume is a readable folder; media in it is found, hidden and half-written files are not', async () => {
  const base = join(await workFolder(), 'volume');
  await mkdir(join(base, 'day 1'), { recursive: true });
  for (const name of ['b.MOV', 'day 1/a.mp4', '.hidden.mov', 'c.partial.mov', 'notes.txt'])
    await writeFile(join(base, name), '');
  await symlink(base, `${base}-link`);
  expect(await findMedia(base)).toEqual(['b.MOV', 'day 1/a.mp4']);
  const { path, facts } = await inspectFolder(`${base}-link`);
  expect(path).toBe(base);
  expect(facts.sizeBytes).toBeGreaterThan(0);
  expect(facts.writable).toBe(true);
  await expect(inspectFolder(join(base, 'b.MOV'))).rejects.toThrow('is a file');
  await expect(inspectFolder(join(base, 'nowhere'))).rejects.toThrow('is not there');
  await rm(`${base}-link`);
});
