import { stat } from 'node:fs/promises';
import {
  AVERROR_EOF,
  AV_LOG_FATAL,
  AV_PKT_FLAG_DISCARD,
  AV_PKT_FLAG_DISPOSABLE,
  AVSEEK_FLAG_BACKWARD,
} from 'node-av/constants';
import { type FormatContext, Log, Packet, type Stream } from 'node-av/lib';
import { bytesPerSlot, dataRate } from '@/core/media/dataRate';
import { containerLabel, pixelFormatFacts } from '@/core/media/format';
import { headerReader, type HeaderReader } from '@/core/media/frameHeaders';
import { frameStructure } from '@/core/media/frameStructure';
import { joinField, packetTableFrom, type PacketRow, type PacketTable } from '@/core/media/packetTable';
import type { Wrapping } from '@/core/media/wrapping';
import { referenceDepth } from '@/core/media/referenceDepth';
import { greatest, least } from '@/core/stats/extremes';
import { rational, toNumber, type Rational } from '@/core/time/rational';
import { EngineError } from '../errors';
import { openInPlace } from '../inPlace';
import { MediaFile } from './container';
import { contentHash } from './contentHash';
import {
  codecNameOf,
  codecOf,
  pictureStream,
  profileOf,
  setupOf,
  timecodeOf,
  undecodableBecause,
  type ProbedClip,
} from './streamFacts';
import { picturesAt, probePictures } from './probePictures';
import { SoundIndex } from './soundIndex';
import { rowsByUnits, Samples, unwrappedRows, wrappingOf } from './wrapped';
import { FirstFrame, identityOf, pixelFormatName, readIsoLayout, type IsoLayout } from './identify';

/** Frames of a wrapped stream by which it is proved that each unit holds one. */
const framesProved = 120;
/** Packets between two words of progress. */
const packetsPerReport = 2_000;

/**
 * Reads a media file's identity and indexes its picture packets.
 * @param onProgress called now and then with the bytes passed so far
 * @param provedFrames of a wrapped stream, that are taken out by the demultiplexer before all others are told by their units
 * @throws EngineError when the file is no media file, is damaged, or has no moving picture
 */
export async function probeClip(
  path: string,
  onProgress: (bytes: number) => void = () => undefined,
  provedFrames = framesProved,
): Promise<ProbedClip> {
  Log.setLevel(AV_LOG_FATAL);
  const pictures = await picturesAt(path);
  if (pictures) return probePictures(pictures);
  if (
    await stat(path).then(
      ({ size }) => size === 0,
      () => false,
    )
  )
    throw new EngineError('empty-file', { path });
  const file = await MediaFile.open(path);
  if (!file) {
    throw new EngineError('no-media', { path });
  }
  const { input } = file;
  try {
    await input.findStreamInfo();
    const stream = pictureStream(input);
    if (!stream) throw new EngineError('no-moving-picture', { path });
    const layout = await readIsoLayout(path);
    const wrapping = await wrappingOf(path, input.iformat?.name ?? '', stream.id);
    const sound = SoundIndex.of(input, wrapping);
    const indexed = await indexPackets(path, input, stream, { wrapping, sound }, onProgress, provedFrames);
    if (indexed.rows.length === 0) throw new EngineError('no-picture-frames', { path });
    return await describe(path, input, stream, layout, indexed);
  } finally {
    await file.close();
  }
}

interface Indexed {
  readonly rows: readonly PacketRow[];
  readonly first: FirstFrame;
  /** Coded frames that an edit list hides. */
  readonly framesCut: number;
  /** The file ended in an error, not at its end. */
  readonly brokeOff: boolean;
  readonly wrapping: Wrapping | null;
  readonly sound: SoundIndex | null;
  /** Frames of a wrapped stream by which the places of all are proved. */
  readonly samples: Samples;
}

async function indexPackets(
  path: string,
  input: FormatContext,
  stream: Stream,
  { wrapping, sound }: Pick<Indexed, 'wrapping' | 'sound'>,
  onProgress: (bytes: number) => void,
  provedFrames: number,
): Promise<Indexed> {
  const { index: wanted, codecpar } = stream;
  const codec = { name: codecNameOf(stream), extradata: codecpar.extradata ?? new Uint8Array(0) };
  const header = headerReader(codec.name, codec.extradata);
  const rows: PacketRow[] = [];
  const first = new FirstFrame(stream);
  const samples = new Samples();
  let byUnits: PacketRow[] | null | undefined;
  const packet = new Packet();
  packet.alloc();
  let framesCut = 0;
  let bytes = 0;
  let code = 0;
  try {
    for (let count = 1; (code = input.readFrameSync(packet)) >= 0; count++) {
      bytes += packet.size;
      sound?.note(packet);
      if (packet.streamIndex === wanted) {
        if (first.wantsMore) first.feed(packet);
        if (packet.hasFlags(AV_PKT_FLAG_DISCARD)) framesCut++;
        const row = rowOf(packet, header);
        if (!wrapping || !joinField(rows.at(-1), row)) {
          if (wrapping) samples.note(rows.length, packet.data);
          rows.push(row);
        }
      }
      packet.unref();
      if (wrapping && rows.length === provedFrames && !first.wantsMore && byUnits === undefined) {
        byUnits = await rowsByUnits(path, wrapping, codec, rows, onProgress, sound?.units);
        if (byUnits) return { rows: byUnits, first, framesCut, brokeOff: false, wrapping, sound, samples };
      }
      if (count % packetsPerReport === 0) {
        onProgress(bytes);
        await new Promise(setImmediate);
      }
    }
    if (first.wantsMore) first.feed(null);
  } finally {
    first.close();
    packet.free();
  }
  return { rows, first, framesCut, brokeOff: code !== AVERROR_EOF, wrapping, sound, samples };
}

/** Nothing is noted of a time that the container does not give. */
const noTime = -(2n ** 63n);
const timeOf = (time: bigint) => (time === noTime ? Number.NaN : Number(time));

function rowOf(packet: Packet, header: HeaderReader | null): PacketRow {
  const found = header && packet.data ? header(packet.data) : null;
  const disposable = packet.hasFlags(AV_PKT_FLAG_DISPOSABLE) || (found?.disposable ?? false);
  const guess = packet.isKeyframe ? 'I' : disposable || packet.pts < packet.dts ? 'B' : 'P';
  return {
    offset: Number(packet.pos),
    size: packet.size,
    pts: timeOf(packet.pts),
    dts: timeOf(packet.dts),
    key: packet.isKeyframe,
    disposable,
    type: found && found.type !== '?' ? found.type : guess,
    field: found?.field ?? null,
  };
}

async function describe(
  path: string,
  input: FormatContext,
  stream: Stream,
  layout: IsoLayout,
  { rows, first, framesCut, brokeOff, wrapping, sound, samples }: Indexed,
): Promise<ProbedClip> {
  const { codecpar } = stream;
  const codecName = codecNameOf(stream);
  // Rows that were found by their units say already where they lie.
  const unwrapped = rows[0]?.inside
    ? rows
    : wrapping && (await unwrappedRows(path, wrapping, codecName, rows, sound?.units ?? null, samples));
  const packets = packetTableFrom(unwrapped ?? rows);
  const rate = rateOf(stream, packets);
  const startTimecode = timecodeOf(input);
  const { meanBitsPerSecond, peakBitsPerSecond } = dataRate(bytesPerSlot(packets), rate);
  const missingFrames = await countMissing(path, stream, packets, rate, layout, brokeOff);
  return {
    format: {
      container: containerLabel(input.iformat?.name ?? 'unknown', path),
      codec: codecOf(stream),
      profile: profileOf(stream),
      ...pixelFormatFacts(pixelFormatName(stream, first)),
      width: codecpar.width,
      height: codecpar.height,
      rate,
    },
    structure: frameStructure(packets, referenceDepth(codecName, codecpar.extradata ?? new Uint8Array(0))),
    identity: identityOf({ input, stream, packets, first, layout, framesCut, missingFrames, startTimecode }),
    frames: packets.length,
    timeBase: rational(stream.timeBase.num, stream.timeBase.den),
    startTimecode,
    meanBitsPerSecond,
    peakBitsPerSecond,
    setup: { ...setupOf(stream, first), ...(wrapping && { wrapping }) },
    packets,
    sound: (await sound?.found(path, firstTime(packets) * toNumber(stream.timeBase))) ?? null,
    contentHash: await contentHash(path),
    problem:
      wrapping && !unwrapped
        ? 'It is damaged: what its pieces hold and the frames in them do not fit each other. Copy it again from its source, or rewrap it to MOV or MP4.'
        : await findProblem(path, input, stream, packets, first, missingFrames),
  };
}

/** When the first picture is shown, in ticks; where the container does not say, when it is decoded. 0 where it says neither. */
function firstTime({ slot, pts, dts }: PacketTable): number {
  const first = slot.indexOf(0);
  return [pts[first], dts[first]].find(Number.isFinite) ?? 0;
}

/** How far a stated rate may lie from what the time stamps give: their mean carries the rounding of a container's ticks. */
const rateTolerance = 0.02;

/**
 * The rate that the container states, unless its own time stamps speak against it and for
 * another that it states too: of raw DV the mean rate comes out as the clock's.
 */
function rateOf(stream: Stream, { pts }: PacketTable): Rational {
  const stated = [stream.avgFrameRate, stream.rFrameRate, stream.codecpar.frameRate]
    .filter(({ num, den }) => num > 0 && den > 0)
    .map(({ num, den }) => rational(num, den));
  const times = pts.filter(Number.isFinite);
  const span = times.length > 1 ? greatest(times) - least(times) : 0;
  const measured =
    span > 0 ? ((times.length - 1) * stream.timeBase.den) / (span * stream.timeBase.num) : null;
  const away = (rate: Rational) => (measured === null ? 0 : Math.abs(toNumber(rate) / measured - 1));
  const [first = rational(25)] = stated;
  return away(first) <= rateTolerance ? first : (stated.find((rate) => away(rate) <= rateTolerance) ?? first);
}

const mostReorder = 4;

/** Frames that the container promises and that are not in the file. What an edit list leaves out is not missing. */
async function countMissing(
  path: string,
  stream: Stream,
  packets: PacketTable,
  rate: Rational,
  layout: IsoLayout,
  brokeOff: boolean,
): Promise<number> {
  const handle = await openInPlace(path);
  const { size } = await handle.stat().finally(() => handle.close());
  const beyond = packets.offset.filter((offset, i) => offset + (packets.size[i] ?? 0) > size).length;
  // One edit that skips a few frames' time makes up for frames shown out of coding order and leaves none out.
  const frameTicks = stream.timeBase.den / (stream.timeBase.num * toNumber(rate));
  const edited =
    layout.edits.length > 1 || layout.edits.some(({ mediaTime }) => mediaTime > mostReorder * frameTicks);
  return edited && !brokeOff ? beyond : Math.max(beyond, Number(stream.nbFrames) - packets.length, 0);
}

async function findProblem(
  path: string,
  input: FormatContext,
  stream: Stream,
  packets: PacketTable,
  first: FirstFrame,
  missingFrames: number,
): Promise<string | null> {
  const undecodable = undecodableBecause(stream);
  if (undecodable !== null) return undecodable;
  if (missingFrames > 0)
    return `Cut short: the last ${missingFrames} frames lie beyond the end of the file. Copy it again from its source.`;
  if (first.problem !== null) return first.problem;
  if (packets.offset.some((offset) => offset < 0))
    return 'The container does not say where its packets lie, so they cannot be read by byte range.';
  if (packets.inside) return null;
  const shift = await packetShift(path, input, stream);
  if (shift === null)
    return 'The container splits its packets, so they cannot be read by byte range. Rewrap it to MOV or MP4 to measure it.';
  packets.offset.forEach((offset, row) => {
    packets.offset[row] = offset + shift;
  });
  return null;
}

/** Bytes that a container may put in front of a packet's data: keys and lengths. */
const mostShift = 64;
const comparedPackets = 4;
const comparedBytes = 48;

/**
 * How far behind the place that the container tells the data of a packet begins,
 * found by comparing a few with the file: MXF tells where a packet's key lies.
 * Null when packets do not lie in one piece, as where headers are interleaved with them.
 */
async function packetShift(path: string, input: FormatContext, stream: Stream): Promise<number | null> {
  const handle = await openInPlace(path);
  const packet = new Packet();
  packet.alloc();
  try {
    await input.seekFrame(stream.index, 0n, AVSEEK_FLAG_BACKWARD);
    let shift: number | null = null;
    for (let compared = 0; compared < comparedPackets && (await input.readFrame(packet)) >= 0;) {
      if (packet.streamIndex === stream.index && packet.data) {
        const bytes = Buffer.alloc(packet.size + mostShift);
        await handle.read(bytes, 0, bytes.length, Number(packet.pos));
        const at: number =
          shift ??
          bytes.subarray(0, mostShift + comparedBytes).indexOf(packet.data.subarray(0, comparedBytes));
        if (at < 0 || !bytes.subarray(at, at + packet.size).equals(packet.data)) return null;
        shift = at;
        compared++;
      }
      packet.unref();
    }
    return shift ?? 0;
  } finally {
    packet.free();
    await handle.close();
  }
}
