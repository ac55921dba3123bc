import type { Frame, Packet } from 'node-av/lib';
import type { FeedPlan } from '@/core/playback/feedPlan';
import { DecodeError } from '../decodeFailure';
import type { VideoDecoder } from './decoder';
import type { FaultLog } from './faultLog';
import { LossWatch } from './lossWatch';

/** The decoder of one feed: takes the packets of its steps and keeps the frames until their last use. */
export class FeedDecoder {
  private readonly frames = new Map<number, Frame>();
  private decoder: VideoDecoder | null = null;
  private opening: Promise<VideoDecoder> | null = null;
  private ended = false;
  /** The first step that has not been taken. */
  private nextStep = 0;
  finished = false;
  /** Why the decoder would not open; null where it did, or was not asked to. */
  private refusal: DecodeError | null = null;
  /** Why it refused the last time, once it is closed. */
  private lastFailure: DecodeError | null = null;
  private readonly losses: LossWatch;

  constructor(
    private readonly plan: FeedPlan,
    private readonly openDecoder: () => Promise<VideoDecoder>,
    private readonly faults: FaultLog,
  ) {
    this.losses = new LossWatch(faults, plan.index.intra);
  }

  /** Opens the decoder, once. */
  open(): Promise<VideoDecoder> {
    this.opening ??= this.openDecoder().then((decoder) => (this.decoder = decoder));
    return this.opening;
  }

  /** The decoder once it is open; null where it refuses the clip. */
  private async opened(): Promise<VideoDecoder | null> {
    try {
      return await this.open();
    } catch (error) {
      if (!(error instanceof DecodeError)) throw error;
      this.refusal = error;
      return null;
    }
  }

  /** Why something was not decoded; null where nothing was refused. */
  get failure(): Error | null {
    return this.refusal ?? this.decoder?.refusals.failure ?? this.lastFailure;
  }

  get threads(): { name: string; threads: number; threadKind: string } | null {
    return this.decoder;
  }

  /** Decodes packets of a step. Frames that come out early or late are kept by their number. */
  async decode(packets: readonly Packet[], reset: boolean, drain: boolean): Promise<void> {
    const decoder = await this.opened();
    if (!decoder) return;
    if (reset || (packets.length > 0 && this.ended)) await this.restart(decoder);
    for (const packet of packets) {
      this.losses.sent(Number(packet.pts));
      while (!(await decoder.send(packet))) await this.takeAll(decoder);
      await this.takeAll(decoder);
    }
    if (drain) await this.drain(decoder);
  }

  private async restart(decoder: VideoDecoder): Promise<void> {
    await this.drain(decoder);
    decoder.flush();
    this.losses.beganAnew();
    this.ended = false;
  }

  private async drain(decoder: VideoDecoder): Promise<void> {
    if (this.ended) return;
    await decoder.send(null);
    await this.takeAll(decoder);
    this.losses.ended(decoder);
    this.ended = true;
  }

  /** Takes out what is left, since no packet will follow. */
  async finish(): Promise<void> {
    if (this.decoder) await this.drain(this.decoder);
  }

  private async takeAll(decoder: VideoDecoder): Promise<void> {
    for (let frame = await decoder.receive(); frame; frame = await decoder.receive()) {
      const number = Number(frame.pts);
      this.losses.came(frame, decoder);
      if (!this.plan.uses.isWanted(number, this.nextStep)) {
        frame.free();
        continue;
      }
      this.frames.get(number)?.free();
      this.frames.set(number, frame);
    }
  }

  /** Whether the frame of a step that was handed over is there, or will not come any more. */
  isSettled(step: number): boolean {
    const wanted = this.plan.frames[step] as number;
    return this.frames.has(wanted) || !this.losses.isAwaited(wanted);
  }

  /** The frame of a step, which is the caller's from then on; null when the decoder did not give it. Frames of no later use are given up. */
  take(step: number): Frame | null {
    const { frames: wanted, uses } = this.plan;
    const number = wanted[step] as number;
    const kept = this.frames.get(number) ?? null;
    // Copied only where it is wanted again: every frame that the engine knows of weighs on its memory.
    const frame = kept && uses.isWanted(number, step + 1) ? kept.clone() : kept;
    if (frame === kept) this.frames.delete(number);
    if (this.refusal) this.faults.note(number, this.refusal.refusal);
    this.nextStep = step + 1;
    for (const [other, unused] of this.frames) {
      if (uses.isWanted(other, this.nextStep)) continue;
      unused.free();
      this.frames.delete(other);
    }
    return frame;
  }

  close(): void {
    for (const frame of this.frames.values()) frame.free();
    this.frames.clear();
    this.lastFailure = this.decoder?.refusals.failure ?? null;
    this.decoder?.close();
    this.decoder = null;
    this.finished = true;
  }
}
