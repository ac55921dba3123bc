import { availableParallelism } from 'node:os';
import {
  AV_CODEC_CAP_FRAME_THREADS,
  AV_CODEC_CAP_SLICE_THREADS,
  AVERROR_EAGAIN,
  AVERROR_EOF,
  FF_THREAD_FRAME,
  FF_THREAD_SLICE,
  type AVThreadType,
} from 'node-av/constants';
import { Frame, type CodecContext, type HardwareDeviceContext, type Packet } from 'node-av/lib';
import {
  frameTimeUs,
  standInDevices,
  supportFor,
  type StandInDevice,
  type SupportRow,
} from '@/core/decode/standIns';
import type { DecodeCores } from '@/core/decode/result';
import type { Format } from '@/core/media/format';
import { monotonicUs } from '../clock';
import { openDevice } from '../codec/deviceFrames';
import { EngineError } from '../errors';
import type { CodecSetup } from '../media/streamFacts';
import { decoderContext, refusedClip } from '../codec/decoder';
import { mostErrorsInRow, Refusals } from '../codec/refusals';

/** Something that turns packets into frames, one call at a time on this thread, as a command-line decoder does. */
export interface FrameSource {
  readonly decoder: string;
  readonly threads: number;
  readonly threadKind: string;
  /** Hands over a packet, or the end (null). False: take frames first. */
  send(packet: Packet | null): boolean;
  /** The next frame, valid until the next call; null when it wants packets. */
  receive(): Frame | null;
  /** Whether the last frame lay on a surface of a device. */
  readonly lastOnDevice: boolean;
  readonly refusals: Refusals;
  flush(): void;
  close(): void;
}

/** Software decoding, or a real device's through the codec library. */
export class CodecSource implements FrameSource {
  private readonly frame = new Frame();
  lastOnDevice = false;
  readonly refusals: Refusals;

  private constructor(
    private readonly context: CodecContext,
    private readonly device: HardwareDeviceContext | null,
    readonly decoder: string,
    readonly threads: number,
    readonly threadKind: string,
  ) {
    this.frame.alloc();
    this.refusals = new Refusals(decoder);
  }

  /** @throws EngineError when there is no decoder, or it or the device refuses */
  static open(setup: CodecSetup, cores: DecodeCores, deviceName: string | null = null): CodecSource {
    const { context, codec } = decoderContext(setup);
    const threads = cores === 'one' ? 1 : availableParallelism();
    context.threadCount = threads;
    context.threadType = (FF_THREAD_FRAME | FF_THREAD_SLICE) as AVThreadType;
    const device = deviceName === null ? null : openDevice(deviceName);
    if (device) context.hwDeviceCtx = device;
    const code = context.open2Sync(codec);
    if (code < 0) throw refusedClip(codec, code);
    const kind =
      threads === 1
        ? 'none'
        : codec.hasCapabilities(AV_CODEC_CAP_FRAME_THREADS)
          ? 'frame by frame'
          : codec.hasCapabilities(AV_CODEC_CAP_SLICE_THREADS)
            ? 'within a frame'
            : 'none';
    return new CodecSource(context, device, codec.name ?? 'unknown', threads, kind);
  }

  send(packet: Packet | null): boolean {
    const code = this.context.sendPacketSync(packet);
    if (code === AVERROR_EAGAIN) return false;
    if (code < 0 && code !== AVERROR_EOF) this.refusals.note(code);
    return true;
  }

  receive(): Frame | null {
    for (let errors = 0; errors < mostErrorsInRow; errors++) {
      const code = this.context.receiveFrameSync(this.frame);
      if (code >= 0) {
        this.lastOnDevice = this.device !== null && this.frame.isHwFrame();
        return this.frame;
      }
      if (code === AVERROR_EAGAIN || code === AVERROR_EOF) break;
      this.refusals.note(code);
    }
    return null;
  }

  flush(): void {
    this.context.flushBuffers();
  }

  close(): void {
    this.frame.free();
    this.context.freeContext();
    this.device?.free();
  }
}

/**
 * A made-up accelerator. Its frames were truly decoded, before the pass and in
 * software; it gives them at the times of its model and takes next to no processor
 * time for it. What it does not support goes to software without a word.
 */
export class StandInSource implements FrameSource {
  readonly lastOnDevice = true;
  readonly refusals: Refusals;
  readonly threads = 1;
  readonly threadKind = 'none';
  readonly decoder: string;
  private readonly waiting: bigint[] = [];
  private readyUs = Number.NaN;
  private ended = false;

  private constructor(
    private readonly device: StandInDevice,
    private readonly timeUs: number,
    private readonly decoded: ReadonlyMap<number, Frame>,
    private readonly period: number,
  ) {
    this.decoder = device.name;
    this.refusals = new Refusals(device.name);
  }

  /** @param decoded frames of the window by slot @param period slots after which the window begins again */
  static open(
    deviceId: string,
    setup: CodecSetup,
    format: Format,
    cores: DecodeCores,
    decoded: ReadonlyMap<number, Frame>,
    period: number,
  ): FrameSource {
    const device = standInDevices.find(({ id }) => id === deviceId);
    if (!device) throw new EngineError('stand-in-unknown');
    const line: SupportRow | null = supportFor(device, format);
    return line === null
      ? CodecSource.open(setup, cores)
      : new StandInSource(device, frameTimeUs(device, line, format), decoded, period);
  }

  send(packet: Packet | null): boolean {
    if (packet === null) this.ended = true;
    else this.waiting.push(packet.pts);
    if (Number.isNaN(this.readyUs)) this.readyUs = monotonicUs() + this.device.startUs;
    return true;
  }

  /** Frames come in display order once the packets that a decoder would hold back are there. */
  receive(): Frame | null {
    if (this.waiting.length <= (this.ended ? 0 : heldBack)) return null;
    const next = this.waiting.reduce((least, pts) => (pts < least ? pts : least));
    this.waiting.splice(this.waiting.indexOf(next), 1);
    waitUntil(this.readyUs);
    this.readyUs = Math.max(this.readyUs, monotonicUs() - this.timeUs) + this.timeUs;
    return this.decoded.get(Number(next) % this.period) ?? null;
  }

  flush(): void {
    this.waiting.splice(0);
    this.ended = false;
    this.readyUs = Number.NaN;
  }

  close(): void {
    this.waiting.splice(0);
  }
}

const heldBack = 4;
const sleeper = new Int32Array(new SharedArrayBuffer(4));

/** Sleeps this thread until a moment; the last fraction of a millisecond is waited for in passing. */
function waitUntil(us: number): void {
  const leftMs = (us - monotonicUs()) / 1000;
  if (leftMs > 0.02) Atomics.wait(sleeper, 0, 0, leftMs);
}
