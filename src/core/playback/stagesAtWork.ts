import type { SlotRows } from './backlog';

/** A stage and the work that it has in hand; `endUs` is Infinity while it has none. */
export class StageAtWork {
  rows: SlotRows | null = null;
  startUs = 0;
  endUs = Infinity;

  begin(rows: SlotRows, startUs: number, endUs: number): void {
    this.rows = rows;
    this.startUs = startUs;
    this.endUs = endUs;
  }

  /** Ends the work in hand; returns it. */
  end(): SlotRows {
    const { rows } = this;
    this.rows = null;
    this.endUs = Infinity;
    return rows as SlotRows;
  }
}

/** What is taken for no time, µs. */
export const epsilonUs = 1e-6;

/** The decoder: how much it has worked, and what of the work in hand is left. It is held up where a frame finds no room. */
export class DecoderAtWork {
  rows: SlotRows | null = null;
  beganAt = 0;
  heldUpUs = 0;
  /** Work done so far, up to `since`, and work left of what is in hand; µs. */
  worked = 0;
  workLeft = 0;
  since = 0;
  isRunning = false;
  isHeldUp = false;
  /** Until when it is held up, where that was measured; Infinity: until there is room. */
  heldUntil = Infinity;

  begin(rows: SlotRows, nowUs: number, workUs: number): void {
    this.rows = rows;
    this.beganAt = nowUs;
    this.heldUpUs = 0;
    this.run(nowUs, workUs);
  }

  run(nowUs: number, workUs: number): void {
    this.workLeft = workUs;
    this.since = nowUs;
    this.isRunning = true;
  }

  rest(): void {
    this.isRunning = false;
    this.workLeft = 0;
  }

  timeAt(workUs: number): number {
    return this.since + workUs;
  }

  advance(nowUs: number): void {
    if (!this.isRunning) return;
    const passed = nowUs - this.since;
    this.worked += passed;
    this.workLeft -= passed;
    this.since = nowUs;
  }

  holdUp(nowUs: number, untilUs = Infinity): void {
    if (!this.isHeldUp) this.since = nowUs;
    this.heldUntil = untilUs;
    this.isHeldUp = true;
    this.isRunning = false;
  }

  goOn(nowUs: number): void {
    if (!this.isHeldUp) return;
    this.heldUpUs += nowUs - this.since;
    // The end of the work was measured too: it does not move.
    if (this.heldUntil < Infinity) this.workLeft = Math.max(0, this.workLeft - (nowUs - this.since));
    this.since = nowUs;
    this.isHeldUp = false;
    this.isRunning = this.rows !== null || this.workLeft === Infinity;
  }
}

/** A first-in-first-out list that keeps no hole for what left. */
export class Line<Item> {
  private items: Item[] = [];
  private first = 0;
  get length(): number {
    return this.items.length - this.first;
  }
  get head(): Item | undefined {
    return this.items[this.first];
  }
  get last(): Item {
    return this.items[this.items.length - 1] as Item;
  }
  push(item: Item): void {
    this.items.push(item);
  }
  shift(): Item {
    const item = this.items[this.first++] as Item;
    if (this.first > 64 && this.first * 2 > this.items.length) {
      this.items = this.items.slice(this.first);
      this.first = 0;
    }
    return item;
  }
}

/** Services of units, where a stage works on parts of several at once. */
export class UnitServices {
  private readonly time: Float64Array;
  /** How much of each unit was worked on: bytes or weight. */
  readonly amount: Float64Array;

  constructor(
    private readonly full: Float64Array,
    private readonly by: 'bytes' | 'weight',
  ) {
    this.time = new Float64Array(full.length).fill(Number.NaN);
    this.amount = new Float64Array(full.length);
  }

  /** Adds a piece of work that took `tookUs`, shared among the units that have a part in it. */
  add({ slot, parts }: SlotRows, tookUs: number): void {
    if (parts === null) {
      this.put(slot, tookUs, this.full[slot] as number);
      return;
    }
    let total = 0;
    for (const part of parts) total += part[this.by];
    if (!(total > 0)) this.put(slot, tookUs, 0);
    else for (const part of parts) this.put(part.unit, (tookUs * part[this.by]) / total, part[this.by]);
  }

  private put(unit: number, time: number, amount: number): void {
    const before = this.time[unit] as number;
    this.time[unit] = (Number.isNaN(before) ? 0 : before) + time;
    this.amount[unit] = (this.amount[unit] as number) + amount;
  }

  /** Time of each whole unit. */
  whole(): Float64Array {
    return this.time.map((time, unit) => {
      const amount = this.amount[unit] as number;
      return amount > 0 ? (time / amount) * (this.full[unit] as number) : time;
    });
  }
}
