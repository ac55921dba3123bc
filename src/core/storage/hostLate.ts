/** A host that is later than the model by more than this, µs, holds it back; less is its timer. */
export const hostLateUs = 2_000;

/**
 * Tells whose the missed slots of one frame-paced stream behind a stand-in are. It keeps when the stream would have been
 * free by its model alone: what a stalled host begins late, gives late or has to give up is the host's where the model
 * would have been in time, and what a stall makes late behind it is the host's as well. All times are µs of one clock.
 */
export class HostLateness {
  private modelFreeUs = -Infinity;
  private lastUs = 0;

  /**
   * A request that was made.
   * @param earliestUs from when it could be asked; @param modelUs when the model answers a request that begins at `begunUs`
   * @returns whether the model would have been in time and the host was not
   */
  answered(
    earliestUs: number,
    { begunUs, modelUs, endUs, dueUs }: { begunUs: number; modelUs: number; endUs: number; dueUs: number },
  ): boolean {
    const lateUs = begunUs - Math.max(earliestUs, this.modelFreeUs);
    this.lastUs = modelUs - begunUs;
    this.modelFreeUs = lateUs > hostLateUs ? modelUs - lateUs : modelUs;
    return endUs > dueUs && this.modelFreeUs <= dueUs;
  }

  /**
   * A request that was given up, since its slot had passed before it could begin: the model is taken to need what it
   * needed for the one before.
   */
  givenUp(earliestUs: number, dueUs: number): boolean {
    const modelUs = Math.max(earliestUs, this.modelFreeUs) + this.lastUs;
    if (modelUs > dueUs) return false;
    this.modelFreeUs = modelUs;
    return true;
  }
}

/** A stand-in goes on as if its host had been in time, for so long at most, µs: behind a host that is slower than its model for longer it is the host's rate that is told. */
export const mostOwedUs = 250_000;

/**
 * By how much a request that follows at once counts as asked for earlier: as much as the one before it was answered late
 * by the host, not by the model. Else every slow moment of the host would cost a stand-in rate, although the host
 * carries more on the whole. Below zero where the host was early, as it may be by less than it can wait: a model that
 * is asked again too early each time would carry more than it does.
 * @param endUs when its bytes were there @param modelUs when the model would have had them; on one clock
 */
export function owedUs(endUs: number, modelUs: number): number {
  return modelUs === -Infinity ? 0 : Math.min(mostOwedUs, endUs - modelUs);
}
