/**
 * A stage's share of the processor: decoding and processing both take all of it, so while both are at
 * work each is taken to have half. The sum of their shares is the time that the two together took.
 */
export class SharedTime {
  private doneUs = 0;
  private beganAt: number | null = null;
  private othersThen = 0;

  begin(nowUs: number, other: SharedTime): void {
    this.beganAt ??= nowUs;
    this.othersThen = other.busyUntil(nowUs);
  }

  /** Ends a piece of work that took `tookUs`; returns its share. */
  end(endUs: number, tookUs: number, other: SharedTime): number {
    const others = other.busyUntil(endUs);
    const overlap = Math.min(tookUs, Math.max(0, others - this.othersThen));
    this.othersThen = others;
    this.doneUs += tookUs;
    this.beganAt = null;
    return tookUs - overlap / 2;
  }

  sinceBegin(nowUs: number): number {
    return this.beganAt === null ? 0 : Math.max(0, nowUs - this.beganAt);
  }

  /** Time that the stage was at work up to now. */
  private busyUntil(nowUs: number): number {
    return this.doneUs + this.sinceBegin(nowUs);
  }
}
