/** A bounded queue between two stages: the faster one waits. */
export class StageQueue<Item> {
  private readonly items: Item[] = [];
  private ended = false;
  private wake: (() => void)[] = [];

  constructor(private readonly room: number) {}

  async put(item: Item): Promise<void> {
    while (this.items.length >= this.room && !this.ended) await this.change();
    this.items.push(item);
    this.tell();
  }

  /** The next item, or null when no more will come. */
  async take(): Promise<Item | null> {
    while (this.items.length === 0 && !this.ended) await this.change();
    const item = this.items.shift() ?? null;
    this.tell();
    return item;
  }

  end(): void {
    this.ended = true;
    this.tell();
  }

  private change(): Promise<void> {
    return new Promise((resolve) => {
      this.wake.push(resolve);
    });
  }

  private tell(): void {
    for (const wake of this.wake.splice(0)) wake();
  }
}
