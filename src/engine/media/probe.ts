import { createHash } from 'node:crypto';
import { open } from 'node:fs/promises';
import { AVERROR_EOF, AVMEDIA_TYPE_VIDEO, AV_LOG_FATAL, AV_PKT_FLAG_DISPOSABLE, type AVPixelFormat } from 'node-av/constants';
import { avGetCodecName, avGetPixFmtName, Codec, FormatContext, Log, Packet, type Stream } from 'node-av/lib';
import { bytesPerSlot, dataRate } from '@/core/media/dataRate';
import { codecLabel, containerLabel, pixelFormatFacts, profileLabel, type Format } from '@/core/media/format';
import { frameStructure, isDisposableH264, isDisposableHevc, type FrameStructure, type NalLengthSize } from '@/core/media/frameStructure';
import { packetTableFrom, type FrameType, type PacketRow, type PacketTable } from '@/core/media/packetTable';
import { rational, type Rational } from '@/core/time/rational';
import { EngineError } from '../errors';

/** What a decoder must be told before the first packet. */
export interface CodecSetup {
  readonly codecId: number;
  readonly codecTag: number;
  readonly pixelFormat: number;
  readonly width: number;
  readonly height: number;
  readonly profile: number;
  readonly level: number;
  readonly bitsPerCodedSample: number;
  /** Base64. */
  readonly extradata: string | null;
}

/** Everything a clip's file tells: identity, frame structure, rates, and where each packet lies. */
export interface ProbedClip {
  readonly format: Format;
  readonly structure: FrameStructure;
  readonly frames: number;
  readonly timeBase: Rational;
  readonly startTimecode: string | null;
  readonly meanBitsPerSecond: number;
  readonly peakBitsPerSecond: number;
  readonly setup: CodecSetup;
  readonly packets: PacketTable;
  /** SHA-256 over the size and the first and last megabyte. */
  readonly contentHash: string;
  /** What stands in the way of playing it, or null. */
  readonly problem: string | null;
}

const hashSpan = 1_000_000;

/** A hash that names a file's content without reading all of it: its size, first and last megabyte. */
export async function contentHash(path: string): Promise<string> {
  const handle = await open(path, 'r');
  try {
    const { size } = await handle.stat();
    const hash = createHash('sha256').update(String(size));
    for (const position of size > 2 * hashSpan ? [0, size - hashSpan] : [0]) {
      const part = Buffer.alloc(position === 0 && size <= 2 * hashSpan ? size : hashSpan);
      const { bytesRead } = await handle.read(part, 0, part.length, position);
      hash.update(part.subarray(0, bytesRead));
    }
    return hash.digest('hex');
  } finally {
    await handle.close();
  }
}

/**
 * Reads a media file's identity and indexes its picture packets.
 * @throws EngineError when the file is no media file, is damaged, or has no moving picture
 */
export async function probeClip(path: string): Promise<ProbedClip> {
  Log.setLevel(AV_LOG_FATAL);
  const input = new FormatContext();
  if ((await input.openInput(path)) < 0) {
    throw new EngineError(`${path} could not be opened as media: it is damaged, cut short, or of a kind that is not known here.`);
  }
  try {
    await input.findStreamInfo();
    const stream = input.streams[input.findBestStream(AVMEDIA_TYPE_VIDEO)];
    if (!stream) throw new EngineError(`${path} holds no moving picture.`);
    const rows = await readPackets(input, stream);
    if (rows.length === 0) throw new EngineError(`${path} holds no picture frames.`);
    return await describe(path, input, stream, packetTableFrom(rows));
  } finally {
    await input.closeInput();
  }
}

async function readPackets(input: FormatContext, stream: Stream): Promise<PacketRow[]> {
  const disposable = disposableTest(stream);
  const rows: PacketRow[] = [];
  const packet = new Packet();
  packet.alloc();
  for (;;) {
    const code = await input.readFrame(packet);
    if (code === AVERROR_EOF || code < 0) break;
    if (packet.streamIndex === stream.index) rows.push(rowOf(packet, disposable));
    packet.unref();
  }
  packet.free();
  return rows;
}

function rowOf(packet: Packet, disposable: ((data: Uint8Array) => boolean) | null): PacketRow {
  const isDisposable = packet.hasFlags(AV_PKT_FLAG_DISPOSABLE) || (disposable !== null && packet.data !== null && disposable(packet.data));
  return {
    offset: Number(packet.pos), size: packet.size, pts: Number(packet.pts), dts: Number(packet.dts),
    key: packet.isKeyframe, disposable: isDisposable, type: typeOf(packet, isDisposable),
  };
}

/** Frame type as far as the packet shows it: key frames are I; frames nothing refers to are B. */
function typeOf(packet: Packet, disposable: boolean): FrameType {
  if (packet.isKeyframe) return 'I';
  return disposable || packet.pts < packet.dts ? 'B' : 'P';
}

function disposableTest(stream: Stream): ((data: Uint8Array) => boolean) | null {
  const name = avGetCodecName(stream.codecpar.codecId);
  const extradata = stream.codecpar.extradata;
  const lengthSize = (field: number): NalLengthSize => (extradata?.[0] === 1 ? ((((extradata[field] ?? 3) & 3) + 1) as NalLengthSize) : 0);
  if (name === 'h264') return (data) => isDisposableH264(data, lengthSize(4));
  if (name === 'hevc') return (data) => isDisposableHevc(data, lengthSize(21));
  return null;
}

async function describe(path: string, input: FormatContext, stream: Stream, packets: PacketTable): Promise<ProbedClip> {
  const { codecpar } = stream;
  const codecName = avGetCodecName(codecpar.codecId) ?? 'unknown';
  const rate = rationalRate(stream);
  const pixelFormatName = avGetPixFmtName(codecpar.format as AVPixelFormat) ?? 'unknown';
  const { meanBitsPerSecond, peakBitsPerSecond } = dataRate(bytesPerSlot(packets), rate);
  return {
    format: {
      container: containerLabel(input.iformat?.name ?? 'unknown', path),
      codec: codecLabel(codecName), profile: profileLabel(codecName, codecpar.profile),
      ...pixelFormatFacts(pixelFormatName), width: codecpar.width, height: codecpar.height, rate,
    },
    structure: frameStructure(packets),
    frames: packets.length,
    timeBase: rational(stream.timeBase.num, stream.timeBase.den),
    startTimecode: timecodeOf(input),
    meanBitsPerSecond, peakBitsPerSecond,
    setup: {
      codecId: codecpar.codecId, codecTag: codecpar.codecTag, pixelFormat: codecpar.format, width: codecpar.width, height: codecpar.height,
      profile: codecpar.profile, level: codecpar.level, bitsPerCodedSample: codecpar.bitsPerCodedSample,
      extradata: codecpar.extradata?.toString('base64') ?? null,
    },
    packets,
    contentHash: await contentHash(path),
    problem: await findProblem(path, input, stream, packets, codecName),
  };
}

function rationalRate(stream: Stream): Rational {
  const { num, den } = stream.avgFrameRate.num > 0 ? stream.avgFrameRate : stream.rFrameRate;
  return num > 0 && den > 0 ? rational(num, den) : rational(25);
}

function timecodeOf(input: FormatContext): string | null {
  for (const stream of input.streams) {
    const value = stream.metadata?.get('timecode');
    if (value) return value;
  }
  return input.metadata?.get('timecode') ?? null;
}

async function findProblem(path: string, input: FormatContext, stream: Stream, packets: PacketTable, codecName: string): Promise<string | null> {
  if (!Codec.findDecoder(stream.codecpar.codecId)) return `No decoder for ${codecLabel(codecName)} here. Its rates can be planned with; it cannot be played.`;
  const handle = await open(path, 'r');
  try {
    const { size } = await handle.stat();
    const missing = packets.offset.filter((offset, i) => offset + (packets.size[i] ?? 0) > size).length;
    const absent = Math.max(missing, Number(stream.nbFrames) - packets.length);
    if (absent > 0) return `Cut short: the last ${absent} frames lie beyond the end of the file. Copy it again from its source.`;
    if (packets.offset.some((offset) => offset < 0)) return 'The container does not say where its packets lie, so they cannot be read by byte range.';
    // Containers that interleave headers into packets cannot be read by byte range: compare a few.
    await input.seekFrame(stream.index, 0n);
    const packet = new Packet();
    packet.alloc();
    for (let compared = 0; compared < 4 && (await input.readFrame(packet)) >= 0;) {
      if (packet.streamIndex !== stream.index || !packet.data) {
        packet.unref();
        continue;
      }
      const bytes = Buffer.alloc(packet.size);
      await handle.read(bytes, 0, bytes.length, Number(packet.pos));
      if (!bytes.equals(packet.data)) return 'The container splits its packets, so they cannot be read by byte range. Rewrap it to MOV or MP4 to measure it.';
      packet.unref();
      compared++;
    }
    packet.free();
    return null;
  } finally {
    await handle.close();
  }
}
