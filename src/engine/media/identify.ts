import {
  AVERROR_EOF,
  AVMEDIA_TYPE_AUDIO,
  AV_FRAME_FLAG_INTERLACED,
  AV_FRAME_FLAG_TOP_FIELD_FIRST,
  AV_PKT_DATA_DISPLAYMATRIX,
  AV_PIX_FMT_NONE,
  type AVPixelFormat,
} from 'node-av/constants';
import {
  avGetBytesPerSample,
  avGetCodecName,
  avGetPixFmtName,
  Codec,
  CodecContext,
  Frame,
  type FormatContext,
  type Packet,
  type Stream,
} from 'node-av/lib';
import { codecLabel, hasAlpha } from '@/core/media/format';
import {
  colourTags,
  levelLabel,
  noDecoder,
  rotationOf,
  type AudioTrack,
  type ClipIdentity,
  type Scan,
} from '@/core/media/identity';
import { boxesIn, editList, readBox, type Edit } from '@/core/media/isoBoxes';
import type { PacketTable } from '@/core/media/packetTable';
import { isDropFrameText } from '@/core/time/timecode';
import { rational, type Rational } from '@/core/time/rational';
import { timingOf } from '@/core/media/timing';
import { openInPlace } from '../inPlace';
import { decodeFailure } from '../decodeFailure';

/** Packets given to the decoder before it is taken to have nothing to show. */
const mostPackets = 64;

/** Decodes the first frame of a stream while its packets pass by: some facts stand only in a decoded frame. */
export class FirstFrame {
  private context: CodecContext | null = null;
  private fed = 0;
  scan: Scan | null = null;
  pixelFormat: AVPixelFormat | null = null;
  /** The rate that the codec's own header states; null where it states none. */
  rate: Rational | null = null;
  problem: string | null = null;

  private readonly decoderName: string;

  constructor(stream: Stream) {
    const codec = Codec.findDecoder(stream.codecpar.codecId);
    this.decoderName = codec?.name ?? 'unknown';
    if (!codec) {
      this.problem = noDecoder;
      return;
    }
    const context = new CodecContext();
    context.allocContext3(codec);
    context.parametersToContext(stream.codecpar);
    context.threadCount = 1;
    const code = context.open2Sync(codec);
    if (code < 0) {
      this.problem = decodeFailure('This clip', code, codec.name ?? 'unknown').message;
      context.freeContext();
    } else this.context = context;
  }

  get wantsMore(): boolean {
    return this.context !== null;
  }

  /** @param packet the stream's next packet; null when it has ended */
  feed(packet: Packet | null): void {
    if (!this.context) return;
    const code = this.context.sendPacketSync(packet);
    if (code < 0 && code !== AVERROR_EOF)
      this.problem = decodeFailure('This clip', code, this.decoderName).message;
    const frame = new Frame();
    frame.alloc();
    const received = this.context.receiveFrameSync(frame) >= 0;
    if (received) {
      const { num, den } = this.context.framerate;
      this.rate = num > 0 && den > 0 ? rational(num, den) : null;
      this.problem = null;
      this.pixelFormat = frame.format as AVPixelFormat;
      this.scan = frame.hasFlags(AV_FRAME_FLAG_INTERLACED)
        ? frame.hasFlags(AV_FRAME_FLAG_TOP_FIELD_FIRST)
          ? 'top field first'
          : 'bottom field first'
        : 'progressive';
    }
    frame.free();
    if (received || packet === null || ++this.fed >= mostPackets) this.close();
  }

  close(): void {
    if (this.context && this.pixelFormat === null)
      this.problem ??=
        'The decoder gave no picture. The file is damaged or of a kind this codec library does not know. Copy it again from its source.';
    this.context?.freeContext();
    this.context = null;
  }
}

/** The file's own structure, where it is an ISO base media file. */
export interface IsoLayout {
  readonly indexAtEnd: boolean | null;
  readonly edits: readonly Edit[];
}

const mostIndexBytes = 256 * 2 ** 20;

/** Where the index of a MOV or MP4 lies and what its edit list says. Other containers give nulls. */
export async function readIsoLayout(path: string): Promise<IsoLayout> {
  const handle = await openInPlace(path);
  try {
    const { size } = await handle.stat();
    const head = Buffer.alloc(16);
    let mediaSeen = false;
    for (let at = 0; at < size;) {
      const { bytesRead } = await handle.read(head, 0, 16, at);
      const box = readBox(head.subarray(0, bytesRead), 0, size - at);
      if (!box) break;
      if (box.type === 'mdat') mediaSeen = true;
      if (box.type === 'moov') {
        const moov = Buffer.alloc(Math.min(box.end, size - at, mostIndexBytes));
        await handle.read(moov, 0, moov.length, at);
        return {
          indexAtEnd: mediaSeen,
          edits: [...boxesIn(moov, 0, moov.length)].length > 0 ? editList(moov) : [],
        };
      }
      at += box.end;
    }
    return { indexAtEnd: null, edits: [] };
  } finally {
    await handle.close();
  }
}

/**
 * What an edit list does beyond showing the clip from its first frame on, in
 * words. One edit that begins at the first frame's own time is how frames shown out of
 * coding order are written, and says nothing.
 */
export function editsInWords(
  edits: readonly Edit[],
  packets: PacketTable,
  timeBase: Rational,
  framesCut: number,
): string | null {
  const shown = edits.filter(({ mediaTime }) => mediaTime >= 0);
  const parts: string[] = [];
  const empty = edits.find(({ mediaTime }) => mediaTime < 0);
  if (empty && empty.duration > 0) parts.push('begins with a gap');
  if (shown.length > 1) parts.push(`joins ${shown.length} pieces`);
  if (edits.some(({ rate }) => rate !== 1)) parts.push('changes speed');
  if (framesCut > 0) parts.push(`hides ${framesCut} coded frames`);
  return parts.length === 0 || packets.length === 0 || timeBase.num === 0
    ? null
    : `An edit list ${parts.join(', ')}.`;
}

interface Found {
  readonly input: FormatContext;
  readonly stream: Stream;
  readonly packets: PacketTable;
  readonly first: FirstFrame;
  readonly layout: IsoLayout;
  readonly framesCut: number;
  readonly missingFrames: number;
  readonly startTimecode: string | null;
}

/** Everything about a clip besides its format. */
export function identityOf({
  input,
  stream,
  packets,
  first,
  layout,
  framesCut,
  missingFrames,
  startTimecode,
}: Found): ClipIdentity {
  const { codecpar } = stream;
  const codecName = avGetCodecName(codecpar.codecId) ?? 'unknown';
  const timeBase = rational(stream.timeBase.num, stream.timeBase.den || 1);
  const pixelFormat = pixelFormatName(stream, first);
  const aspect = [stream.sampleAspectRatio, codecpar.sampleAspectRatio].find(
    ({ num, den }) => num > 0 && den > 0,
  );
  return {
    codecString: codecpar.getCodecString(),
    pixelFormat,
    level: levelLabel(codecName, codecpar.level),
    pixelAspect: aspect ? rational(aspect.num, aspect.den) : rational(1),
    scan: first.scan,
    timing: timingOf(packets, timeBase),
    dropFrame: startTimecode !== null && isDropFrameText(startTimecode),
    colour: colourTags(codecpar.colorPrimaries, codecpar.colorTrc, codecpar.colorSpace, codecpar.colorRange),
    rotation: rotationOf(codecpar.getCodedSideData(AV_PKT_DATA_DISPLAYMATRIX)),
    alpha: hasAlpha(pixelFormat),
    audio: input.streams.filter((other) => other.codecpar.codecType === AVMEDIA_TYPE_AUDIO).map(audioTrack),
    indexAtEnd: layout.indexAtEnd,
    edits: editsInWords(layout.edits, packets, timeBase, framesCut),
    missingFrames,
    decodeProblem: first.problem,
  };
}

/** The pixel format as decoded, or as the container says where nothing was decoded. */
export function pixelFormatName(stream: Stream, first: FirstFrame): string {
  const told = stream.codecpar.format as AVPixelFormat;
  return avGetPixFmtName(first.pixelFormat ?? told) ?? (told === AV_PIX_FMT_NONE ? 'unknown' : String(told));
}

export function audioTrack({ codecpar }: Stream): AudioTrack {
  const name = avGetCodecName(codecpar.codecId) ?? 'unknown';
  const stored = /^(pcm|flac|alac)/.test(name);
  const bits =
    codecpar.bitsPerRawSample ||
    codecpar.bitsPerCodedSample ||
    avGetBytesPerSample(codecpar.format as Parameters<typeof avGetBytesPerSample>[0]) * 8;
  const { nbChannels } = codecpar.channelLayout;
  const layouts: Record<number, string> = { 1: 'mono', 2: 'stereo', 6: '5.1', 8: '7.1' };
  return {
    codec: codecLabel(name),
    channels: nbChannels,
    layout: layouts[nbChannels] ?? null,
    samplesPerSecond: codecpar.sampleRate,
    bitDepth: stored && bits > 0 ? bits : null,
  };
}
