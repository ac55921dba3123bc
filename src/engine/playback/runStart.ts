/** t0 of a run, one for all that works in its process. Threads are told it when it is known. */
export class RunStart {
  /** On the monotonic clock, µs; NaN during the read-ahead. */
  us = Number.NaN;

  get isKnown(): boolean {
    return !Number.isNaN(this.us);
  }
}
