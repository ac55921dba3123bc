/**
 * A first-in-first-out queue between two stages. The producer waits for room
 * before it works, so that nothing is made that has no place.
 */
export class BoundedQueue<Item> {
  private readonly items: Item[] = [];
  private waitingForItem: (() => void) | null = null;
  private waitingForRoom: (() => void) | null = null;
  private closed = false;

  constructor(readonly capacity: number) {}

  get depth(): number {
    return this.items.length;
  }
  get isFull(): boolean {
    return this.items.length >= this.capacity;
  }
  get isClosed(): boolean {
    return this.closed;
  }

  /** Resolves when there is room or the queue is closed. One waiter. */
  async room(): Promise<void> {
    while (this.isFull && !this.closed)
      await new Promise<void>((resolve) => {
        this.waitingForRoom = resolve;
      });
  }

  push(item: Item): void {
    this.items.push(item);
    const wake = this.waitingForItem;
    this.waitingForItem = null;
    wake?.();
  }

  /** Resolves to the oldest item, or null when the queue is closed and empty. One waiter. */
  async take(): Promise<Item | null> {
    while (this.items.length === 0) {
      if (this.closed) return null;
      await new Promise<void>((resolve) => {
        this.waitingForItem = resolve;
      });
    }
    const item = this.items.shift() as Item;
    const wake = this.waitingForRoom;
    this.waitingForRoom = null;
    wake?.();
    return item;
  }

  /** No more items will come; waiters wake. */
  close(): void {
    this.closed = true;
    this.waitingForItem?.();
    this.waitingForRoom?.();
    this.waitingForItem = this.waitingForRoom = null;
  }
}
