import { AVDISCARD_ALL, AVMEDIA_TYPE_AUDIO, AV_PIX_FMT_GRAY8, AV_PIX_FMT_YUVJ420P } from 'node-av/constants';
import { avGetSampleFmtName, Codec, CodecContext, FormatContext, Frame, Packet } from 'node-av/lib';
import { scaledPicture } from '../codec/scaledPicture';
import { fingerprintPlaces, hashBytes, hashRaster, pictureHash } from '@/core/media/fingerprint';
import { toNumber } from '@/core/time/rational';
import { monotonicUs } from '../clock';
import { MediaFile } from '../media/container';
import { FrameAccess } from '../codec/frameAccess';
import type { ClipSource } from '../media/plainReader';
import { hasFiles } from '../media/joinedFiles';
import { encodeJpeg, jpegFrame } from '../media/jpeg';

/** Thumbnails side by side, and what a player shows of the sound. Times tell what making them cost. */
export interface Preview {
  readonly strip: Uint8Array;
  readonly tiles: number;
  readonly tileWidth: number;
  readonly tileHeight: number;
  /** One hash for each place that gave a picture; empty when any did not. */
  readonly fingerprint: Uint8Array;
  readonly stripMs: number;
  /** Peaks of the first audio track over the duration, 0 to 255; null without audio. */
  readonly peaks: Uint8Array | null;
  readonly audioMs: number;
}

const tileWidth = 160;
const peakBins = 800;

/** Makes a clip's thumbnails, fingerprint and audio peaks. @param pixelAspect shape of its pixels */
export async function makePreview(
  source: ClipSource,
  pixelAspect: number,
  onProgress: () => void = () => undefined,
): Promise<Preview> {
  const begun = monotonicUs();
  const reader = await FrameAccess.open(source);
  const pictures = await makeStrip(source, reader, pixelAspect, onProgress);
  const drawn = monotonicUs();
  // A sequence of pictures has no sound; that of a take lies in several files.
  const file = hasFiles(source.setup) ? null : await MediaFile.open(source.path);
  await file?.input.findStreamInfo();
  const peaks = file && (await audioPeaks(file.input, onProgress).finally(() => file.close()));
  return { ...pictures, stripMs: (drawn - begun) / 1000, peaks, audioMs: (monotonicUs() - drawn) / 1000 };
}

/** A clip's thumbnails side by side as JPEG, with their hashes. @param reader of its frames; closed at the end */
export async function makeStrip(
  source: Pick<ClipSource, 'setup' | 'packets'>,
  reader: FrameAccess,
  pixelAspect: number,
  onProgress: () => void,
) {
  const { width, height } = source.setup;
  const tileHeight = Math.max(2, Math.round((tileWidth * height) / (width * pixelAspect) / 2) * 2);
  const tiles = fingerprintPlaces.length;
  const strip = jpegFrame(tileWidth * tiles, tileHeight);
  fillBlack(strip);
  const hashes: Uint8Array[] = [];
  try {
    for (const [index, place] of fingerprintPlaces.entries()) {
      const frame = await reader.frame(Math.floor(place * source.packets.length));
      onProgress();
      if (!frame) continue;
      hashes.push(pictureHash(await smallGrey(frame)));
      await drawTile(strip, frame, index * tileWidth, tileHeight);
      frame.free();
    }
    const complete = hashes.length === tiles;
    const fingerprint = new Uint8Array(complete ? tiles * hashBytes : 0);
    if (complete) hashes.forEach((hash, index) => fingerprint.set(hash, index * hashBytes));
    return { strip: await encodeJpeg(strip), tiles, tileWidth, tileHeight, fingerprint };
  } finally {
    strip.free();
    await reader.close();
  }
}

function fillBlack(frame: Frame): void {
  frame.data?.forEach((plane, index) => plane.fill(index === 0 ? 16 : 128));
}

/** Luma of a frame at the raster hashes are made from, line by line. */
async function smallGrey(frame: Frame): Promise<Uint8Array> {
  return greyAt(frame, hashRaster.width, hashRaster.height);
}

/** Luma of a frame scaled to `width` x `height`, line by line, 0 to 255. */
export async function greyAt(frame: Frame, width: number, height: number): Promise<Uint8Array> {
  const small = await scaledPicture(frame, width, height, AV_PIX_FMT_GRAY8);
  const luma = new Uint8Array(width * height);
  const [plane] = small.data ?? [];
  const stride = small.linesize[0] ?? width;
  for (let line = 0; line < height; line++)
    plane?.copy(luma, line * width, line * stride, line * stride + width);
  small.free();
  return luma;
}

async function drawTile(strip: Frame, frame: Frame, left: number, height: number): Promise<void> {
  const tile = await scaledPicture(frame, tileWidth, height, AV_PIX_FMT_YUVJ420P);
  const planes = strip.data ?? [];
  // Asked once: the binding makes a list of its own for every question.
  const [tileStrides, stripStrides] = [tile.linesize, strip.linesize];
  (tile.data ?? []).slice(0, 3).forEach((from, index) => {
    const shift = index === 0 ? 0 : 1;
    const [lines, bytes] = [height >> shift, tileWidth >> shift];
    const [tileStride, stripStride] = [tileStrides[index] ?? bytes, stripStrides[index] ?? 0];
    const to = planes[index] ?? Buffer.alloc(0);
    for (let line = 0; line < lines; line++)
      from.copy(to, line * stripStride + (left >> shift), line * tileStride, line * tileStride + bytes);
  });
  tile.free();
}

/** A container whose streams are known; null where it cannot be read. @param open as the codec library opens it, by its code */
export async function openedInput(
  open: (container: FormatContext) => Promise<number>,
): Promise<FormatContext | null> {
  const container = new FormatContext();
  if ((await open(container)) < 0) return null;
  await container.findStreamInfo();
  return container;
}

/**
 * Peaks of the first audio track; null when there is none or it cannot be decoded. Pictures are skipped without being read where
 * the container allows it.
 */
export async function audioPeaks(input: FormatContext, onProgress: () => void): Promise<Uint8Array | null> {
  const context = new CodecContext();
  const packet = new Packet();
  packet.alloc();
  const frame = new Frame();
  frame.alloc();
  try {
    const stream = input.streams[input.findBestStream(AVMEDIA_TYPE_AUDIO)];
    const codec = stream && Codec.findDecoder(stream.codecpar.codecId);
    if (!stream || !codec) return null;
    for (const other of input.streams) if (other.index !== stream.index) other.discard = AVDISCARD_ALL;
    context.allocContext3(codec);
    context.parametersToContext(stream.codecpar);
    if ((await context.open2(codec)) < 0) return null;
    const seconds =
      stream.duration > 0n
        ? Number(stream.duration) * toNumber(stream.timeBase)
        : Number(input.duration) / 1e6;
    const peaks = new PeakBins(Math.max(1, seconds * stream.codecpar.sampleRate));
    for (let count = 1; ; count++) {
      const code = input.readFrameSync(packet);
      if (code >= 0 && packet.streamIndex !== stream.index) {
        packet.unref();
        continue;
      }
      context.sendPacketSync(code < 0 ? null : packet);
      packet.unref();
      for (let got = context.receiveFrameSync(frame); got >= 0; got = context.receiveFrameSync(frame)) {
        peaks.add(frame);
        frame.unref();
      }
      if (code < 0) return peaks.bins;
      if (count % 500 === 0) {
        onProgress();
        await new Promise(setImmediate);
      }
    }
  } finally {
    frame.free();
    packet.free();
    context.freeContext();
  }
}

/** Collects the loudest sample of each span of time, over all channels. */
class PeakBins {
  readonly bins = new Uint8Array(peakBins);
  private at = 0;

  constructor(private readonly samples: number) {}

  add(frame: Frame): void {
    const name = avGetSampleFmtName(frame.format as Parameters<typeof avGetSampleFmtName>[0]) ?? '';
    const planar = name.endsWith('p');
    const channels = planar ? 1 : frame.channels;
    for (const plane of (frame.data ?? []).slice(0, planar ? frame.channels : 1))
      this.addPlane(plane, name, frame.nbSamples * channels, channels);
    this.at += frame.nbSamples;
  }

  private addPlane(plane: Buffer, name: string, values: number, channels: number): void {
    const read = sampleReader(plane, name);
    for (let i = 0; i < values; i++) {
      const bin = Math.min(peakBins - 1, Math.floor(((this.at + i / channels) / this.samples) * peakBins));
      const level = Math.min(255, Math.round(Math.abs(read(i)) * 255));
      if (level > (this.bins[bin] ?? 0)) this.bins[bin] = level;
    }
  }
}

/** Reads a sample of a plane as -1 to 1. */
function sampleReader(plane: Buffer, name: string): (index: number) => number {
  if (name.startsWith('s16')) return (i) => plane.readInt16LE(i * 2) / 32_768;
  if (name.startsWith('s32')) return (i) => plane.readInt32LE(i * 4) / 2_147_483_648;
  if (name.startsWith('flt')) return (i) => plane.readFloatLE(i * 4);
  if (name.startsWith('dbl')) return (i) => plane.readDoubleLE(i * 8);
  if (name.startsWith('u8')) return (i) => ((plane[i] ?? 128) - 128) / 128;
  return () => 0;
}
