import { mkdir } from 'node:fs/promises';
import { dirname } from 'node:path';
import {
  AVERROR_EAGAIN,
  AVERROR_EOF,
  AVFMT_GLOBALHEADER,
  AVFMT_NOFILE,
  AV_CODEC_FLAG_CLOSED_GOP,
  AV_CODEC_FLAG_GLOBAL_HEADER,
  AV_CODEC_FLAG_INTERLACED_DCT,
  AV_CODEC_FLAG_INTERLACED_ME,
  AV_FRAME_FLAG_INTERLACED,
  AV_FRAME_FLAG_TOP_FIELD_FIRST,
  AV_PICTURE_TYPE_NONE,
  AV_PIX_FMT_GRAY8,
  AV_PIX_FMT_RGB24,
  AV_PIX_FMT_RGB48LE,
  AV_PKT_DATA_DISPLAYMATRIX,
  AV_SAMPLE_FMT_FLTP,
  AV_SAMPLE_FMT_S16,
  SWS_BILINEAR,
  type AVColorPrimaries,
  type AVColorSpace,
  type AVColorTransferCharacteristic,
  type FFEncoderCodec,
} from 'node-av/constants';
import {
  avChannelLayoutDefault,
  avGetPixFmtFromName,
  Codec,
  CodecContext,
  Dictionary,
  FormatContext,
  Frame,
  Packet,
  Rational,
  SoftwareScaleContext,
  type Stream,
} from 'node-av/lib';
import { encodeFrameCode, frameCodeLayout } from '@/core/media/frameCode';

/** A small generated clip for tests: moving stripes with the frame code in the picture. */
export interface TestMedia {
  readonly encoder: string;
  readonly pixelFormat: string;
  readonly width?: number;
  readonly height?: number;
  readonly rate?: readonly [number, number];
  readonly frames?: number;
  readonly options?: Readonly<Record<string, string>>;
  readonly gop?: number;
  readonly bFrames?: number;
  readonly timecode?: string;
  readonly interlaced?: 'top' | 'bottom';
  /** Degrees clockwise that a player shall turn it. */
  readonly rotation?: 90 | 180 | 270;
  /** A tone in the first half of every second; stored as it is, or by an encoder. */
  readonly audio?: boolean | 'aac' | 'ac3' | 'mp2' | 'flac';
  /** Presentation time of a frame in ticks of 1/1000 s, for a variable rate. */
  readonly ptsMs?: (index: number) => number;
  readonly colour?: { readonly primaries: number; readonly transfer: number; readonly matrix: number };
  readonly muxOptions?: Readonly<Record<string, string>>;
  readonly closedGop?: boolean;
  readonly pixelAspect?: readonly [number, number];
  /** Frames show no number. */
  readonly uncoded?: boolean;
  /** Its own pictures, in place of stripes: red, green and blue of a place, 0 to 255. They show no number. */
  readonly rgb?: (x: number, y: number, index: number) => readonly [number, number, number];
  /** The same of 16 bits, 0 to 65 535. */
  readonly rgb16?: (x: number, y: number, index: number) => readonly [number, number, number];
}

/** What cameras write that is not plain: 10 bits, 4:2:2, an exact rate, frames that refer both ways, sound. */
export const richMedia: TestMedia = {
  encoder: 'libx264',
  pixelFormat: 'yuv422p10le',
  width: 256,
  height: 144,
  rate: [30_000, 1001],
  frames: 40,
  bFrames: 2,
  options: { preset: 'ultrafast' },
  audio: true,
};

function must(code: number, step: string): void {
  if (code < 0) throw new Error(`${step} failed with code ${code}`);
}

/** Writes a generated clip; the file's ending chooses the container. "%04d" in its name stands for a frame's number: a file for each frame. */
export async function writeTestMedia(path: string, media: TestMedia): Promise<void> {
  await mkdir(dirname(path), { recursive: true });
  const { width = 128, height = 96, rate = [25, 1], frames = 24 } = media;
  const output = new FormatContext();
  must(output.allocOutputContext2(null, null, path), 'choosing the container');
  const encoder = await openEncoder(media, width, height, rate, output);
  const video = output.newStream(null);
  video.codecpar.fromContext(encoder);
  video.timeBase = encoder.timeBase;
  video.avgFrameRate = encoder.framerate;
  if (media.rotation)
    video.codecpar.addCodedSideData(AV_PKT_DATA_DISPLAYMATRIX, displayMatrix(media.rotation));
  if (media.timecode) video.metadata = Dictionary.fromObject({ timecode: media.timecode });
  const sound = !media.audio
    ? null
    : media.audio === true
      ? addSound(output)
      : addCodedSound(output, media.audio);
  // Of pictures one by one the muxer opens each file itself.
  const opens = !output.oformat?.hasFlags(AVFMT_NOFILE);
  if (opens) must(await output.openOutput(), 'opening the file');
  must(await output.writeHeader(Dictionary.fromObject({ ...media.muxOptions })), 'writing the header');
  const scaler = new SoftwareScaleContext();
  scaler.getContext(width, height, paintedAs(media), width, height, encoder.pixelFormat, SWS_BILINEAR);
  for (let index = 0; index < frames; index++) {
    const frame = await paint(media, index, width, height, encoder, scaler);
    must(await encoder.sendFrame(frame), 'encoding');
    frame.free();
    await drain(encoder, video, output, media.ptsMs === undefined);
    if (sound) await sound.write(index, rate);
  }
  must(await encoder.sendFrame(null), 'finishing');
  await drain(encoder, video, output, media.ptsMs === undefined);
  await sound?.end();
  must(await output.writeTrailer(), 'writing the trailer');
  if (opens) await output.closeOutput();
  scaler.freeContext();
  encoder.freeContext();
  output.freeContext();
}

async function openEncoder(
  media: TestMedia,
  width: number,
  height: number,
  [num, den]: readonly [number, number],
  output: FormatContext,
): Promise<CodecContext> {
  const codec = Codec.findEncoderByName(media.encoder as FFEncoderCodec);
  if (!codec) throw new Error(`The codec library has no encoder ${media.encoder}`);
  const context = new CodecContext();
  context.allocContext3(codec);
  context.width = width;
  context.height = height;
  context.pixelFormat = avGetPixFmtFromName(media.pixelFormat);
  context.timeBase = media.ptsMs ? new Rational(1, 1000) : new Rational(den, num);
  context.framerate = new Rational(num, den);
  context.threadCount = 1;
  context.gopSize = media.gop ?? 12;
  context.maxBFrames = media.bFrames ?? 0;
  if (media.pixelAspect) context.sampleAspectRatio = new Rational(...media.pixelAspect);
  if (media.colour) {
    context.colorPrimaries = media.colour.primaries as AVColorPrimaries;
    context.colorTrc = media.colour.transfer as AVColorTransferCharacteristic;
    context.colorSpace = media.colour.matrix as AVColorSpace;
  }
  if (media.interlaced) context.setFlags(AV_CODEC_FLAG_INTERLACED_DCT, AV_CODEC_FLAG_INTERLACED_ME);
  if (media.closedGop) context.setFlags(AV_CODEC_FLAG_CLOSED_GOP);
  if (output.oformat?.hasFlags(AVFMT_GLOBALHEADER)) context.setFlags(AV_CODEC_FLAG_GLOBAL_HEADER);
  must(await context.open2(codec, Dictionary.fromObject({ ...media.options })), `opening ${media.encoder}`);
  return context;
}

const paintedAs = ({ rgb, rgb16 }: TestMedia) =>
  rgb16 ? AV_PIX_FMT_RGB48LE : rgb ? AV_PIX_FMT_RGB24 : AV_PIX_FMT_GRAY8;

async function paint(
  media: TestMedia,
  index: number,
  width: number,
  height: number,
  encoder: CodecContext,
  scaler: SoftwareScaleContext,
): Promise<Frame> {
  const grey = newFrame(width, height, paintedAs(media));
  const [plane] = grey.data!;
  const stride = grey.linesize[0]!;
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++)
      if (media.rgb) plane!.set(media.rgb(x, y, index), y * stride + x * 3);
      else if (media.rgb16)
        media
          .rgb16(x, y, index)
          .forEach((value, channel) => plane!.writeUInt16LE(value, y * stride + x * 6 + 2 * channel));
      else plane![y * stride + x] = 60 + ((x * 2 + y + index * 9) % 140);
  if (!media.uncoded && !media.rgb && !media.rgb16)
    drawCode(index, width, height, (x, y, value) => {
      plane![y * stride + x] = value;
    });
  const frame = newFrame(width, height, encoder.pixelFormat);
  must(await scaler.scaleFrame(frame, grey), 'converting');
  grey.free();
  frame.pts = BigInt(media.ptsMs ? media.ptsMs(index) : index);
  frame.pictType = AV_PICTURE_TYPE_NONE;
  if (media.interlaced)
    frame.setFlags(
      AV_FRAME_FLAG_INTERLACED,
      ...(media.interlaced === 'top' ? [AV_FRAME_FLAG_TOP_FIELD_FIRST] : []),
    );
  return frame;
}

function drawCode(
  index: number,
  width: number,
  height: number,
  put: (x: number, y: number, value: number) => void,
): void {
  const { left, top, block } = frameCodeLayout(width, height);
  encodeFrameCode(index).forEach((bit, at) => {
    for (let y = Math.floor(top); y < top + block; y++)
      for (let x = Math.floor(left + at * block); x < left + (at + 1) * block; x++) put(x, y, bit ? 235 : 16);
  });
}

function newFrame(width: number, height: number, format: Frame['format']): Frame {
  const frame = new Frame();
  frame.alloc();
  frame.width = width;
  frame.height = height;
  frame.format = format;
  must(frame.getBuffer(), 'getting memory');
  return frame;
}

async function drain(
  encoder: CodecContext,
  stream: Stream,
  output: FormatContext,
  constant: boolean,
): Promise<void> {
  const packet = new Packet();
  packet.alloc();
  for (;;) {
    const code = await encoder.receivePacket(packet);
    if (code === AVERROR_EAGAIN || code === AVERROR_EOF) break;
    must(code, 'encoding');
    if (constant) packet.duration = 1n;
    packet.rescaleTs(encoder.timeBase, stream.timeBase);
    packet.streamIndex = stream.index;
    must(await output.interleavedWriteFrame(packet), 'writing');
  }
  packet.free();
}

/** Nine 16.16 numbers that turn a picture (ISO/IEC 14496-12, 6.2.2). */
function displayMatrix(degrees: number): Buffer {
  const turn = (degrees * Math.PI) / 180;
  const [cos, sin] = [Math.round(Math.cos(turn) * 65_536), Math.round(Math.sin(turn) * 65_536)];
  const bytes = Buffer.alloc(36);
  [cos, sin, 0, -sin, cos, 0, 0, 0, 2 ** 30].forEach((value, at) => bytes.writeInt32LE(value, at * 4));
  return bytes;
}

const samplesPerSecond = 48_000;

/** A stereo track: a tone in the first half of every second. */
function addSound(output: FormatContext) {
  const codec = Codec.findEncoderByName('pcm_s16le' as FFEncoderCodec)!;
  const context = new CodecContext();
  context.allocContext3(codec);
  context.sampleRate = samplesPerSecond;
  context.sampleFormat = AV_SAMPLE_FMT_S16;
  context.channelLayout = avChannelLayoutDefault(2);
  context.timeBase = new Rational(1, samplesPerSecond);
  must(context.open2Sync(codec), 'opening the sound encoder');
  const stream = output.newStream(null);
  stream.codecpar.fromContext(context);
  stream.timeBase = context.timeBase;
  return {
    async write(index: number, [num, den]: readonly [number, number]) {
      const first = Math.round((index * den * samplesPerSecond) / num);
      const samples = Math.round(((index + 1) * den * samplesPerSecond) / num) - first;
      const data = Buffer.alloc(samples * 4);
      for (let i = 0; i < samples; i++) {
        const level = Math.round(32_768 * toneAt(first + i));
        data.writeInt16LE(level, i * 4);
        data.writeInt16LE(level, i * 4 + 2);
      }
      const packet = new Packet();
      packet.alloc();
      packet.data = data;
      packet.pts = packet.dts = BigInt(first);
      packet.duration = BigInt(samples);
      packet.rescaleTs(context.timeBase, stream.timeBase);
      packet.streamIndex = stream.index;
      must(await output.interleavedWriteFrame(packet), 'writing sound');
      packet.free();
    },
    end: () => Promise.resolve(),
  };
}

/** The tone of test media at a sample, -1 to 1. */
export const toneAt = (sample: number): number =>
  sample >= 0 && sample % samplesPerSecond < samplesPerSecond / 2
    ? (16_000 / 32_768) * Math.sin((sample / samplesPerSecond) * 440 * 2 * Math.PI)
    : 0;

/** The same tone by an encoder of the codec library, in its own blocks. */
function addCodedSound(output: FormatContext, name: string) {
  const codec = Codec.findEncoderByName(name as FFEncoderCodec)!;
  const context = new CodecContext();
  context.allocContext3(codec);
  context.sampleRate = samplesPerSecond;
  const [format = AV_SAMPLE_FMT_S16] = codec.sampleFormats ?? [];
  context.sampleFormat = format;
  context.channelLayout = avChannelLayoutDefault(2);
  context.timeBase = new Rational(1, samplesPerSecond);
  context.bitRate = 192_000n;
  if (output.oformat?.hasFlags(AVFMT_GLOBALHEADER)) context.setFlags(AV_CODEC_FLAG_GLOBAL_HEADER);
  must(context.open2Sync(codec), 'opening the sound encoder');
  const stream = output.newStream(null);
  stream.codecpar.fromContext(context);
  stream.timeBase = context.timeBase;
  const block = context.frameSize || 1_024;
  const isFloat = format === AV_SAMPLE_FMT_FLTP;
  let written = 0;
  const encode = async () => {
    const bytes = Buffer.alloc(block * 2 * (isFloat ? 4 : 2));
    for (let i = 0; i < block; i++)
      for (const channel of [0, 1])
        if (isFloat) bytes.writeFloatLE(toneAt(written + i), (channel * block + i) * 4);
        else bytes.writeInt16LE(Math.round(32_768 * toneAt(written + i)), (i * 2 + channel) * 2);
    const frame = Frame.fromAudioBuffer(bytes, {
      nbSamples: block,
      format,
      sampleRate: samplesPerSecond,
      channelLayout: context.channelLayout,
      timeBase: { num: 1, den: samplesPerSecond },
    });
    frame.pts = BigInt(written);
    written += block;
    must(await context.sendFrame(frame), 'encoding sound');
    frame.free();
    await drain(context, stream, output, false);
  };
  return {
    async write(index: number, [num, den]: readonly [number, number]) {
      while (written + block <= ((index + 1) * den * samplesPerSecond) / num) await encode();
    },
    async end() {
      must(await context.sendFrame(null), 'finishing sound');
      await drain(context, stream, output, false);
      context.freeContext();
    },
  };
}
