import { RecentCost } from '../stats/recentCost';
import { RecentQuantile } from '../stats/recentQuantile';
import type { WorkingStage } from './slots';

/** Of what processing took lately, with what decoding took of the processor meanwhile: one that misses has cost its full work. */
const slowQuantile = 0.9;

/** What slots of a kind take. `processWall`: of the slower ones, as the clock saw it. */
export interface Costs {
  readonly read: RecentCost;
  readonly decode: RecentCost;
  readonly process: RecentCost;
  readonly processWall: RecentQuantile;
}

function newCosts(): Costs {
  return {
    read: new RecentCost(),
    decode: new RecentCost(),
    process: new RecentCost(),
    processWall: new RecentQuantile(slowQuantile),
  };
}

/** What slots of each kind took lately, and what slots of any kind did. */
export class KindCosts {
  private readonly byKind = new Map<number, Costs>();
  private readonly overall = newCosts();
  private lastKind = -1;
  private last = this.overall;

  /** @param kinds of each slot */
  constructor(private readonly kinds: Uint32Array) {}

  /** Of the slot's kind. */
  of(slot: number): Costs {
    const kind = this.kinds[slot] as number;
    if (kind === this.lastKind) return this.last;
    let costs = this.byKind.get(kind);
    if (!costs) this.byKind.set(kind, (costs = newCosts()));
    this.lastKind = kind;
    return (this.last = costs);
  }

  /** Adds what a slot took. @param amount bytes read, weight decoded, or 1 */
  add(stage: WorkingStage, slot: number, tookUs: number, amount: number): void {
    this.of(slot)[stage].add(tookUs, amount);
    this.overall[stage].add(tookUs, amount);
  }

  /** Time per amount: of the slot's kind, or of any where its own was not met yet; 0 where none was. */
  perUnit(stage: WorkingStage, slot: number): number {
    const own = this.of(slot)[stage];
    return own.isEmpty ? this.overall[stage].perUnit : own.perUnit;
  }
}
