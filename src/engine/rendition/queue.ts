/** A bounded queue between two stages: the faster one waits. */
export class StageQueue<Item> {
  private readonly items: Item[] = [];
  private wake: (() => void)[] = [];
  private hasEnded = false;
  private sayEnded: () => void = () => undefined;
  /** Resolves when no more will come. */
  readonly ended = new Promise<void>((resolve) => {
    this.sayEnded = resolve;
  });

  constructor(private readonly room: number) {}

  get isEnded(): boolean {
    return this.hasEnded;
  }

  async put(item: Item): Promise<void> {
    while (this.items.length >= this.room && !this.hasEnded) await this.change();
    this.items.push(item);
    this.tell();
  }

  /** The next item, or null when no more will come. */
  async take(): Promise<Item | null> {
    while (this.items.length === 0 && !this.hasEnded) await this.change();
    const item = this.items.shift() ?? null;
    this.tell();
    return item;
  }

  end(): void {
    this.hasEnded = true;
    this.sayEnded();
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
