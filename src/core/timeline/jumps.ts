import { quantiles } from '../stats/quantiles';

/** A jump of a viewer's playhead, from the key or pointer to the picture on the page. Times in ms. */
export interface Jump {
  readonly slot: number;
  readonly latencyMs: number;
  readonly readMs: number;
  readonly decodeMs: number;
  readonly processMs: number;
  /** Nothing was read: every frame had been decoded before. */
  readonly kept: boolean;
}

/** Jumps that a viewer remembers. */
export const mostJumps = 200;

/** What jumps took; of none null. Those that were kept count: that a viewer keeps frames is a part of how it feels. */
export function jumpFigures(jumps: readonly Jump[]): {
  readonly medianMs: number;
  readonly p95Ms: number;
  readonly worstMs: number;
  readonly kept: number;
} | null {
  if (jumps.length === 0) return null;
  const [medianMs, p95Ms, worstMs] = quantiles(
    jumps.map(({ latencyMs }) => latencyMs),
    [0.5, 0.95, 1],
  ) as [number, number, number];
  return { medianMs, p95Ms, worstMs, kept: jumps.filter(({ kept }) => kept).length };
}

/** Joins jumps that are asked for to the pictures that answer them. */
export class JumpWatch {
  private readonly asked = new Map<number, number>();
  private last = 0;
  /** Jumps whose place another took before their picture came. */
  overtaken = 0;

  /** @param nowMs of any clock that runs on @returns the jump's number, from 1 */
  begin(nowMs: number): number {
    this.asked.set(++this.last, nowMs);
    return this.last;
  }

  /** A picture has come. @returns ms since its jump; null where none waits for it */
  shown(jump: number, nowMs: number): number | null {
    const begun = this.asked.get(jump);
    if (begun === undefined) return null;
    for (const number of this.asked.keys()) {
      if (number > jump) continue;
      this.asked.delete(number);
      if (number < jump) this.overtaken++;
    }
    return nowMs - begun;
  }

  /** Forgets what waits and what was counted; numbers go on. */
  clear(): void {
    this.asked.clear();
    this.overtaken = 0;
  }
}
