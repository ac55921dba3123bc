import { AV_PICTURE_TYPE_NONE, AVERROR_EAGAIN, AVERROR_EOF } from 'node-av/constants';
import {
  CodecParameters,
  Packet,
  type CodecContext,
  type Frame,
  type Rational,
  type Stream,
} from 'node-av/lib';
import { check } from '../errors';
import type { DeviceFrames } from './deviceFrames';
import { openVideoEncoder, type VideoEncoderChoice } from './videoEncoder';

/** Makes pictures into packets. */
export interface PictureEncoder {
  /** Of the times of its packets. */
  readonly timeBase: Rational;
  /** Hands a picture over, whose number is its time. It stays the caller's. */
  send(frame: Frame): Promise<void>;
  /** No picture will come any more. */
  finish(): Promise<void>;
  /** Packets that have come out by now, so many at most; whoever takes them frees them. */
  received(most: number): Promise<Packet[]>;
  /** Tells a track what it will hold. */
  describe(track: Stream): void;
  free(): void;
}

/** An encoder of the codec library, in software or on a device. */
export class CodecEncoder implements PictureEncoder {
  /** What it had to give before it took more. */
  private readonly waiting: Packet[] = [];
  private sent = 0;

  private constructor(
    private readonly context: CodecContext,
    private readonly device: DeviceFrames | null,
  ) {}

  /** @param device what the device has for it that it is of, which goes with it; null: software @throws EngineError when there is none, or it refuses its settings */
  static async open(choice: VideoEncoderChoice, device: DeviceFrames | null = null): Promise<CodecEncoder> {
    try {
      return new CodecEncoder(await openVideoEncoder(choice, device), device);
    } catch (error) {
      device?.free();
      throw error;
    }
  }

  get timeBase(): Rational {
    return this.context.timeBase;
  }

  get rate(): Rational {
    return this.context.framerate;
  }

  /** What a track of its packets is described by; whoever asks frees it. */
  get parameters(): CodecParameters {
    const parameters = new CodecParameters();
    parameters.alloc();
    parameters.fromContext(this.context);
    return parameters;
  }

  async send(frame: Frame): Promise<void> {
    frame.pts = BigInt(this.sent++);
    frame.duration = 1n;
    frame.pictType = AV_PICTURE_TYPE_NONE;
    const taken = this.device ? await this.device.put(frame) : frame;
    try {
      let code = await this.context.sendFrame(taken);
      for (; code === AVERROR_EAGAIN; code = await this.context.sendFrame(taken))
        this.waiting.push(...(await packetsOf(this.context, Infinity)));
      check(code, 'Encoding');
    } finally {
      if (taken !== frame) taken.free();
    }
  }

  async finish(): Promise<void> {
    check(await this.context.sendFrame(null), 'Finishing the encoder');
  }

  async received(most: number): Promise<Packet[]> {
    return [...this.waiting.splice(0), ...(await packetsOf(this.context, most))];
  }

  describe(track: Stream): void {
    track.codecpar.fromContext(this.context);
    track.timeBase = this.context.timeBase;
    track.avgFrameRate = this.context.framerate;
    track.sampleAspectRatio = this.context.sampleAspectRatio;
  }

  free(): void {
    this.context.freeContext();
    this.device?.free();
  }
}

/** Packets that an encoder has ready, so many at most. */
export async function packetsOf(encoder: CodecContext, most: number): Promise<Packet[]> {
  const packets: Packet[] = [];
  for (;;) {
    if (packets.length >= most) return packets;
    const packet = new Packet();
    packet.alloc();
    const code = await encoder.receivePacket(packet);
    if (code >= 0) {
      packets.push(packet);
      continue;
    }
    packet.free();
    if (code !== AVERROR_EAGAIN && code !== AVERROR_EOF) check(code, 'Encoding');
    return packets;
  }
}
