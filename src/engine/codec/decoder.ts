import { availableParallelism } from 'node:os';
import {
  AVERROR_EAGAIN,
  AVERROR_EOF,
  AVMEDIA_TYPE_VIDEO,
  AV_CODEC_CAP_FRAME_THREADS,
  AV_CODEC_CAP_SLICE_THREADS,
  FF_THREAD_FRAME,
  FF_THREAD_SLICE,
  type AVCodecID,
  type AVPixelFormat,
  type AVProfile,
  type AVThreadType,
} from 'node-av/constants';
import { Codec, CodecContext, Frame, Packet, Rational, type HardwareDeviceContext } from 'node-av/lib';
import { isKey, type PacketTable } from '@/core/media/packetTable';
import { unwrap } from '@/core/media/wrapping';
import type { Raster } from '@/core/timeline/deviceRaster';
import { contextWith } from './codecContext';
import { DeviceScaler } from './deviceScaler';
import { firstField } from './fields';
import { EngineError } from '../errors';
import type { CodecSetup } from '../media/streamFacts';
import { DecodeError, decodeFailure, thisClip } from '../decodeFailure';
import { mostErrorsInRow, Refusals } from './refusals';

export interface DecoderOptions {
  /** 0: one per core. */
  readonly threads: number;
  /** Prefer threads within a frame, so that a frame does not wait for the next packet. */
  readonly lowDelay: boolean;
  readonly rate: { readonly num: number; readonly den: number };
  /** As messages name the clip at the beginning of a sentence; absent: "This clip". */
  readonly clipName?: string | undefined;
  /** Told when it opens its codec, which starts its threads. */
  readonly watchThreads?: WatchThreads | undefined;
  /** A real device that is to decode; absent: the processor. */
  readonly device?:
    | {
        readonly name: string;
        readonly context: HardwareDeviceContext;
        /** To what it scales its pictures before they come to memory; null: they come whole. */
        readonly raster: Raster | null;
      }
    | undefined;
}

/** Something that makes frames of packets, whatever decodes them. Frames carry their packet's number as timestamp and lie in memory. */
export interface VideoDecoder {
  readonly name: string;
  /** Of the processor. */
  readonly threads: number;
  readonly threadKind: string;
  readonly refusals: Refusals;
  /** Frames that it gave. */
  readonly given: number;
  /** Of those: frames that a device decoded. */
  readonly onDevice: number;
  /** Of those: frames that the device scaled before they came to memory. */
  readonly scaled: number;
  /**
   * Hands over one packet (null: no more will come), which stays the caller's.
   * Returns false when the decoder has frames to give first.
   */
  send(packet: Packet | null): Promise<boolean>;
  /** The next frame in display order, or null when the decoder wants more packets or has ended. The caller frees it. */
  receive(): Promise<Frame | null>;
  /** Forgets what it holds: what follows begins anew, at a key frame. */
  flush(): void;
  close(): void;
}

/** Does what opens a codec or a graph, and notes whose the threads are that it starts. */
export type WatchThreads = <Value>(open: () => Promise<Value>) => Promise<Value>;
const unwatched: WatchThreads = (open) => open();

/** How a decoder's threads share the work. */
const threadKinds = { frames: 'frame by frame', slices: 'within a frame', none: 'none' } as const;

/**
 * A decoder's context set up for a clip, not opened yet.
 * @throws DecodeError when there is no decoder
 */
export function decoderContext(
  setup: CodecSetup,
  clipName = 'this clip',
): { context: CodecContext; codec: Codec } {
  const codec = Codec.findDecoder(setup.codecId as AVCodecID);
  if (!codec) throw new DecodeError(clipName, 'feature', null);
  const context = contextWith(codec, {
    codecType: AVMEDIA_TYPE_VIDEO,
    codecId: codec.id,
    codecTag: setup.codecTag,
    width: setup.width,
    height: setup.height,
    format: setup.pixelFormat as AVPixelFormat,
    profile: setup.profile as AVProfile,
    level: setup.level,
    bitsPerCodedSample: setup.bitsPerCodedSample,
    extradata: setup.extradata ? Buffer.from(setup.extradata, 'base64') : null,
  });
  return { context, codec };
}

/** Says that a decoder would not open. */
export function refusedClip(codec: Codec, code: number, clipName = thisClip): DecodeError {
  return decodeFailure(clipName, code, codec.name ?? 'unknown');
}

/** A packet with its own copy of a frame's coded bytes, its slot as timestamp. The caller frees it. */
export function packetOf(data: Buffer, slot: number, key: boolean): Packet {
  const packet = new Packet();
  packet.alloc();
  packet.data = data;
  packet.pts = packet.dts = BigInt(slot);
  packet.isKeyframe = key;
  return packet;
}

/** The packet of a clip's row, out of the bytes that were read for it. */
export function packetOfRow(
  { setup, packets }: { readonly setup: Pick<CodecSetup, 'wrapping'>; readonly packets: PacketTable },
  row: number,
  read: Buffer,
): Packet {
  const { inside } = packets;
  const { wrapping } = setup;
  if (!inside || !wrapping) return packetOf(read, packets.slot[row] as number, isKey(packets, row));
  const frame = unwrap(wrapping, read, inside.skip[row] as number, inside.bytes[row] as number);
  const data = Buffer.from(frame.buffer, frame.byteOffset, frame.byteLength);
  return packetOf(data, packets.slot[row] as number, isKey(packets, row));
}

/** How a stream's decoder is opened. */
export type OpenDecoder = (options: Omit<DecoderOptions, 'rate' | 'clipName'>) => Promise<VideoDecoder>;

/** A decoder of the codec library fed with bytes from memory. What it refuses is done without. */
export class Decoder implements VideoDecoder {
  private spare: Frame | null = null;
  readonly refusals: Refusals;
  given = 0;
  onDevice = 0;
  scaled = 0;
  /** Undefined before the first picture; null where the device does not scale. */
  private scaler: DeviceScaler | null | undefined;

  private constructor(
    private readonly context: CodecContext,
    readonly name: string,
    readonly threads: number,
    readonly threadKind: string,
    clipName: string | undefined,
    private readonly device: DecoderOptions['device'],
  ) {
    this.refusals = new Refusals(name, clipName);
  }

  /** @throws EngineError when there is no decoder or it refuses the stream */
  static async open(setup: CodecSetup, options: DecoderOptions): Promise<Decoder> {
    const { context, codec } = decoderContext(setup, options.clipName);
    context.pktTimebase = new Rational(options.rate.den, options.rate.num);
    context.threadCount = options.threads || availableParallelism();
    if (options.device) context.hwDeviceCtx = options.device.context;
    const slices = codec.hasCapabilities(AV_CODEC_CAP_SLICE_THREADS);
    const frames = codec.hasCapabilities(AV_CODEC_CAP_FRAME_THREADS);
    context.threadType = (
      options.lowDelay && slices ? FF_THREAD_SLICE : FF_THREAD_FRAME | FF_THREAD_SLICE
    ) as AVThreadType;
    const code = await (options.watchThreads ?? unwatched)(() => context.open2(codec));
    if (code < 0) throw refusedClip(codec, code, options.clipName);
    const kind =
      options.lowDelay && slices
        ? threadKinds.slices
        : frames
          ? threadKinds.frames
          : slices
            ? threadKinds.slices
            : threadKinds.none;
    const name = codec.name ?? 'unknown';
    return new Decoder(
      context,
      options.device ? `${name} on ${options.device.name}` : name,
      context.threadCount,
      kind,
      options.clipName,
      options.device,
    );
  }

  async send(packet: Packet | null): Promise<boolean> {
    const code = await this.context.sendPacket(packet);
    if (packet === null) return true;
    if (code === AVERROR_EAGAIN) return false;
    if (code < 0) this.refusals.note(code);
    return true;
  }

  async receive(): Promise<Frame | null> {
    const frame = this.spare ?? new Frame();
    if (!this.spare) frame.alloc();
    this.spare = null;
    for (let errors = 0; errors < mostErrorsInRow; errors++) {
      // Without frame threads the work was done when the packet was sent and this only hands the frame over: a trip to another thread would cost more.
      const code = this.mayWait
        ? await this.context.receiveFrame(frame)
        : this.context.receiveFrameSync(frame);
      if (code >= 0) {
        this.given++;
        return frame.isHwFrame() ? this.fetched(frame) : frame;
      }
      if (code === AVERROR_EAGAIN || code === AVERROR_EOF) break;
      this.refusals.note(code);
    }
    this.spare = frame;
    return null;
  }

  /** A device's frame as it was scaled there; null where that is not asked for, or the device does not do it. */
  private async scaledThere(onDevice: Frame): Promise<Frame | null> {
    // Its scaler would mix the fields of an interlaced picture.
    if (!this.device?.raster || firstField(onDevice) !== null) return null;
    this.scaler ??=
      this.scaler === null ? null : await DeviceScaler.open(this.device, onDevice, this.device.raster);
    const picture = (await this.scaler?.scaled(onDevice)) ?? null;
    if (picture) this.scaled++;
    else {
      // What it did not do once it is not asked for again: pictures come whole.
      this.scaler?.free();
      this.scaler = null;
    }
    return picture;
  }

  /** A device's frame brought to memory; the device's own is kept for the next. @throws EngineError when it does not come */
  private async fetched(onDevice: Frame): Promise<Frame> {
    const small = await this.scaledThere(onDevice);
    const here = small ?? new Frame();
    if (!small) here.alloc();
    const code = small ? 0 : await onDevice.hwframeTransferData(here);
    if (code >= 0) here.copyProps(onDevice);
    onDevice.unref();
    this.spare = onDevice;
    if (code < 0) {
      here.free();
      throw new EngineError('picture-not-from-device', { code });
    }
    this.onDevice++;
    return here;
  }

  /** True when asking for a frame may wait for one that another thread still works on. */
  private get mayWait(): boolean {
    return this.threadKind === threadKinds.frames && this.threads > 1;
  }

  flush(): void {
    this.context.flushBuffers();
  }

  close(): void {
    this.spare?.free();
    this.spare = null;
    this.scaler?.free();
    this.context.freeContext();
  }
}

/** "h264 x2, prores". Threads are those of all together. */
export function decodersInWords(decoders: readonly { name: string; threads: number; threadKind: string }[]): {
  decoder: string;
  decoderThreads: number;
  threadKind: string;
} {
  const counts = new Map<string, number>();
  for (const { name } of decoders) counts.set(name, (counts.get(name) ?? 0) + 1);
  return {
    decoder:
      [...counts].map(([name, count]) => (count > 1 ? `${name} x${count}` : name)).join(', ') || 'none',
    decoderThreads: decoders.reduce((sum, { threads }) => sum + threads, 0),
    threadKind: [...new Set(decoders.map(({ threadKind }) => threadKind))].join(', ') || 'none',
  };
}
