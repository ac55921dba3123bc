/** Something that the policy is told: it happened at a time on the caller's clock, µs, and took some. */
export interface ToldEvent {
  readonly kind:
    | 'read'
    | 'worked'
    | 'decoded'
    | 'taken'
    | 'passed'
    | 'refused'
    | 'first processed'
    | 'processed';
  readonly at: number;
  readonly slot: number;
  readonly tookUs: number;
  /** Of reading: bytes; of decoding: weight; of processing: what is usual, µs, 0 where it is not known. */
  readonly amount: number;
}

/**
 * What was told and no decision has come to yet, in order of time: what is learned hangs on when things
 * happened, not on the order in which the caller's threads came to tell it.
 */
export class Told {
  private readonly events: ToldEvent[] = [];

  add(event: ToldEvent): void {
    const { events } = this;
    let at = events.length;
    while (at > 0 && (events[at - 1] as ToldEvent).at > event.at) at--;
    if (at === events.length) events.push(event);
    else events.splice(at, 0, event);
  }

  /** Hands on all that happened by now, in order. */
  takeUntil(nowUs: number, take: (event: ToldEvent) => void): void {
    const { events } = this;
    let count = 0;
    for (; count < events.length && (events[count] as ToldEvent).at <= nowUs; count++)
      take(events[count] as ToldEvent);
    if (count === events.length) events.length = 0;
    else if (count > 0) events.splice(0, count);
  }
}
