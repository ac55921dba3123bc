import {
  AVERROR_EAGAIN,
  AVERROR_EOF,
  AVFMT_GLOBALHEADER,
  AV_CODEC_FLAG_GLOBAL_HEADER,
  AV_SAMPLE_FMT_FLTP,
  AV_SAMPLE_FMT_S16,
  type FFEncoderCodec,
} from 'node-av/constants';
import {
  avChannelLayoutDefault,
  Codec,
  CodecContext,
  Frame,
  Packet,
  Rational,
  type FormatContext,
  type Stream,
} from 'node-av/lib';
import { toNumber, type Rational as Rate } from '@/core/time/rational';

const samplesPerSecond = 48_000;
const channels = 2;

/** Sound of the scene at a moment: swell that comes and goes, and a gull now and then. -1 to 1. */
export function sceneSound(seconds: number, seed: number): number {
  const swell =
    0.22 *
    (0.6 + 0.4 * Math.sin((2 * Math.PI * (seconds + seed)) / 3.1)) *
    Math.sin(2 * Math.PI * 61 * seconds + 7 * Math.sin(2 * Math.PI * 23 * seconds));
  const call = (seconds * 0.7 + (seed % 7) / 7) % 1;
  const gull =
    call < 0.18
      ? 0.35 * Math.sin((Math.PI * call) / 0.18) * Math.sin(2 * Math.PI * (1_150 - 900 * call) * seconds)
      : 0;
  return swell + gull;
}

/** A stereo track written beside the pictures: uncompressed, or AAC where the container asks for it. */
export class DemoSound {
  private written = 0;

  private constructor(
    private readonly output: FormatContext,
    private readonly encoder: CodecContext,
    private readonly stream: Stream,
    private readonly planar: boolean,
    private readonly seed: number,
  ) {}

  /** Adds the track before the header is written. @throws Error when the encoder refuses */
  static async add(output: FormatContext, kind: 'pcm' | 'aac', seed: number): Promise<DemoSound> {
    const codec = Codec.findEncoderByName((kind === 'pcm' ? 'pcm_s16le' : 'aac') as FFEncoderCodec);
    const encoder = new CodecContext();
    encoder.allocContext3(codec);
    encoder.sampleRate = samplesPerSecond;
    encoder.sampleFormat = kind === 'pcm' ? AV_SAMPLE_FMT_S16 : AV_SAMPLE_FMT_FLTP;
    encoder.channelLayout = avChannelLayoutDefault(channels);
    encoder.timeBase = new Rational(1, samplesPerSecond);
    encoder.bitRate = 160_000n;
    if (output.oformat?.hasFlags(AVFMT_GLOBALHEADER)) encoder.setFlags(AV_CODEC_FLAG_GLOBAL_HEADER);
    const code = await encoder.open2(codec);
    if (code < 0) throw new Error(`The sound encoder ${kind} failed with code ${code}`);
    const stream = output.newStream(null);
    stream.codecpar.fromContext(encoder);
    stream.timeBase = encoder.timeBase;
    return new DemoSound(output, encoder, stream, kind === 'aac', seed);
  }

  /** Writes the sound up to the end of a picture. */
  async writeUntil(pictures: number, rate: Rate): Promise<void> {
    const wanted = Math.round((pictures / toNumber(rate)) * samplesPerSecond);
    const block = this.encoder.frameSize || 2_000;
    while (this.written + block <= wanted) {
      const frame = this.frame(block);
      await this.encoder.sendFrame(frame);
      frame.free();
      this.written += block;
      await this.drain();
    }
  }

  async finish(): Promise<void> {
    await this.encoder.sendFrame(null);
    await this.drain();
  }

  close(): void {
    this.encoder.freeContext();
  }

  private frame(samples: number): Frame {
    const bytes = Buffer.alloc(samples * channels * (this.planar ? 4 : 2));
    for (let i = 0; i < samples; i++) {
      const level = sceneSound((this.written + i) / samplesPerSecond, this.seed);
      for (let channel = 0; channel < channels; channel++) {
        if (this.planar) bytes.writeFloatLE(level, (channel * samples + i) * 4);
        else bytes.writeInt16LE(Math.round(level * 32_000), (i * channels + channel) * 2);
      }
    }
    const frame = Frame.fromAudioBuffer(bytes, {
      nbSamples: samples,
      format: this.encoder.sampleFormat,
      sampleRate: samplesPerSecond,
      channelLayout: this.encoder.channelLayout,
      timeBase: { num: 1, den: samplesPerSecond },
    });
    frame.pts = BigInt(this.written);
    return frame;
  }

  private async drain(): Promise<void> {
    const packet = new Packet();
    packet.alloc();
    for (;;) {
      const code = await this.encoder.receivePacket(packet);
      if (code === AVERROR_EAGAIN || code === AVERROR_EOF) break;
      packet.rescaleTs(this.encoder.timeBase, this.stream.timeBase);
      packet.streamIndex = this.stream.index;
      const written = await this.output.interleavedWriteFrame(packet);
      if (written < 0) throw new Error(`Writing sound failed with code ${written}`);
    }
    packet.free();
  }
}
