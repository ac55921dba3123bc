import type { Frame } from 'node-av/lib';

/** A frame in its place; repeated: of the source's own frame there the decoder made no picture. */
export interface FilledFrame {
  readonly frame: Frame;
  readonly isRepeated: boolean;
}

/**
 * Fills the places of frames that a decoder leaves out with the frame before, or after where there is none:
 * frames come in the order of their times, so a time that is passed will not come any more.
 */
export class FrameGaps {
  private readonly waiting = new Set<bigint>();
  private last: Frame | null = null;
  /** False once a frame came with a time that no packet had: times then tell nothing. */
  private isTold = true;

  /** A packet with this time was handed over. */
  sent(time: bigint): void {
    if (this.isTold) this.waiting.add(time);
  }

  /** A frame came: it and what is missing before it, in order. Whoever takes them frees them. */
  came(frame: Frame): FilledFrame[] {
    this.isTold &&= this.waiting.delete(frame.pts);
    if (!this.isTold) this.waiting.clear();
    const filled = this.fill(
      [...this.waiting].filter((time) => time < frame.pts),
      this.last ?? frame,
    );
    this.last?.free();
    this.last = frame.clone();
    return [...filled, { frame, isRepeated: false }];
  }

  /** What is missing at the end. */
  rest(): FilledFrame[] {
    const filled = this.last ? this.fill([...this.waiting], this.last) : [];
    this.last?.free();
    this.last = null;
    return filled;
  }

  private fill(times: bigint[], by: Frame): FilledFrame[] {
    return times
      .sort((a, b) => Number(a - b))
      .flatMap((time) => {
        this.waiting.delete(time);
        const frame = by.clone();
        if (!frame) return [];
        frame.pts = frame.bestEffortTimestamp = time;
        return [{ frame, isRepeated: true }];
      });
  }
}
