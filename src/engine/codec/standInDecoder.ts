import { AVERROR_INVALIDDATA } from 'node-av/constants';
import { Frame, type Packet } from 'node-av/lib';
import type { StandInDevice } from '@/core/decode/standIns';
import { hostClock, type Clock } from '../clock';
import type { VideoDecoder } from './decoder';
import { Refusals } from './refusals';

/** Waits shorter than this are left out: a timer cannot keep them, and the engine's clock makes up for it. */
const shortestWaitUs = 800;

/** One unit of a made-up accelerator: all streams of a process queue at it, first come, first served. */
export class StandInEngine {
  private freeAt = -Infinity;
  /** By how much the last wait ended late: the next frame counts as asked for in time, or timers would cost rate. */
  private lateUs = 0;

  constructor(readonly clock: Clock = hostClock) {}

  /** Takes some work in. @param notBefore when what it works on is there, on the clock @returns when it is done, on the clock */
  admit(workUs: number, notBefore = -Infinity): number {
    const start = Math.max(this.freeAt, this.clock.now() - this.lateUs, notBefore);
    this.lateUs = 0;
    this.freeAt = start + workUs;
    return this.freeAt;
  }

  /** Resolves when work is done, or a fraction of a millisecond before. */
  async until(doneAt: number): Promise<void> {
    const leftUs = doneAt - this.clock.now();
    if (leftUs >= shortestWaitUs) await this.clock.sleep(leftUs);
    this.lateUs = Math.max(0, this.clock.now() - doneAt);
  }
}

/** The units of a made-up accelerator that a picture passes. */
export interface StandInUnits {
  readonly decode: StandInEngine;
  readonly scale: StandInEngine;
  /** Brings pictures to memory. */
  readonly readBack: StandInEngine;
}

export function standInUnits(clock?: Clock): StandInUnits {
  const unit = () => new StandInEngine(clock);
  return { decode: unit(), scale: unit(), readBack: unit() };
}

/** Frames of a clip that were truly decoded before, in software; they stay with whoever decoded them. */
export interface FramesBeforehand {
  /** A picture by its frame's number; null where decoding refused it; undefined where nobody asked for it. */
  pictureOf(frame: number): Frame | null | undefined;
}

export interface StandInStream {
  readonly device: StandInDevice;
  readonly units: StandInUnits;
  /** Time of its scaling for a picture, µs; null: pictures come to memory whole. */
  readonly scaleUs: number | null;
  /** Time in which a picture comes to memory, µs. */
  readonly readBackUs: number;
  /** Time of the engine for a frame of the clip, µs. */
  readonly frameUs: number;
  /** Frames that lie in the decoder before the first comes out. */
  readonly heldBack: number;
  readonly pictures: FramesBeforehand;
  readonly clipName?: string | undefined;
}

/**
 * A made-up accelerator's decoder for one stream: it gives pictures that were truly decoded before at the times of
 * its model, in display order, and takes next to no processor time for it.
 */
export class StandInDecoder implements VideoDecoder {
  readonly name: string;
  readonly threads = 0;
  readonly threadKind = 'none';
  readonly refusals: Refusals;
  given = 0;
  onDevice = 0;
  scaled = 0;
  private readonly waiting: { readonly frame: number; readonly doneAt: number }[] = [];
  private ended = false;
  private hasBegun = false;

  constructor(private readonly stream: StandInStream) {
    this.name = `${stream.device.name} (simulated)`;
    this.refusals = new Refusals(this.name, stream.clipName);
  }

  send(packet: Packet | null): Promise<boolean> {
    if (packet === null) this.ended = true;
    else {
      const { device, units, frameUs } = this.stream;
      const doneAt = units.decode.admit(frameUs + (this.hasBegun ? 0 : device.startUs));
      this.hasBegun = true;
      this.ended = false;
      this.waiting.push({ frame: Number(packet.pts), doneAt });
    }
    return Promise.resolve(true);
  }

  async receive(): Promise<Frame | null> {
    const { units, heldBack, pictures, scaleUs, readBackUs } = this.stream;
    while (this.waiting.length > (this.ended ? 0 : heldBack)) {
      const next = this.waiting.reduce((first, one) => (one.frame < first.frame ? one : first));
      this.waiting.splice(this.waiting.indexOf(next), 1);
      // Asked for once it is decoded, as a player asks for it: one picture after the other.
      await units.decode.until(next.doneAt);
      const scaledAt = scaleUs === null ? next.doneAt : units.scale.admit(scaleUs, next.doneAt);
      await units.readBack.until(units.readBack.admit(readBackUs, scaledAt));
      const picture = pictures.pictureOf(next.frame);
      if (picture === null) {
        this.refusals.note(AVERROR_INVALIDDATA);
        continue;
      }
      this.given++;
      this.onDevice++;
      if (scaleUs !== null) this.scaled++;
      const frame = picture?.clone() ?? blank();
      frame.pts = BigInt(next.frame);
      return frame;
    }
    return null;
  }

  flush(): void {
    this.waiting.length = 0;
    this.ended = false;
  }

  close(): void {
    this.waiting.length = 0;
  }
}

/** What stands for a frame that is only decoded for others' sake: it has no picture, and whoever works on it fails. */
function blank(): Frame {
  const frame = new Frame();
  frame.alloc();
  return frame;
}
