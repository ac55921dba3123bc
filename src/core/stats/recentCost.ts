/** A piece of work that took so many times the mean of the others is a stall. */
const stall = 3;
/** Against the mean with itself; a piece below it cannot be a stall. */
const maybeStall = 1.2;
/** Stalls that are left out at most. */
const mostLeftOut = 2;

/**
 * What a unit of something takes, by the last few pieces of work: time over amount, without stalls, so
 * that a player that plans with it does not throw frames away after a hiccup. Time without an amount
 * counts with the next piece.
 */
export class RecentCost {
  private readonly times: Float64Array;
  private readonly amounts: Float64Array;
  private count = 0;
  private next = 0;
  private besides = 0;
  private time = 0;
  private amount = 0;
  /** Pieces to come until none that looked like a stall is remembered any more. */
  private suspects = 0;
  /** Time per amount without stalls, as of the last piece; NaN until it is asked for. */
  private known = Number.NaN;

  /** @param size how many pieces are remembered */
  constructor(size = 9) {
    if (!Number.isInteger(size) || size < 1)
      throw new RangeError(`RecentCost needs a size of 1 or more, got ${size}`);
    this.times = new Float64Array(size);
    this.amounts = new Float64Array(size);
  }

  /** Adds a piece of work, replacing the oldest when full. */
  add(time: number, amount: number): void {
    if (!(amount > 0)) {
      this.besides += time;
      return;
    }
    this.known = Number.NaN;
    const { times, amounts, next } = this;
    this.time += time + this.besides - (times[next] as number);
    this.amount += amount - (amounts[next] as number);
    times[next] = time + this.besides;
    amounts[next] = amount;
    this.besides = 0;
    this.next = (next + 1) % times.length;
    this.count = Math.min(times.length, this.count + 1);
    // While few are known, one may turn out to have been a stall.
    const maybe = this.count < times.length || times[next] * this.amount > maybeStall * this.time * amount;
    this.suspects = maybe ? times.length : this.suspects - 1;
  }

  get isEmpty(): boolean {
    return this.count === 0;
  }

  /** Time per amount; 0 before the first piece. */
  get perUnit(): number {
    if (Number.isNaN(this.known))
      this.known = this.suspects > 0 ? this.withoutStalls() : this.amount > 0 ? this.time / this.amount : 0;
    return this.known;
  }

  private withoutStalls(): number {
    const { times, amounts, count } = this;
    let [time, amount] = [0, 0];
    for (let at = 0; at < count; at++) {
      time += times[at] as number;
      amount += amounts[at] as number;
    }
    let [before, found] = [-1, -1];
    for (let left = 0; left < mostLeftOut && count - left > 1; left++) {
      // The slowest for what it is: compared by time over amount, without dividing.
      found = -1;
      for (let at = 0; at < count; at++) {
        if (
          at !== before &&
          (found < 0 ||
            (times[at] as number) * (amounts[found] as number) >
              (times[found] as number) * (amounts[at] as number))
        )
          found = at;
      }
      const [own, share] = [times[found] as number, amounts[found] as number];
      if (own * (amount - share) <= stall * (time - own) * share) break;
      time -= own;
      amount -= share;
      before = found;
    }
    return amount > 0 ? time / amount : 0;
  }
}
