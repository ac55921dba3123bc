/** A quantile of the last few values. */
export class RecentQuantile {
  private readonly ring: Float64Array;
  private readonly sorted: Float64Array;
  private count = 0;
  private next = 0;

  /** @param quantile 0 to 1 @param size how many values are remembered */
  constructor(
    private readonly quantile: number,
    size = 9,
  ) {
    if (!(quantile >= 0 && quantile <= 1))
      throw new RangeError(`A quantile lies between 0 and 1, got ${quantile}`);
    if (!Number.isInteger(size) || size < 1)
      throw new RangeError(`RecentQuantile needs a size of 1 or more, got ${size}`);
    this.ring = new Float64Array(size);
    this.sorted = new Float64Array(size);
  }

  /** Adds a value, replacing the oldest when full. */
  add(value: number): void {
    const { ring, sorted } = this;
    if (this.count === ring.length) this.remove(ring[this.next] as number);
    ring[this.next] = value;
    this.next = (this.next + 1) % ring.length;
    let at = this.count++;
    for (; at > 0 && (sorted[at - 1] as number) > value; at--) sorted[at] = sorted[at - 1] as number;
    sorted[at] = value;
  }

  /** The remembered value nearest to the quantile; 0 before the first. */
  get value(): number {
    return this.count === 0 ? 0 : (this.sorted[Math.round(this.quantile * (this.count - 1))] as number);
  }

  private remove(value: number): void {
    const { sorted } = this;
    let at = 0;
    while (sorted[at] !== value) at++;
    this.count--;
    for (; at < this.count; at++) sorted[at] = sorted[at + 1] as number;
  }
}
