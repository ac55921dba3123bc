import type { Frame, Packet } from 'node-av/lib';
import type { Feed } from '@/core/timeline/course';
import { Decoder, type DecoderOptions } from '../playback/decoder';
import type { CodecSetup } from '../media/probe';

/** The decoder of one feed: takes the packets of its steps and keeps the frames until their last use. */
export class FeedDecoder {
  private readonly frames = new Map<number, Frame>();
  private decoder: Decoder | null = null;
  private opening: Promise<Decoder> | null = null;
  private ended = false;
  private highest = -1;
  finished = false;

  constructor(private readonly feed: Feed, private readonly setup: CodecSetup, private readonly options: DecoderOptions) {}

  /** Opens the decoder, once. */
  open(): Promise<Decoder> {
    this.opening ??= Decoder.open(this.setup, this.options).then((decoder) => (this.decoder = decoder));
    return this.opening;
  }

  get threads(): { name: string; threads: number; threadKind: string } | null {
    return this.decoder;
  }

  /** Decodes the packets of a step. Frames that come out early or late are kept by their number. */
  async decode(packets: readonly Packet[], reset: boolean, drain: boolean): Promise<void> {
    const decoder = await this.open();
    if (packets.length > 0 && (reset || this.ended)) await this.restart(decoder);
    for (const packet of packets) {
      while (!(await decoder.send(packet))) await this.takeAll(decoder);
      await this.takeAll(decoder);
    }
    if (drain) await this.drain(decoder);
  }

  private async restart(decoder: Decoder): Promise<void> {
    await this.drain(decoder);
    decoder.flush();
    this.ended = false;
    this.highest = -1;
  }

  private async drain(decoder: Decoder): Promise<void> {
    if (this.ended) return;
    await decoder.send(null);
    await this.takeAll(decoder);
    this.ended = true;
  }

  /** Takes out what is left, since no packet will follow. */
  async finish(): Promise<void> {
    if (this.decoder) await this.drain(this.decoder);
  }

  private async takeAll(decoder: Decoder): Promise<void> {
    for (let frame = await decoder.receive(); frame; frame = await decoder.receive()) {
      const number = Number(frame.pts);
      this.highest = Math.max(this.highest, number);
      if (!this.feed.plan.lastUse.has(number)) { frame.free(); continue; }
      this.frames.get(number)?.free();
      this.frames.set(number, frame);
    }
  }

  /** Whether the frame of a step is there, or will not come any more. */
  isSettled(step: number): boolean {
    const wanted = this.feed.plan.frames[step] as number;
    return this.frames.has(wanted) || this.ended || this.highest > wanted;
  }

  /** A reference of its own to the frame of a step, null when the decoder did not give it. Frames of no later use are given up. */
  take(step: number): Frame | null {
    const { frames: wanted, lastUse } = this.feed.plan;
    const frame = this.frames.get(wanted[step] as number)?.clone() ?? null;
    for (const [number, kept] of this.frames) {
      if ((lastUse.get(number) ?? -1) > step) continue;
      kept.free();
      this.frames.delete(number);
    }
    return frame;
  }

  close(): void {
    for (const frame of this.frames.values()) frame.free();
    this.frames.clear();
    this.decoder?.close();
    this.decoder = null;
    this.finished = true;
  }
}
