import type { Frame } from 'node-av/lib';
import type { VideoDecoder } from './decoder';
import { isConcealed, type FaultLog } from './faultLog';

/**
 * Watches what a decoder makes of the frames that it is handed, and notes those that do not come and those that come concealed:
 * wanted or not, since others are built on them. Frames come in the order of their numbers, or as handed over where they stand alone.
 */
export class LossWatch {
  /** Frames that were handed over and did not come yet, with their places in the order in which they come. */
  private readonly awaited = new Map<number, number>();
  private handed = 0;
  /** The frame that the decoder began at; what comes before it refers to what was never handed over. */
  private first = -1;
  private hasBegunAnew = false;

  constructor(
    private readonly faults: FaultLog,
    private readonly intra: boolean,
  ) {}

  sent(frame: number): void {
    if (this.first < 0) this.first = frame;
    this.awaited.set(frame, this.intra ? this.handed++ : frame);
  }

  came(frame: Frame, decoder: Pick<VideoDecoder, 'refusals'>): void {
    const number = Number(frame.pts);
    const place = this.awaited.get(number);
    this.awaited.delete(number);
    if (isConcealed(frame) && this.isWhole(number)) this.faults.note(number, 'concealed');
    if (place === undefined) return;
    for (const [other, at] of this.awaited) if (at < place) this.noteLost(other, decoder);
  }

  /** True for a frame that was handed over and may still come. */
  isAwaited(frame: number): boolean {
    return this.awaited.has(frame);
  }

  /** Nothing more comes of what was handed over. */
  ended(decoder: Pick<VideoDecoder, 'refusals'>): void {
    for (const frame of this.awaited.keys()) this.noteLost(frame, decoder);
  }

  /** The decoder forgets what it holds and begins anew. */
  beganAnew(): void {
    this.awaited.clear();
    this.first = -1;
    this.hasBegunAnew = true;
  }

  private isWhole(frame: number): boolean {
    return this.intra || frame >= this.first;
  }

  /** Without a word of the decoder's, only a frame that was come to from the first on is known to be the clip's fault. */
  private noteLost(frame: number, decoder: Pick<VideoDecoder, 'refusals'>): void {
    this.awaited.delete(frame);
    const reason = decoder.refusals.take() ?? (this.hasBegunAnew ? null : 'no-picture');
    if (reason !== null && this.isWhole(frame)) this.faults.note(frame, reason);
  }
}
