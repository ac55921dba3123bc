/** Tells by how much counters have grown since they were looked at last; of the first look nothing counts. */
export class Grown {
  private last: ReadonlyMap<number, number> | null = null;

  /** @param beginAtZero a counter that is new, as that of a thread that began since, began at 0 */
  constructor(private readonly beginAtZero: boolean) {}

  by(counters: ReadonlyMap<number, number>): number {
    const { last } = this;
    this.last = counters;
    if (!last) return 0;
    let sum = 0;
    for (const [key, value] of counters)
      sum += Math.max(0, value - (last.get(key) ?? (this.beginAtZero ? 0 : value)));
    return sum;
  }
}
