import { AVERROR_EIO, AVERROR_ENOMEM, AVERROR_EXPERIMENTAL, AVERROR_INVALIDDATA, AVERROR_PATCHWELCOME } from 'node-av/constants';
import type { Packet } from 'node-av/lib';
import { readFile } from 'node:fs/promises';
import { rational } from '@/core/time/rational';
import { smallTenBit } from '@/demo/smallClips';
import { CodecSource } from '../decode/frameSource';
import { probeClip, type CodecSetup } from '../media/probe';
import { decodeFailure, decodeFailureOf } from '../playback/decodeFailure';
import { Decoder, packetOf } from '../playback/decoder';
import { smallClip } from './testTrial';

const frame = 7;
/** Place of the version in a coded frame of the clip's codec: behind the frame's size, its name and its header's size. */
const versionAt = 10;

/** Hands a decoder one coded frame of a clip of our own, with what `change` writes over its bytes. */
async function withPacket(change: (bytes: Buffer) => void, decode: (packet: Packet, setup: CodecSetup) => Promise<void>): Promise<void> {
  const path = await smallClip(smallTenBit);
  const { packets, setup } = await probeClip(path);
  const row = packets.slot.indexOf(frame);
  const start = packets.offset[row]!;
  const bytes = Buffer.from((await readFile(path)).subarray(start, start + packets.size[row]!));
  change(bytes);
  const packet = packetOf(bytes, frame, true);
  try {
    await decode(packet, setup);
  } finally {
    packet.free();
  }
}

const decodeWith = (change: (bytes: Buffer) => void) => withPacket(change, async (packet, setup) => {
  const decoder = await Decoder.open(setup, { threads: 1, lowDelay: true, rate: rational(24) });
  try {
    await decoder.send(packet);
    (await decoder.receive())?.free();
  } finally {
    decoder.close();
  }
});

const measureWith = (change: (bytes: Buffer) => void) => withPacket(change, (packet, setup) => {
  const source = CodecSource.open(setup, 'one');
  try {
    source.send(packet);
    source.receive();
  } finally {
    source.close();
  }
  return Promise.resolve();
});

test('a whole frame decodes, and one whose bytes were written over is called damaged, with what to do', async () => {
  await expect(decodeWith(() => undefined)).resolves.toBeUndefined();
  await expect(decodeWith((bytes) => { bytes.fill(0xa5, 0, 64); })).rejects.toThrow(/^Frame 7 could not be decoded: its data is damaged\. Copy the file again/);
});

test('a frame of a later version of its format is no damage: another copy would not help', async () => {
  const later = decodeWith((bytes) => { bytes.writeUInt16BE(9, versionAt); });
  await expect(later).rejects.toThrow(/^Frame 7 could not be decoded: it uses a feature that the decoder prores does not have\. Another copy will not help/);
  await expect(later).rejects.not.toThrow(/damaged/);
});

test('decode measurements tell the same apart', async () => {
  await expect(measureWith((bytes) => { bytes.fill(0xa5, 0, 64); })).rejects.toThrow('its data is damaged');
  await expect(measureWith((bytes) => { bytes.writeUInt16BE(9, versionAt); })).rejects.toThrow('a feature that the decoder prores does not have');
});

test('every code says what to do, and one that is not known says what it is', () => {
  expect([AVERROR_INVALIDDATA, AVERROR_PATCHWELCOME, AVERROR_EXPERIMENTAL, -38, AVERROR_ENOMEM, AVERROR_EIO].map(decodeFailureOf)).toEqual(['damage', 'feature', 'feature', 'feature', 'memory', 'unknown']);
  expect(decodeFailure('This clip', AVERROR_ENOMEM, 'hevc').message).toBe('This clip could not be decoded: there was not enough memory. Close other programs, or choose fewer streams or a smaller clip, then start again.');
  expect(decodeFailure('Frame 3', AVERROR_EIO, 'hevc').message).toMatch(/^Frame 3 could not be decoded by hevc \(.*[Ii]nput\/output error, code -5\)\. Try another copy/);
});
