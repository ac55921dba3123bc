/** When a buffer of a given depth had room for what came next, by when things left it. First in, first out. */
export class RoomTimes {
  private readonly leaves: Float64Array;
  private entered = 0;
  private left = 0;

  constructor(depth: number) {
    this.leaves = new Float64Array(depth);
  }

  /** Notes that something came in. */
  enter(): void {
    this.entered++;
  }

  /** Notes when the next thing left. */
  leave(time: number): void {
    this.leaves[this.left++ % this.leaves.length] = time;
  }

  /** Since when there is room for the next; -Infinity where there always was. */
  get since(): number {
    const { entered, leaves } = this;
    return entered < leaves.length
      ? -Infinity
      : (leaves[(entered - leaves.length) % leaves.length] as number);
  }
}
