import {
  AVERROR_EAGAIN,
  AVMEDIA_TYPE_AUDIO,
  AVMEDIA_TYPE_VIDEO,
  type AVMediaType,
  FF_THREAD_FRAME,
  FF_THREAD_SLICE,
  type AVThreadType,
} from 'node-av/constants';
import {
  Codec,
  CodecContext,
  Dictionary,
  FormatContext,
  Frame,
  InputFormat,
  Packet,
  type Stream,
} from 'node-av/lib';
import type { FrameNotes } from '@/core/rendition/frameCheck';
import type { OutputFound } from '@/core/tasks/outputProof';
import type { Rational } from '@/core/time/rational';
import { EngineError } from '../errors';
import { isConcealed } from '../codec/faultLog';
import { FrameNoter } from '../rendition/notes';

/** What an output holds, with what its pictures show. */
export interface DecodedOutput {
  readonly found: OutputFound;
  readonly notes: FrameNotes;
}

export interface DecodeOutputOptions {
  readonly rate: Rational;
  /** 0: one per core. */
  readonly threads: number;
  readonly isStopped: () => boolean;
  readonly onFrames: (frames: number) => void;
  /** Takes each frame as well; it stays the caller's. */
  readonly onFrame?: (frame: Frame) => Promise<void>;
}

/**
 * Decodes an output whole, its sound too, and notes what every picture shows. It is read through the system's cache: what is to be
 * proved are the bytes that were written, not the volume.
 * @returns null where it was stopped
 */
export async function decodeOutput(
  path: string,
  options: DecodeOutputOptions,
): Promise<DecodedOutput | null> {
  const input = await openOutput(path, options.rate);
  const video = await openStream(input, AVMEDIA_TYPE_VIDEO, options.threads);
  const sound = await openStream(input, AVMEDIA_TYPE_AUDIO, 1);
  if (!video) throw new EngineError('output-holds-nothing');
  const noter = new FrameNoter();
  const notes = { codes: [] as number[], signatures: [] as Uint8Array[] };
  let [damaged, samples] = [0, 0];
  let [first, last] = [Infinity, -Infinity];
  const frame = new Frame();
  frame.alloc();
  const takePictures = async () => {
    while ((await video.decoder.receiveFrame(frame)) >= 0) {
      if (isConcealed(frame)) damaged++;
      const { code, signature } = await noter.note(frame);
      notes.codes.push(code);
      notes.signatures.push(signature);
      await options.onFrame?.(frame);
      frame.unref();
      options.onFrames(notes.codes.length);
    }
  };
  const takeSound = async () => {
    while (((await sound?.decoder.receiveFrame(frame)) ?? -1) >= 0) {
      samples += frame.nbSamples;
      frame.unref();
    }
  };
  const packet = new Packet();
  packet.alloc();
  try {
    while (!options.isStopped() && (await input.readFrame(packet)) >= 0) {
      if (packet.streamIndex === video.stream.index) {
        first = Math.min(first, Number(packet.pts));
        last = Math.max(last, Number(packet.pts + packet.duration));
        let code = await video.decoder.sendPacket(packet);
        for (; code === AVERROR_EAGAIN; code = await video.decoder.sendPacket(packet)) await takePictures();
        if (code < 0) damaged++;
        await takePictures();
      } else if (packet.streamIndex === sound?.stream.index) {
        await sound.decoder.sendPacket(packet);
        await takeSound();
      }
      packet.unref();
    }
    if (options.isStopped()) return null;
    await video.decoder.sendPacket(null);
    await takePictures();
    await sound?.decoder.sendPacket(null);
    await takeSound();
    const { num, den } = video.stream.timeBase;
    const found: OutputFound = {
      frames: notes.codes.length,
      seconds: path.includes('%') || last < first ? null : ((last - first) * num) / den,
      soundSeconds: sound ? samples / sound.decoder.sampleRate : null,
      damaged,
    };
    return { found, notes };
  } finally {
    noter.close();
    packet.free();
    frame.free();
    video.decoder.freeContext();
    sound?.decoder.freeContext();
    await input.closeInput();
  }
}

async function openOutput(path: string, { num, den }: Rational): Promise<FormatContext> {
  const input = new FormatContext();
  const isSequence = path.includes('%');
  const code = isSequence
    ? await input.openInput(
        path,
        InputFormat.findInputFormat('image2'),
        Dictionary.fromObject({ framerate: `${num}/${den}` }),
      )
    : await input.openInput(path);
  if (code < 0) throw new EngineError('output-not-opened', { code });
  await input.findStreamInfo();
  return input;
}

async function openStream(
  input: FormatContext,
  kind: AVMediaType,
  threads: number,
): Promise<{ stream: Stream; decoder: CodecContext } | null> {
  const stream = input.streams[input.findBestStream(kind)];
  const codec = stream && Codec.findDecoder(stream.codecpar.codecId);
  if (!stream || !codec) return null;
  const decoder = new CodecContext();
  decoder.allocContext3(codec);
  decoder.parametersToContext(stream.codecpar);
  decoder.pktTimebase = stream.timeBase;
  decoder.threadCount = threads;
  decoder.threadType = (FF_THREAD_FRAME | FF_THREAD_SLICE) as AVThreadType;
  return (await decoder.open2(codec)) < 0 ? null : { stream, decoder };
}
