import { percent, quantity } from '../format';
import { quantiles } from '../stats/quantiles';
import { causesOf } from './attribute';
import type { Stage } from './slots';
import { slotState } from './slots';
import type { Trace } from './trace';

/** A slot with the stage its drop is or should be charged to. Joint charges are joined by "+". */
export interface ChargedSlot {
  readonly slot: number;
  readonly cause: string;
}

export interface SelfCheckVerdict {
  readonly trusted: boolean;
  /** Why not, in sentences; empty when trusted. */
  readonly reasons: readonly string[];
  readonly expected: readonly ChargedSlot[];
  readonly found: readonly ChargedSlot[];
  /** Error of the presenter's timer: when it woke against when it should. */
  readonly jitterMs: {
    readonly p50: number;
    readonly p95: number;
    readonly p99: number;
    readonly max: number;
  };
}

/** The timer error beyond which pacing figures say more about the rig's timer than about playback, in ms (p99). */
const greatestTrustedJitterMs = 5;

/**
 * Compares what an analysis found in a run with injected faults against what
 * was injected. Trusted means: the same slots, the same causes, nothing else
 * dropped, and a timer that wakes in time.
 */
export function judgeSelfCheck(
  trace: Trace,
  charges: Uint8Array,
  expected: ReadonlyMap<number, Stage>,
  slotUs: number,
  agreement: number,
): SelfCheckVerdict {
  const found: ChargedSlot[] = [];
  for (let slot = 0; slot < trace.length; slot++) {
    if (trace.state[slot] === slotState.dropped)
      found.push({ slot, cause: causesOf(charges[slot] as number).join('+') });
  }
  const jitter = trace.wokeAt.map((woke, slot) => Math.max(0, woke - slot * slotUs) / 1000);
  const [p50, p95, p99, max] = quantiles(jitter, [0.5, 0.95, 0.99, 1]) as [number, number, number, number];
  const reasons: string[] = [];
  const missed = [...expected.keys()].filter((slot) => !found.some((drop) => drop.slot === slot));
  const extra = found.filter(({ slot }) => !expected.has(slot));
  const misjudged = found.filter(({ slot, cause }) => expected.has(slot) && expected.get(slot) !== cause);
  if (missed.length > 0) reasons.push(`${missed.length} of ${expected.size} injected drops were not seen.`);
  if (extra.length > 0)
    reasons.push(
      `${extra.length} ${extra.length === 1 ? 'slot' : 'slots'} dropped that no fault explains: the rig was disturbed or is too slow for this clip.`,
    );
  if (misjudged.length > 0)
    reasons.push(
      `${misjudged.length} ${misjudged.length === 1 ? 'drop was' : 'drops were'} charged to the wrong stage.`,
    );
  if (agreement < 0.99)
    reasons.push(`The replay agrees with the run for ${percent(agreement)} of slots only.`);
  if (!(p99 <= greatestTrustedJitterMs))
    reasons.push(
      `The timer woke up to ${quantity(p99, 'ms', 1)} late (p99); pacing below that cannot be told.`,
    );
  return {
    trusted: reasons.length === 0,
    reasons,
    found,
    jitterMs: { p50, p95, p99, max },
    expected: [...expected].map(([slot, cause]) => ({ slot, cause })),
  };
}
