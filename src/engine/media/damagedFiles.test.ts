import { mkdir, readFile, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { seededRandom } from '@/core/stats/random';
import type { MediaReader } from '@/server/runner/shared/mediaReader';
import { outcomeOf, readerOfDamages } from '../testing/damages';
import { writeTestMedia, type TestMedia } from '../testing/testMedia';
import { workFolder } from '../testing/testTrial';

/** Whole files that damage is done to: an intra and a long-GOP codec, with the index before and behind the media, in two containers. */
const whole: readonly (readonly [string, TestMedia])[] = [
  ['intra.mov', { encoder: 'prores_aw', pixelFormat: 'yuv422p10le' }],
  [
    'long.mp4',
    {
      encoder: 'libx264',
      pixelFormat: 'yuv420p',
      bFrames: 2,
      audio: false,
      options: { preset: 'ultrafast' },
      muxOptions: { movflags: '+faststart' },
    },
  ],
  [
    'hevc.mp4',
    {
      encoder: 'libx265',
      pixelFormat: 'yuv420p10le',
      options: { preset: 'ultrafast', 'x265-params': 'log-level=none' },
    },
  ],
  [
    'mpeg2.mxf',
    { encoder: 'mpeg2video', pixelFormat: 'yuv422p', width: 352, height: 288, gop: 12, bFrames: 2 },
  ],
];

let reader: MediaReader | null = null;
afterAll(() => reader?.stop());

/** Boxes and fields of a header that a file may lie about: the text that stands before the number. */
const lies = ['stsz', 'stco', 'stts', 'stsc', 'mvhd', 'tkhd', 'mdat', 'moov', 'stss', 'ctts'] as const;

function damagedVariants(bytes: Buffer, seed: number): Buffer[] {
  const random = seededRandom(seed);
  const cuts = [0, 1, 7, 40, 500, 0.1, 0.5, 0.9, 0.99].map((at) =>
    bytes.subarray(0, at < 1 && at > 0 ? Math.floor(bytes.length * at) : Math.min(bytes.length - 1, at)),
  );
  const flipped = Array.from({ length: 10 }, (_, round) => {
    const copy = Buffer.from(bytes);
    for (let flips = 0; flips < 1 + round * 8; flips++)
      copy[Math.floor(random() * copy.length)]! ^= 1 << Math.floor(random() * 8);
    return copy;
  });
  const lying = lies.flatMap((name) => {
    const at = bytes.indexOf(name, 0, 'latin1');
    if (at < 4) return [];
    const [size, field] = [Buffer.from(bytes), Buffer.from(bytes)];
    size.writeUInt32BE(0x7fffffff, at - 4);
    if (at + 20 < field.length) field.fill(0xff, at + 8, at + 16);
    return [size, field];
  });
  return [...cuts, ...flipped, ...lying];
}

test('a hundred damaged files: each has a clear outcome, none ends or holds what reads it for good', async () => {
  const folder = join(await workFolder(), 'damaged');
  await mkdir(folder, { recursive: true });
  reader = await readerOfDamages();
  const outcomes: string[] = [];
  for (const [index, [name, media]] of whole.entries()) {
    const path = join(folder, name);
    await writeTestMedia(path, media);
    for (const [number, bytes] of damagedVariants(await readFile(path), 7 + index).entries()) {
      const damaged = join(folder, `${number}-${name}`);
      await writeFile(damaged, bytes);
      outcomes.push(await outcomeOf(reader, damaged, number % 6 === 0));
    }
    // The reader is as good as new after all of it.
    expect((await reader.ask({ kind: 'probe', path })).problem).toBeNull();
  }
  expect(outcomes.length).toBeGreaterThanOrEqual(100);
  expect(outcomes.filter((outcome) => outcome === 'unclear')).toEqual([]);
  expect(outcomes.filter((outcome) => outcome === 'refused').length).toBeGreaterThan(10);
  expect(outcomes).toContain('problem named');
  expect(outcomes).toContain('ready');
}, 300_000);
