/** Before this much was seen a spread would be made up. */
const leastSeenMs = 1_500;
/** Stretches of a rate that say something of their own, and how many of them are remembered, ms. */
const apartMs = 1_000;
const mostSeenMs = 10_000;

/**
 * Estimates the time a task still needs from a filtered rate, so that the
 * figure does not jump with each report. Two exponentially weighted means with
 * different memories are kept; the slower rate of the two is used, because a
 * promise too early is worse than one too late.
 */
export class TimeLeftEstimator {
  private readonly fast: WeightedRate;
  private readonly slow: WeightedRate;
  private readonly squares: WeightedRate;
  private seenMs = 0;
  private lastDone = 0;
  private lastMs: number | null = null;

  /** @param halfLifeFastMs and halfLifeSlowMs after which an observation counts half */
  constructor(halfLifeFastMs = 2_000, halfLifeSlowMs = 8_000) {
    this.fast = new WeightedRate(halfLifeFastMs);
    this.slow = new WeightedRate(halfLifeSlowMs);
    this.squares = new WeightedRate(halfLifeSlowMs);
  }

  /** Reports that `done` units were finished at time `nowMs`. Both only grow. */
  observe(done: number, nowMs: number): void {
    if (this.lastMs !== null && nowMs > this.lastMs) {
      const spanMs = nowMs - this.lastMs;
      const rate = Math.max(0, done - this.lastDone) / spanMs;
      this.fast.add(rate, spanMs);
      this.slow.add(rate, spanMs);
      this.squares.add(rate * rate, spanMs);
      this.seenMs += spanMs;
    }
    this.lastDone = done;
    this.lastMs = nowMs;
  }

  /** Milliseconds until `total` is reached, or null while no rate is known. */
  remainingMs(total: number): number | null {
    const rate = Math.min(this.fast.value, this.slow.value);
    return rate > 0 ? Math.max(0, total - this.lastDone) / rate : null;
  }

  /**
   * How much more or less time it may well be, ms; null while that is not known. From how the rate varied and from how far
   * its short memory is from its long one: 1.645 standard errors hold nine of ten where reports are alike (normal approximation).
   */
  spreadMs(total: number): number | null {
    const left = this.remainingMs(total);
    const mean = this.slow.value;
    if (left === null || mean <= 0 || this.seenMs < leastSeenMs) return null;
    const variation = Math.sqrt(Math.max(0, this.squares.value - mean * mean)) / mean;
    const drift = Math.abs(this.fast.value - mean) / mean;
    const independent = Math.max(1, Math.min(this.seenMs, mostSeenMs) / apartMs);
    return left * ((1.645 * variation) / Math.sqrt(independent) + drift);
  }
}

/** Exponentially weighted mean with a half-life in ms; corrected for its empty start. */
class WeightedRate {
  private weighted = 0;
  private weight = 0;

  constructor(private readonly halfLifeMs: number) {}

  add(rate: number, spanMs: number): void {
    const keep = 0.5 ** (spanMs / this.halfLifeMs);
    this.weighted = this.weighted * keep + rate * (1 - keep);
    this.weight = this.weight * keep + (1 - keep);
  }

  get value(): number {
    return this.weight === 0 ? 0 : this.weighted / this.weight;
  }
}
