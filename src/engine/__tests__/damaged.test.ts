import { mkdir, readFile, rm, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { encodePacketTable } from '@/core/media/packetTable';
import { seededRandom } from '@/core/stats/random';
import type { DecodeSpec } from '../decode/spec';
import { EngineError } from '../errors';
import { MediaReader } from '@/server/runner/mediaReader';
import { writeTestMedia, type TestMedia } from './testMedia';
import { startProcess, workFolder } from './testTrial';

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

const watchdogMs = 6_000;
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
  reader = new MediaReader(join(await workFolder(), 'build', 'media.mjs'), watchdogMs);
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

/** Kinds of files whose frames are cut into small packets, whose damage no index at one place tells. */
const wrapped: readonly (readonly [string, number, TestMedia])[] = [
  [
    'card.m2ts',
    500,
    {
      encoder: 'libx264',
      pixelFormat: 'yuv420p',
      width: 96,
      height: 64,
      bFrames: 2,
      frames: 18,
      audio: true,
      options: { preset: 'ultrafast' },
    },
  ],
  [
    'tape.ts',
    500,
    { encoder: 'mpeg2video', pixelFormat: 'yuv420p', width: 96, height: 64, gop: 6, bFrames: 1, frames: 18 },
  ],
  [
    'disc.vob',
    1_000,
    { encoder: 'mpeg2video', pixelFormat: 'yuv420p', width: 96, height: 64, gop: 6, bFrames: 2, frames: 18 },
  ],
];
/** One way to damage a file: cut short, a hole of zeros, noise, bits turned over, a piece left out, a piece twice, or its pieces in another order. */
function damage(whole: Buffer, random: () => number): Buffer {
  const bytes = Buffer.from(whole);
  const at = Math.floor(random() * bytes.length);
  const length = 1 + Math.floor(random() ** 3 * 0.5 * bytes.length);
  const end = Math.min(bytes.length, at + length);
  switch (Math.floor(random() * 7)) {
    case 0:
      return bytes.subarray(0, at);
    case 1:
      return bytes.fill(0, at, end);
    case 2:
      for (let i = at; i < end; i++) bytes[i] = Math.floor(random() * 256);
      return bytes;
    case 3:
      for (let flips = 1 + Math.floor(random() * 200); flips > 0; flips--)
        bytes[Math.floor(random() * bytes.length)]! ^= 1 << Math.floor(random() * 8);
      return bytes;
    case 4:
      return Buffer.concat([bytes.subarray(0, at), bytes.subarray(end)]);
    case 5:
      return Buffer.concat([bytes.subarray(0, end), bytes.subarray(at)]);
    default:
      return Buffer.concat([bytes.subarray(at), bytes.subarray(0, at)]);
  }
}

test.each(wrapped)(
  'damages of %s, %i in number: each ends with words or with frames',
  async (name, damages, media) => {
    const folder = join(await workFolder(), 'damaged');
    await mkdir(folder, { recursive: true });
    const own = new MediaReader(join(await workFolder(), 'build', 'media.mjs'), watchdogMs);
    const path = join(folder, name);
    await writeTestMedia(path, media);
    const whole = await readFile(path);
    const random = seededRandom(name.length);
    const outcomes: Record<string, number> = {};
    const damaged = join(folder, `damaged-${name}`);
    for (let number = 0; number < damages; number++) {
      await writeFile(damaged, damage(whole, random));
      const outcome = await outcomeOf(own, damaged, false);
      outcomes[outcome] = (outcomes[outcome] ?? 0) + 1;
    }
    expect((await own.ask({ kind: 'probe', path })).problem).toBeNull();
    own.stop();
    expect(outcomes['unclear']).toBeUndefined();
    expect(outcomes['ready']).toBeGreaterThan(damages / 4);
    expect((outcomes['refused'] ?? 0) + (outcomes['problem named'] ?? 0)).toBeGreaterThan(3);
  },
  300_000,
);

/** Kinds of pictures of which a clip may have a file for each frame. */
const pictures: readonly (readonly [string, string, string])[] = [
  ['dpx', 'dpx', 'gbrp10le'],
  ['exr', 'exr', 'gbrpf32le'],
  ['tif', 'tiff', 'rgb48le'],
  ['png', 'png', 'rgb24'],
  ['jpg', 'mjpeg', 'yuvj420p'],
  ['j2k', 'jpeg2000', 'yuv422p10le'],
];

test('a thousand damages of sequences: a file in any state, or gone, ends with words or with frames', async () => {
  const own = new MediaReader(join(await workFolder(), 'build', 'media.mjs'), watchdogMs);
  const random = seededRandom(23);
  const outcomes: Record<string, number> = {};
  for (const [ending, encoder, pixelFormat] of pictures) {
    const folder = join(await workFolder(), 'damaged', `pictures-${ending}`);
    await mkdir(folder, { recursive: true });
    await writeTestMedia(join(folder, `p.%04d.${ending}`), {
      encoder,
      pixelFormat,
      width: 96,
      height: 64,
      frames: 5,
    });
    for (let number = 0; number < 167; number++) {
      const file = join(folder, `p.000${1 + Math.floor(random() * 5)}.${ending}`);
      const whole = await readFile(file);
      if (random() < 0.1) await rm(file);
      else await writeFile(file, damage(whole, random));
      const outcome = await outcomeOf(own, join(folder, `p.####.${ending}`), false);
      outcomes[outcome] = (outcomes[outcome] ?? 0) + 1;
      await writeFile(file, whole);
    }
    expect(await outcomeOf(own, join(folder, `p.####.${ending}`), false)).toBe('ready');
  }
  own.stop();
  expect(outcomes['unclear']).toBeUndefined();
  expect(outcomes['ready']).toBeGreaterThan(300);
  expect((outcomes['refused'] ?? 0) + (outcomes['problem named'] ?? 0)).toBeGreaterThan(30);
}, 300_000);

/** What becomes of a file: refused with a message, kept with its problem named, or good enough to play. */
async function outcomeOf(reader: MediaReader, path: string, decodeToo: boolean): Promise<string> {
  const begun = Date.now();
  try {
    const clip = await reader.ask({ kind: 'probe', path });
    if (clip.problem !== null) return clip.problem.length > 20 ? 'problem named' : 'unclear';
    await reader.ask({
      kind: 'preview',
      source: { path, setup: clip.setup, rate: clip.format.rate, packets: clip.packets },
      pixelAspect: 1,
    });
    if (decodeToo)
      await decodes({
        path,
        setup: clip.setup,
        format: clip.format,
        packets: encodePacketTable(clip.packets),
        settings: { kind: 'decode-rate', passSeconds: 0.2, passes: 1 },
        cores: 'all',
      });
    return 'ready';
  } catch (error) {
    return error instanceof EngineError && error.message.length > 20 ? 'refused' : 'unclear';
  } finally {
    expect(Date.now() - begun).toBeLessThan(watchdogMs * 4);
  }
}

/** A decode trial of a file that passed for whole ends, one way or another, with words where it fails. */
async function decodes(spec: DecodeSpec): Promise<void> {
  const host = await startProcess('decode', spec, {}, watchdogMs);
  const end = await host.ended;
  if (end.kind !== 'done')
    throw new Error('message' in end ? end.message : 'The decode trial was cancelled by itself.');
}
