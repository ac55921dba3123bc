/** A key that waits longer than this was meant for something the person has given up on. */
const goodForMs = 15_000;

/**
 * Keys pressed while a page comes up. As long as some part of the page is still
 * to come (its script, the page of an address just asked for, the data that a
 * chart is drawn from), a key that no command takes is kept; once the page is
 * whole, the kept keys are run in the order they were pressed.
 */
export class HeldKeys {
  private keys: { readonly key: string; readonly atMs: number }[] = [];
  private readonly missing = new Set<unknown>();

  /** @param run runs the command of a key, if there is one @param nowMs a monotonic clock @param later calls back once what is being drawn is drawn */
  constructor(
    private readonly run: (key: string) => void,
    private readonly nowMs: () => number,
    private readonly later: (call: () => void) => void,
  ) {}

  /** A part of the page is still to come. */
  begin(part: unknown): void {
    this.missing.add(part);
  }

  /** A part has come; with the last one the kept keys are run. */
  end(part: unknown): void {
    if (this.missing.delete(part) && this.missing.size === 0) this.later(() => this.runKept());
  }

  /** Another page is asked for: keys that nobody took were meant for the one before. */
  leave(part: unknown): void {
    this.keys = [];
    this.begin(part);
  }

  /** True while the page is whole and kept keys have not run yet: what is pressed now must not overtake them. */
  get areDue(): boolean {
    return this.missing.size === 0 && this.keys.length > 0;
  }

  /** Lets a key run behind those that are due. */
  follow(key: string): void {
    this.keys.push({ key, atMs: this.nowMs() });
  }

  /** Keeps a key that no command took, if the page is still coming up. @param atMs when it was pressed */
  hold(key: string, atMs = this.nowMs()): void {
    if (this.missing.size > 0) this.keys.push({ key, atMs });
  }

  private runKept(): void {
    const due = this.keys;
    this.keys = [];
    for (const held of due) {
      if (this.missing.size > 0) this.keys.push(held); // the key before it leads to another page
      else if (this.nowMs() - held.atMs <= goodForMs) this.run(held.key);
    }
  }
}
