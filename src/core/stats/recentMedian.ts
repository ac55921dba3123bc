/**
 * The median of the last few values. A single stall does not move it, so a
 * player that plans with it does not throw frames away after one hiccup.
 */
export class RecentMedian {
  private readonly ring: Float64Array;
  private readonly sorted: Float64Array;
  private count = 0;
  private next = 0;

  /** @param size how many values are remembered; odd, so that the middle is a measured one */
  constructor(size = 9) {
    if (!Number.isInteger(size) || size < 1) throw new RangeError(`RecentMedian needs a size of 1 or more, got ${size}`);
    this.ring = new Float64Array(size);
    this.sorted = new Float64Array(size);
  }

  /** Adds a value, replacing the oldest when full. */
  add(value: number): void {
    const { ring, sorted } = this;
    if (this.count === ring.length) this.remove(ring[this.next] as number);
    ring[this.next] = value;
    this.next = (this.next + 1) % ring.length;
    let at = this.count;
    while (at > 0 && (sorted[at - 1] as number) > value) {
      sorted[at] = sorted[at - 1] as number;
      at--;
    }
    sorted[at] = value;
    this.count++;
  }

  /** The lower median of what is remembered; 0 before the first value. */
  get value(): number {
    return this.count === 0 ? 0 : (this.sorted[(this.count - 1) >> 1] as number);
  }

  private remove(value: number): void {
    const { sorted } = this;
    let at = 0;
    while (sorted[at] !== value) at++;
    this.count--;
    for (; at < this.count; at++) sorted[at] = sorted[at + 1] as number;
  }
}
