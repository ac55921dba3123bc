import { existsSync } from 'node:fs';
import { mkdir, rename, rm } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import {
  AVERROR_EAGAIN,
  AVERROR_EOF,
  AV_CODEC_FLAG_GLOBAL_HEADER,
  AVFMT_GLOBALHEADER,
  AV_LOG_ERROR,
  AV_PICTURE_TYPE_NONE,
  type FFEncoderCodec,
} from 'node-av/constants';
import {
  avGetPixFmtFromName,
  Codec,
  CodecContext,
  Dictionary,
  FormatContext,
  Frame,
  Log,
  Packet,
  Rational,
} from 'node-av/lib';
import { countingFor, formatTimecode, parseTimecode } from '@/core/time/timecode';
import type { DemoClip } from './clips';
import { SceneryPainter } from './picture';
import { DemoSound } from './sound';

/**
 * Draws and encodes one demo clip into `folder`, unless the file is there.
 * Written beside its place and renamed when whole, so a killed run leaves no half clip.
 * @param finish done to the file before it takes its place
 * @returns true when the clip was made now
 * @throws Error naming the clip when the encoder refuses it
 */
export async function encodeDemoClip(
  clip: DemoClip,
  folder: string,
  finish: (path: string) => Promise<void> = () => Promise.resolve(),
): Promise<boolean> {
  Log.setLevel(AV_LOG_ERROR);
  const path = join(folder, clip.file);
  if (existsSync(path)) return false;
  await mkdir(dirname(path), { recursive: true });
  const partial = path.replace(/(\.[^.]+)$/, '.partial$1');
  await rm(partial, { force: true });
  await writeClip(clip, partial);
  await finish(partial);
  await rename(partial, path);
  return true;
}

function check(code: number, step: string, clip: DemoClip): void {
  if (code < 0) throw new Error(`${clip.file}: ${step} failed with code ${code}`);
}

async function openEncoder(clip: DemoClip, globalHeader: boolean): Promise<CodecContext> {
  const codec = Codec.findEncoderByName(clip.encoder as FFEncoderCodec);
  if (!codec) throw new Error(`${clip.file}: the codec library has no encoder ${clip.encoder}`);
  const context = new CodecContext();
  context.allocContext3(codec);
  context.width = clip.picture.width;
  context.height = clip.picture.height;
  context.pixelFormat = avGetPixFmtFromName(clip.pixelFormat);
  context.timeBase = new Rational(clip.rate.den, clip.rate.num);
  context.framerate = new Rational(clip.rate.num, clip.rate.den);
  context.threadCount = 2;
  if (clip.keyInterval) context.gopSize = clip.keyInterval;
  context.maxBFrames = clip.bFrames;
  if (globalHeader) context.setFlags(AV_CODEC_FLAG_GLOBAL_HEADER);
  check(await context.open2(codec, Dictionary.fromObject(clip.encoderOptions)), 'opening the encoder', clip);
  return context;
}

/** A frame of its own with the painted planes copied in: an encoder may still read it while the next is painted. */
function newFrame(clip: DemoClip, encoder: CodecContext, painted: Buffer): Frame {
  const { width, height, bitDepth, chromaShiftX, chromaShiftY } = clip.picture;
  const frame = new Frame();
  frame.alloc();
  frame.width = width;
  frame.height = height;
  frame.format = encoder.pixelFormat;
  frame.timeBase = encoder.timeBase;
  check(frame.getBuffer(), 'getting memory for a frame', clip);
  let from = 0;
  (frame.data ?? []).slice(0, 3).forEach((plane, index) => {
    const rowBytes = (index === 0 ? width : width >> chromaShiftX) * (bitDepth === 8 ? 1 : 2);
    const rows = index === 0 ? height : height >> chromaShiftY;
    const stride = frame.linesize[index] ?? rowBytes;
    for (let row = 0; row < rows; row++, from += rowBytes)
      painted.copy(plane, row * stride, from, from + rowBytes);
  });
  return frame;
}

async function writeClip(clip: DemoClip, path: string): Promise<void> {
  const output = new FormatContext();
  check(output.allocOutputContext2(null, null, path), 'choosing the container', clip);
  const encoder = await openEncoder(clip, output.oformat?.hasFlags(AVFMT_GLOBALHEADER) ?? false);
  const stream = output.newStream(null);
  stream.codecpar.fromContext(encoder);
  stream.timeBase = encoder.timeBase;
  stream.avgFrameRate = encoder.framerate;
  if (clip.encoder === 'libx265') stream.codecpar.codecTag = 'hvc1';
  stream.metadata = Dictionary.fromObject({ timecode: clip.startTimecode });
  const sound = clip.sound ? await DemoSound.add(output, clip.sound, clip.seed) : null;
  check(await output.openOutput(), 'opening the file', clip);
  check(
    await output.writeHeader(Dictionary.fromObject({ movflags: '+faststart' })),
    'writing the header',
    clip,
  );

  const packet = new Packet();
  packet.alloc();
  const drain = async () => {
    for (;;) {
      const code = await encoder.receivePacket(packet);
      if (code === AVERROR_EAGAIN || code === AVERROR_EOF) return;
      check(code, 'encoding', clip);
      packet.duration = 1n;
      packet.rescaleTs(encoder.timeBase, stream.timeBase);
      packet.streamIndex = stream.index;
      check(await output.interleavedWriteFrame(packet), 'writing', clip);
    }
  };
  const painter = new SceneryPainter(clip.picture, clip.label, clip.seed, clip.texture, clip.spray);
  const counting = countingFor(clip.rate);
  const first = parseTimecode(clip.startTimecode, counting);
  for (let frameNumber = 0; frameNumber < clip.frames; frameNumber++) {
    const frame = newFrame(
      clip,
      encoder,
      painter.paint(frameNumber, formatTimecode(first + frameNumber, counting)),
    );
    frame.pts = BigInt(frameNumber);
    frame.pictType = AV_PICTURE_TYPE_NONE;
    check(await encoder.sendFrame(frame), 'encoding', clip);
    frame.free();
    await drain();
    await sound?.writeUntil(frameNumber + 1, clip.rate);
  }
  check(await encoder.sendFrame(null), 'finishing', clip);
  await drain();
  await sound?.finish();
  check(await output.writeTrailer(), 'writing the trailer', clip);
  await output.closeOutput();
  output.freeContext();
  encoder.freeContext();
  sound?.close();
}
