/** The mean of the last few values, those not there yet counting as 0. */
export class RecentMean {
  private readonly ring: Float64Array;
  private next = 0;
  private sum = 0;

  /** @param size how many values are remembered */
  constructor(size: number) {
    if (!Number.isInteger(size) || size < 1)
      throw new RangeError(`RecentMean needs a size of 1 or more, got ${size}`);
    this.ring = new Float64Array(size);
  }

  /** Adds a value, replacing the oldest. */
  add(value: number): void {
    this.sum += value - (this.ring[this.next] as number);
    this.ring[this.next] = value;
    this.next = (this.next + 1) % this.ring.length;
  }

  get value(): number {
    return this.sum / this.ring.length;
  }
}
