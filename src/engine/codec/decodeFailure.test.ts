import {
  AVERROR_EIO,
  AVERROR_ENOMEM,
  AVERROR_EXPERIMENTAL,
  AVERROR_INVALIDDATA,
  AVERROR_PATCHWELCOME,
} from 'node-av/constants';
import type { Packet } from 'node-av/lib';
import { readFile } from 'node:fs/promises';
import type { Refusal } from '@/core/media/faults';
import { rational } from '@/core/time/rational';
import { smallTenBit } from '@/demo/smallClips';
import { CodecSource } from '../decode/frameSource';
import { probeClip } from '../media/probe';
import type { CodecSetup } from '../media/streamFacts';
import { decodeFailure, decodeFailureOf } from '../decodeFailure';
import { Decoder, packetOf } from './decoder';
import type { Refusals } from './refusals';
import { smallClip } from '../testing/testTrial';

const frame = 7;
/** Place of the version in a coded frame of the clip's codec: behind the frame's size, its name and its header's size. */
const versionAt = 10;

/** Hands a decoder one coded frame of a clip of our own, with what `change` writes over its bytes. */
async function withPacket(
  change: (bytes: Buffer) => void,
  decode: (packet: Packet, setup: CodecSetup) => Promise<void>,
): Promise<void> {
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

/** What a player's decoder makes of one coded frame, and why it refuses it. */
async function decodeWith(change: (bytes: Buffer) => void) {
  let told = { frame: false, refusal: null as Refusal | null, message: '' };
  await withPacket(change, async (packet, setup) => {
    const decoder = await Decoder.open(setup, {
      threads: 1,
      lowDelay: true,
      rate: rational(24),
      clipName: 'TW_WALL_0107.mov',
    });
    await decoder.send(packet);
    const frame = await decoder.receive();
    told = {
      frame: frame !== null,
      refusal: decoder.refusals.take(),
      message: decoder.refusals.failure?.message ?? '',
    };
    frame?.free();
    decoder.close();
  });
  return told;
}

function allOf(refusals: Refusals): Refusal[] {
  const all: Refusal[] = [];
  for (let one = refusals.take(); one !== null; one = refusals.take()) all.push(one);
  return all;
}

/** The same of the decoder that measures decoding alone. */
async function measureWith(change: (bytes: Buffer) => void) {
  let told = { frame: false, refusals: [] as readonly Refusal[], message: '' };
  await withPacket(change, (packet, setup) => {
    const source = CodecSource.open(setup, 'one');
    source.send(packet);
    const frame = source.receive();
    told = {
      frame: frame !== null,
      refusals: allOf(source.refusals),
      message: source.refusals.failure?.message ?? '',
    };
    source.close();
    return Promise.resolve();
  });
  return told;
}

const damage = (bytes: Buffer) => {
  bytes.fill(0xa5, 0, 64);
};
const laterVersion = (bytes: Buffer) => {
  bytes.writeUInt16BE(9, versionAt);
};

test('a whole frame decodes; one whose bytes were written over is refused as damaged, with what to do, and nothing is thrown', async () => {
  expect(await decodeWith(() => undefined)).toEqual({ frame: true, refusal: null, message: '' });
  expect(await decodeWith(damage)).toEqual({
    frame: false,
    refusal: 'damage',
    message: expect.stringMatching(
      /^TW_WALL_0107\.mov could not be decoded: its data is damaged\. Copy the file again/,
    ) as string,
  });
});

test('a frame of a later version of its format is no damage: another copy would not help', async () => {
  const { frame, refusal, message } = await decodeWith(laterVersion);
  expect([frame, refusal]).toEqual([false, 'feature']);
  expect(message).toMatch(
    /it uses a feature that the decoder prores does not have\. Another copy will not help/,
  );
  expect(message).not.toContain('damaged');
});

test('decode measurements tell the same apart', async () => {
  expect(await measureWith(() => undefined)).toEqual({ frame: true, refusals: [], message: '' });
  expect(await measureWith(damage)).toMatchObject({
    frame: false,
    refusals: ['damage'],
    message: expect.stringContaining('its data is damaged') as string,
  });
  expect(await measureWith(laterVersion)).toMatchObject({ frame: false, refusals: ['feature'] });
});

test('every code says what to do, and one that is not known says what it is', () => {
  expect(
    [AVERROR_INVALIDDATA, AVERROR_PATCHWELCOME, AVERROR_EXPERIMENTAL, -38, AVERROR_ENOMEM, AVERROR_EIO].map(
      decodeFailureOf,
    ),
  ).toEqual(['damage', 'feature', 'feature', 'feature', 'memory', 'unknown']);
  expect(decodeFailure('This clip', AVERROR_ENOMEM, 'hevc').message).toBe(
    'This clip could not be decoded: there was not enough memory. Close other programs, or choose fewer streams or a smaller clip, then start again.',
  );
  expect(decodeFailure('Frame 3', AVERROR_EIO, 'hevc').message).toMatch(
    /^Frame 3 could not be decoded by hevc \(.*[Ii]nput\/output error, code -5\)\. Try another copy/,
  );
});
