import type { AVHWDeviceType, AVPixelFormat } from 'node-av/constants';
import {
  avGetPixFmtFromName,
  Frame,
  HardwareDeviceContext,
  HardwareFramesContext,
  type CodecContext,
} from 'node-av/lib';
import type { EncodeDevice } from '@/core/tasks/encodeDevices';
import { EngineError } from '../errors';

/** Pictures that may lie on a device at once: what its encoder looks ahead, and some under way. */
const roomOnDevice = 32;

/** @returns its context @throws EngineError when the system has none, or it does not open */
export function openDevice(kind: string): HardwareDeviceContext {
  const type = HardwareDeviceContext.iterateTypes().find(
    (known: AVHWDeviceType) => HardwareDeviceContext.getTypeName(known) === kind,
  );
  const device = new HardwareDeviceContext();
  const code = type === undefined ? -1 : device.create(type);
  if (code < 0) throw new EngineError('device-not-opened', { kind, code });
  return device;
}

/** An open device with the pictures that its encoder takes. */
export class DeviceFrames {
  private constructor(
    private readonly device: HardwareDeviceContext,
    /** null: its encoder takes pictures from memory */ private readonly frames: HardwareFramesContext | null,
    private readonly owned: boolean,
  ) {}

  /** @throws EngineError when the device does not open, or has no room for such pictures */
  static open(encodeDevice: EncodeDevice, raster: Raster): DeviceFrames {
    const device = openDevice(encodeDevice.kind);
    try {
      return DeviceFrames.on(device, encodeDevice, raster, true);
    } catch (error) {
      device.free();
      throw error;
    }
  }

  /** @param owned it is freed with the frames */
  static on(
    device: HardwareDeviceContext,
    { kind, onDevice }: EncodeDevice,
    { width, height, pixelFormat }: Raster,
    owned = false,
  ): DeviceFrames {
    if (!onDevice) return new DeviceFrames(device, null, owned);
    const frames = new HardwareFramesContext();
    frames.alloc(device);
    Object.assign(frames, {
      format: avGetPixFmtFromName(kind),
      swFormat: pixelFormat,
      width,
      height,
      initialPoolSize: roomOnDevice,
    });
    const code = frames.init();
    if (code < 0) {
      frames.free();
      throw new EngineError('device-has-no-room', { kind, width, height, code });
    }
    return new DeviceFrames(device, frames, owned);
  }

  /** Tells an encoder of them, before it is opened. */
  attach(context: CodecContext): void {
    context.hwDeviceCtx = this.device;
    if (!this.frames) return;
    context.pixelFormat = this.frames.format;
    context.hwFramesCtx = this.frames;
  }

  /** A picture as the encoder takes it: itself, or one on the device that whoever asked frees. @throws EngineError when it does not go there */
  async put(picture: Frame): Promise<Frame> {
    if (!this.frames) return picture;
    const there = new Frame();
    there.alloc();
    let code = this.frames.getBuffer(there);
    if (code >= 0) code = await this.frames.transferData(there, picture);
    if (code < 0) {
      there.free();
      throw new EngineError('picture-not-on-device', { code });
    }
    there.copyProps(picture);
    return there;
  }

  free(): void {
    this.frames?.free();
    if (this.owned) this.device.free();
  }
}

interface Raster {
  readonly width: number;
  readonly height: number;
  readonly pixelFormat: AVPixelFormat;
}
