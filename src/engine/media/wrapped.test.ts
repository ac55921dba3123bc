import { mkdir, readFile, writeFile } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { AVMEDIA_TYPE_VIDEO, type AVCodecID } from 'node-av/constants';
import { avGetCodecName, FormatContext, Packet } from 'node-av/lib';
import { readFrameCode } from '@/core/media/frameCode';
import { frameTypes, isDisposable, isKey } from '@/core/media/packetTable';
import { seededRandom } from '@/core/stats/random';
import { FrameAccess } from '../codec/frameAccess';
import { lumaReader } from './luma';
import { probeClip } from './probe';
import type { ProbedClip } from './streamFacts';
import { rowsByUnits } from './wrapped';
import { packetOfRow } from '../codec/decoder';
import { writeTestMedia, type TestMedia } from '../testing/testMedia';
import { workFolder } from '../testing/testTrial';

/*
 * Streams that cut their frames into small packets between those of sound: what the index finds must be what the codec
 * library's own demultiplexer takes out of the whole file, frame by frame and byte by byte.
 */

const h264: TestMedia = {
  encoder: 'libx264',
  pixelFormat: 'yuv420p',
  width: 256,
  height: 144,
  bFrames: 2,
  frames: 30,
  audio: true,
  options: { preset: 'ultrafast' },
};
const mpeg2: TestMedia = {
  encoder: 'mpeg2video',
  pixelFormat: 'yuv420p',
  width: 352,
  height: 288,
  gop: 12,
  bFrames: 2,
  frames: 30,
};

const streams: readonly (readonly [string, string, TestMedia, object])[] = [
  [
    'H.264 with sound, as card cameras write it',
    'MTS.m2ts',
    h264,
    { kind: 'transport', packetBytes: 192, lead: 4 },
  ],
  ['H.264 in a transport stream', 'ts', h264, { kind: 'transport', packetBytes: 188, lead: 0 }],
  ['MPEG-2 in a transport stream', 'ts', mpeg2, { kind: 'transport' }],
  [
    'HEVC in a transport stream',
    'ts',
    {
      ...h264,
      encoder: 'libx265',
      pixelFormat: 'yuv420p10le',
      options: { preset: 'ultrafast', 'x265-params': 'log-level=none' },
    },
    { kind: 'transport' },
  ],
  ['MPEG-2 in a program stream', 'vob', { ...mpeg2, interlaced: 'top' }, { kind: 'program', streamId: 0xe0 }],
  ['MPEG-1 in a program stream', 'mpg', { ...mpeg2, encoder: 'mpeg1video' }, { kind: 'program' }],
];

let made = 0;
async function written(ending: string, media: TestMedia): Promise<string> {
  const path = join(await workFolder(), 'wrapped', `stream-${made++}.${ending}`);
  await mkdir(dirname(path), { recursive: true });
  await writeTestMedia(path, media);
  return path;
}

/** The picture packets of a file as the library takes them out of it. */
async function demultiplexed(path: string): Promise<Buffer[]> {
  const input = new FormatContext();
  await input.openInput(path);
  await input.findStreamInfo();
  const wanted = input.findBestStream(AVMEDIA_TYPE_VIDEO);
  const packet = new Packet();
  packet.alloc();
  const packets: Buffer[] = [];
  while (input.readFrameSync(packet) >= 0) {
    if (packet.streamIndex === wanted) packets.push(Buffer.from(packet.data!));
    packet.unref();
  }
  packet.free();
  await input.closeInput();
  return packets;
}

function unwrapped(file: Buffer, clip: ProbedClip, row: number): Buffer {
  const { offset, size } = clip.packets;
  const packet = packetOfRow(clip, row, file.subarray(offset[row], offset[row]! + size[row]!));
  const data = Buffer.from(packet.data!);
  packet.free();
  return data;
}

async function numbersOf(reader: FrameAccess, slots: readonly number[]): Promise<(number | null)[]> {
  const numbers: (number | null)[] = [];
  for (const slot of slots) {
    const frame = await reader.frame(slot);
    const luma = frame && lumaReader(frame);
    numbers.push(frame && luma && readFrameCode(frame.width, frame.height, luma));
    frame?.free();
  }
  return numbers;
}

test.each(streams)(
  '%s: every frame lies where the index says and shows its number',
  async (_, ending, media, wrapping) => {
    const path = await written(ending, media);
    const clip = await probeClip(path);
    expect(clip).toMatchObject({
      problem: null,
      frames: 30,
      setup: { wrapping },
      format: { rate: { num: 25, den: 1 } },
      identity: { decodeProblem: null, timing: { constant: true, missing: 0, duplicate: 0 } },
    });
    const file = await readFile(path);
    const packets = await demultiplexed(path);
    expect(packets).toHaveLength(30);
    for (const [row, data] of packets.entries()) expect(unwrapped(file, clip, row).equals(data)).toBe(true);
    const source = { path, setup: clip.setup, rate: clip.format.rate, packets: clip.packets };
    const reader = await FrameAccess.open(source);
    const all = Array.from({ length: 30 }, (__, slot) => slot);
    expect(await numbersOf(reader, all)).toEqual(all);
    const random = seededRandom(5);
    const jumps = Array.from({ length: 20 }, () => Math.floor(random() * 30));
    expect(await numbersOf(reader, jumps)).toEqual(jumps);
    await reader.close();
  },
);

test('what lies between is read with the frames: the whole file from the first frame on, once', async () => {
  const path = await written('ts', h264);
  const { packets, meanBitsPerSecond } = await probeClip(path);
  const { length } = await readFile(path);
  const read = packets.size.reduce((sum, bytes) => sum + bytes, 0);
  expect(read + packets.offset[0]!).toBe(length);
  expect(read).toBeGreaterThan(packets.inside!.bytes.reduce((sum, bytes) => sum + bytes, 0) + 1_000);
  expect(meanBitsPerSecond).toBeCloseTo((read / 30) * 25 * 8, 0);
});

test('recordings joined end to end play through, though their clock begins anew', async () => {
  const path = await written('ts', h264);
  const once = await readFile(path);
  const joined = `${path.slice(0, -3)}-joined.ts`;
  await writeFile(joined, Buffer.concat([once, once]));
  const clip = await probeClip(joined);
  expect(clip).toMatchObject({ problem: null, frames: 60 });
  const source = { path: joined, setup: clip.setup, rate: clip.format.rate, packets: clip.packets };
  const reader = await FrameAccess.open(source);
  const all = Array.from({ length: 60 }, (_, slot) => slot);
  expect(await numbersOf(reader, all)).toEqual(all.map((slot) => slot % 30));
  await reader.close();
});

test('a stream that lost packets on the way keeps the frames that are whole', async () => {
  const path = await written('ts', h264);
  const bytes = await readFile(path);
  const clip = await probeClip(path);
  // A packet in the middle of the twelfth frame goes missing.
  const lost = clip.packets.offset[12]! + 188;
  const torn = `${path.slice(0, -3)}-torn.ts`;
  await writeFile(torn, Buffer.concat([bytes.subarray(0, lost), bytes.subarray(lost + 188)]));
  const found = await probeClip(torn);
  expect(found).toMatchObject({ problem: null, frames: 30 });
  const file = await readFile(torn);
  const whole = await demultiplexed(path);
  for (const [row, data] of whole.entries())
    expect(unwrapped(file, found, row).equals(data)).toBe(row !== 12);
});

test.each(streams.filter(([, ending]) => ending !== 'mpg'))(
  '%s: told by its units, once its first frames have proved that, it is what the demultiplexer gives',
  async (_, ending, media) => {
    const path = await written(ending, { ...media, frames: 160, width: 96, height: 64 });
    const slow = await probeClip(path, () => undefined, Infinity);
    const quick = await probeClip(path);
    expect(quick.packets).toEqual(slow.packets);
    const { packets, setup } = slow;
    const codec = {
      name: avGetCodecName(setup.codecId as AVCodecID)!,
      extradata: Buffer.from(setup.extradata ?? '', 'base64'),
    };
    const proof = Array.from({ length: 100 }, (__, row) => ({
      offset: packets.offset[row]!,
      size: packets.inside!.bytes[row]!,
      pts: packets.pts[row]!,
      dts: packets.dts[row]!,
      key: isKey(packets, row),
      disposable: isDisposable(packets, row),
      type: frameTypes[packets.type[row]!]!,
    }));
    const byUnits = await rowsByUnits(path, setup.wrapping!, codec, proof, () => undefined);
    // Where frames lie across units, the demultiplexer has to take all of them out.
    expect(byUnits?.length ?? null).toBe(setup.wrapping!.kind === 'transport' ? 160 : null);
    const other = proof.map((row, at) => (at === 90 ? { ...row, size: row.size + 1 } : row));
    expect(await rowsByUnits(path, setup.wrapping!, codec, other, () => undefined)).toBeNull();
  },
);
