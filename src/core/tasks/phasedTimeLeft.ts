import { TimeLeftEstimator } from './timeLeft';

/**
 * Time left of a task whose phases alternate and run at different rates, as
 * copying and verifying do. Each phase has its own filtered rate; the figure
 * that is shown runs down with the clock and is drawn towards the estimate, so
 * that it does not jump.
 */
export class PhasedTimeLeft<Phase extends string> {
  private readonly done = new Map<Phase, number>();
  private readonly rates = new Map<Phase, TimeLeftEstimator>();
  private readonly busyMs = new Map<Phase, number>();
  private lastMs: number | null = null;
  private shownMs: number | null = null;

  /** @param totals units of each phase */
  constructor(private readonly totals: Readonly<Record<Phase, number>>) {}

  /** Reports that `units` more of a phase were finished between the last report and `nowMs`. */
  observe(phase: Phase, units: number, nowMs: number): void {
    const spanMs = this.lastMs === null ? 0 : Math.max(0, nowMs - this.lastMs);
    this.lastMs = nowMs;
    const done = (this.done.get(phase) ?? 0) + units;
    const busyMs = (this.busyMs.get(phase) ?? 0) + spanMs;
    this.done.set(phase, done);
    this.busyMs.set(phase, busyMs);
    const rate = this.rates.get(phase) ?? new TimeLeftEstimator(8_000, 30_000);
    this.rates.set(phase, rate);
    rate.observe(done, busyMs); // a phase's clock stands still while another works
    this.settle(spanMs);
  }

  /** Milliseconds left as shown, or null while no phase has a rate. */
  get remainingMs(): number | null {
    return this.shownMs;
  }

  private settle(spanMs: number): void {
    const estimate = this.estimate();
    if (estimate === null) return;
    const expected = this.shownMs === null ? estimate : Math.max(0, this.shownMs - spanMs);
    const pull = 1 - 0.5 ** (spanMs / 4_000);
    this.shownMs = this.shownMs === null ? estimate : expected + (estimate - expected) * pull;
  }

  /** A phase that has not begun is taken to run like the others. */
  private estimate(): number | null {
    let known = 0;
    let unknownUnits = 0;
    let rateSum = 0;
    let rateCount = 0;
    for (const [phase, total] of Object.entries(this.totals) as [Phase, number][]) {
      const left = total - (this.done.get(phase) ?? 0);
      const ms = left <= 0 ? 0 : (this.rates.get(phase)?.remainingMs(total) ?? null);
      if (ms === null) {
        unknownUnits += left;
        continue;
      }
      known += ms;
      if (ms > 0) {
        rateSum += left / ms;
        rateCount++;
      }
    }
    if (unknownUnits > 0) return rateCount === 0 ? null : known + unknownUnits / (rateSum / rateCount);
    return known;
  }
}
