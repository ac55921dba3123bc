import { AV_PIX_FMT_YUVJ420P, SWS_POINT, type AVPixelFormat } from 'node-av/constants';
import { Packet, SoftwareScaleContext, type CodecContext, type Frame } from 'node-av/lib';
import { jpegFrame, openJpegEncoder } from '../media/jpeg';
import type { ProcessedPicture } from '../codec/processor';

/** A picture of any pixel format; all that one tap is given have the same size. */
export type ViewedPicture = Pick<ProcessedPicture, 'frame' | 'width' | 'height'>;

/** How large and how often pictures are made for a page. */
export interface TapSettings {
  readonly width: number;
  readonly leastIntervalMs: number;
  readonly quality: number;
}

/** Beside a measurement: small and seldom. */
const besideTrial: TapSettings = { width: 480, leastIntervalMs: 250, quality: 6 };

/**
 * Makes JPEGs of presented pictures for a page, and only while somebody looks:
 * beside a trial small ones, at most four a second. It works on pictures that playback is
 * done with, so a slow viewer delays nothing but itself.
 */
export class ViewerTap {
  private viewers = 0;
  private busy = false;
  private encoding: Promise<void> = Promise.resolve();
  private lastMs = 0;
  private scaler: SoftwareScaleContext | null = null;
  private format: number | null = null;
  private encoder: CodecContext | null = null;
  private target: Frame | null = null;

  constructor(
    private readonly send: (frame: number, jpeg: Uint8Array) => void,
    private readonly settings: TapSettings = besideTrial,
  ) {}

  setViewers(count: number): void {
    this.viewers = count;
  }

  /** Resolves when the picture under work is done with. */
  get settled(): Promise<void> {
    return this.encoding;
  }

  /** Takes a picture if one is wanted now; calls `release` when done with it, at once if it is not wanted. */
  offer(picture: ViewedPicture, frameNumber: number, release: () => void): void {
    const now = Date.now();
    if (this.viewers === 0 || this.busy || now - this.lastMs < this.settings.leastIntervalMs) {
      release();
      return;
    }
    this.busy = true;
    this.lastMs = now;
    this.encoding = this.encode(picture)
      .then((jpeg) => {
        if (jpeg) this.send(frameNumber, jpeg);
      })
      .catch(() => {
        this.viewers = 0;
      }) // a viewer that cannot be served must not touch the measurement
      .finally(() => {
        this.busy = false;
        release();
      });
  }

  /** A picture as JPEG. @throws EngineError when it cannot be encoded */
  async encode(picture: ViewedPicture): Promise<Uint8Array | null> {
    const { scaler, encoder, target } = await this.open(picture);
    await scaler.scaleFrame(target, picture.frame);
    target.pts += 1n;
    await encoder.sendFrame(target);
    const packet = new Packet();
    packet.alloc();
    const code = await encoder.receivePacket(packet);
    const jpeg = code >= 0 && packet.data ? new Uint8Array(packet.data) : null;
    packet.free();
    return jpeg;
  }

  /** Frees what it holds when the picture under way is done. */
  async finish(): Promise<void> {
    this.viewers = 0;
    await this.encoding;
    this.scaler?.freeContext();
    this.encoder?.freeContext();
    this.target?.free();
    this.scaler = this.encoder = this.target = null;
  }

  private async open(picture: ViewedPicture) {
    const { format } = picture.frame;
    if (this.scaler && this.encoder && this.target && this.format === format)
      return { scaler: this.scaler, encoder: this.encoder, target: this.target };
    this.format = format;
    this.scaler?.freeContext();
    const width = Math.min(this.settings.width, picture.width) & ~1;
    const height = Math.round((width * picture.height) / picture.width) & ~1;
    const scaler = new SoftwareScaleContext();
    scaler.getContext(
      picture.width,
      picture.height,
      format as AVPixelFormat,
      width,
      height,
      AV_PIX_FMT_YUVJ420P,
      SWS_POINT,
    );
    const encoder = this.encoder ?? (await openJpegEncoder(width, height, this.settings.quality));
    const target = this.target ?? jpegFrame(width, height);
    this.scaler = scaler;
    this.encoder = encoder;
    this.target = target;
    return { scaler, encoder, target };
  }
}
