import { open, readdir, stat } from 'node:fs/promises';
import { basename, dirname, join } from 'node:path';
import {
  AVFMT_GLOBALHEADER,
  AV_CODEC_FLAG_GLOBAL_HEADER,
  AV_SAMPLE_FMT_FLTP,
  AV_SAMPLE_FMT_S32,
  type FFEncoderCodec,
} from 'node-av/constants';
import {
  avChannelLayoutDefault,
  Codec,
  CodecContext,
  Dictionary,
  FormatContext,
  Frame,
  Rational,
  type IRational,
  type Packet,
  type Stream,
} from 'node-av/lib';
import { exportCodecs, type ExportChoice } from '@/core/tasks/exportCodecs';
import { sampleAt, soundRate } from '@/core/tasks/soundPlan';
import { packetsOf, type PictureEncoder } from '../codec/pictureEncoder';
import type { VideoEncoderChoice } from '../codec/videoEncoder';
import { EngineError } from '../errors';
import { HeldFolder } from '../inPlace';
import { check } from '../errors';
import type { SoundMix } from './soundMix';

/** A piece of what is made, on its way into the file. */
export interface Piece {
  readonly packet: Packet;
  /** Null: sound. */
  readonly frame: number | null;
}

/** Pictures of a sequence are counted from one, with seven digits. */
const sequenceName = (ending: string) => `frame_%07d.${ending}`;

/** Path of an output in a folder; of a sequence the pattern of its pictures. */
export function outputPath(folder: string, { codec }: Pick<ExportChoice, 'codec'>): string {
  const { container, ending } = exportCodecs[codec];
  return join(folder, container === 'sequence' ? sequenceName(ending) : `output.${ending}`);
}

/** Files that an output consists of. */
async function filesOf(path: string): Promise<string[]> {
  if (!path.includes('%')) return [path];
  const folder = dirname(path);
  return (await readdir(folder))
    .filter((name) => name.startsWith('frame_'))
    .map((name) => join(folder, name));
}

export interface OutputOptions {
  readonly choice: ExportChoice;
  readonly path: string;
  readonly rate: IRational;
  readonly startTimecode: string | null;
  readonly sound: SoundMix | null;
  /** Opens what makes its pictures into packets. @param flags as the container wants them */
  readonly openEncoder: (flags: VideoEncoderChoice['flags']) => Promise<PictureEncoder>;
}

/** The file that is made: its encoders and its tracks. Frames come in order, and their sound goes along. */
export class OutputFile {
  private sent = 0;
  private soundSent = 0;
  private ended = false;

  private constructor(
    private readonly folder: HeldFolder,
    private readonly output: FormatContext,
    private readonly encoder: PictureEncoder,
    private readonly video: Stream,
    private readonly options: OutputOptions,
    private readonly sound: {
      readonly mix: SoundMix;
      readonly encoder: CodecContext;
      readonly track: Stream;
    } | null,
  ) {}

  static async open(options: OutputOptions): Promise<OutputFile> {
    const { choice, path } = options;
    const { container } = exportCodecs[choice.codec];
    const folder = await HeldFolder.open(dirname(path));
    const output = new FormatContext();
    const name = { mp4: 'mp4', mov: 'mov', mkv: 'matroska', sequence: 'image2' }[container];
    check(output.allocOutputContext2(null, name, folder.at(basename(path))), 'Choosing the container');
    const global = output.oformat?.hasFlags(AVFMT_GLOBALHEADER) ? [AV_CODEC_FLAG_GLOBAL_HEADER] : [];
    const encoder = await options.openEncoder(global);
    const video = output.newStream(null);
    encoder.describe(video);
    if (choice.codec === 'hevc') video.codecpar.codecTag = 'hvc1';
    if (options.startTimecode !== null && container === 'mov')
      video.metadata = Dictionary.fromObject({ timecode: options.startTimecode });
    const sound = options.sound && (await openSound(output, options.sound, choice.sound, global));
    if (container !== 'sequence') check(await output.openOutput(), 'Opening the file to write');
    check(await output.writeHeader(), 'Writing the header');
    return new OutputFile(folder, output, encoder, video, options, sound);
  }

  /** Hands a frame to the encoder. It stays the caller's. Its number is its time. */
  async send(frame: Frame): Promise<void> {
    this.sent++;
    await this.encoder.send(frame);
  }

  /** No frame will come any more. */
  async finish(): Promise<void> {
    this.ended = true;
    await this.encoder.finish();
  }

  /** What has come out by now: pictures, and sound as far as pictures were sent. A picture more may wait until the next is asked for. */
  async pieces(): Promise<Piece[]> {
    const pieces: Piece[] = [];
    // Mostly one comes out for one that went in: to ask for another each time costs a trip to another thread.
    const most = this.ended || this.sent % askAllEvery === 0 ? Infinity : 1;
    for (const packet of await this.encoder.received(most)) {
      const frame = Number(packet.pts);
      packet.duration = 1n;
      packet.rescaleTs(this.encoder.timeBase, this.video.timeBase);
      packet.streamIndex = this.video.index;
      pieces.push({ packet, frame });
    }
    if (this.sound) pieces.push(...(await this.soundUpTo(this.sound)));
    return pieces;
  }

  private async soundUpTo({ mix, encoder, track }: NonNullable<OutputFile['sound']>): Promise<Piece[]> {
    const due = sampleAt(this.sent, this.options.rate);
    const block = encoder.frameSize > 0 ? encoder.frameSize : 1_920;
    const send = async (samples: number) => {
      const frame = soundFrame(await mix.block(samples), samples, encoder);
      frame.pts = BigInt(this.soundSent);
      this.soundSent += samples;
      const code = await encoder.sendFrame(frame);
      frame.free();
      check(code, 'Encoding sound');
    };
    while (this.soundSent + block <= due) await send(block);
    if (this.ended && this.soundSent < due) await send(due - this.soundSent);
    if (this.ended) await encoder.sendFrame(null);
    return (await packetsOf(encoder, Infinity)).map((packet) => {
      packet.rescaleTs(encoder.timeBase, track.timeBase);
      packet.streamIndex = track.index;
      return { packet, frame: null };
    });
  }

  /** Writes a piece, which goes with it. */
  async write({ packet }: Piece): Promise<void> {
    const code = await this.output.interleavedWriteFrame(packet);
    packet.free();
    check(code, 'Writing');
  }

  /** Ends the file and waits until all of it is on the volume. Returns its size in bytes. */
  async close(): Promise<number> {
    check(await this.output.writeTrailer(), 'Writing the end of the file');
    await this.free();
    let bytes = 0;
    for (const path of await filesOf(this.options.path)) {
      const handle = await open(path, 'r');
      await handle.datasync();
      await handle.close();
      bytes += (await stat(path)).size;
    }
    return bytes;
  }

  /** Lets go of a file that is not whole. */
  async abandon(): Promise<void> {
    await this.free().catch(() => undefined);
  }

  private async free(): Promise<void> {
    if (!this.options.path.includes('%')) await this.output.closeOutput();
    this.encoder.free();
    this.sound?.encoder.freeContext();
    this.output.freeContext();
    await this.folder.close();
  }
}

/** Pictures after which an encoder is asked for all that it has. */
const askAllEvery = 8;

async function openSound(
  output: FormatContext,
  mix: SoundMix,
  as: ExportChoice['sound'],
  flags: VideoEncoderChoice['flags'],
) {
  const name = as === 'aac' ? 'aac' : 'pcm_s24le';
  const codec = Codec.findEncoderByName(name as FFEncoderCodec);
  if (!codec) throw new EngineError('no-sound-encoder', { name });
  const encoder = new CodecContext();
  encoder.allocContext3(codec);
  encoder.sampleRate = soundRate;
  encoder.sampleFormat = as === 'aac' ? AV_SAMPLE_FMT_FLTP : AV_SAMPLE_FMT_S32;
  encoder.channelLayout = avChannelLayoutDefault(2);
  encoder.timeBase = new Rational(1, soundRate);
  if (as === 'aac') encoder.bitRate = 256_000n;
  encoder.setFlags(...flags);
  check(await encoder.open2(codec), 'Opening the sound encoder');
  const track = output.newStream(null);
  track.codecpar.fromContext(encoder);
  track.timeBase = encoder.timeBase;
  return { mix, encoder, track };
}

/** Samples of both channels as an encoder takes them. */
function soundFrame(samples: Float32Array, count: number, { sampleFormat }: CodecContext): Frame {
  const frame = new Frame();
  frame.alloc();
  frame.format = sampleFormat;
  frame.nbSamples = count;
  frame.sampleRate = soundRate;
  frame.channelLayout = avChannelLayoutDefault(2);
  check(frame.getBuffer(), 'Getting memory for sound');
  const planes = frame.data ?? [];
  for (let at = 0; at < count; at++)
    for (let channel = 0; channel < 2; channel++) {
      const value = samples[at * 2 + channel] as number;
      if (sampleFormat === AV_SAMPLE_FMT_FLTP) planes[channel]?.writeFloatLE(value, at * 4);
      else planes[0]?.writeInt32LE(Math.round(value * 2_147_483_647), (at * 2 + channel) * 4);
    }
  return frame;
}
