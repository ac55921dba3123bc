import { median } from '@/core/stats/quantiles';
import type { Pulse } from '@/engine/pulse/pulse';
import type { MeasuredPulse } from './measuredPulse';

/** Pulses before runs that serve as a reference: the last ones, of this long at most. A moment's luck before one run is no reference. */
const mostKept = 5;
const keptMs = 30 * 60_000;

/** What a run's pulse is measured against: the pulse before it and before the last few runs. */
export class PulseReference {
  private kept: { readonly us: number; readonly atMs: number }[] = [];

  constructor(
    private readonly pulse: Pick<Pulse, 'before' | 'beat' | 'rest' | 'take'> | null,
    private readonly nowMs: () => number = Date.now,
  ) {}

  /** Takes the pulse before a run. @param bestUs the rig's best so far @returns null where there is none */
  async before(bestUs: number | null): Promise<MeasuredPulse | null> {
    if (!this.pulse) return null;
    const us = await this.pulse.before();
    if (us !== null)
      this.kept = [...this.kept, { us, atMs: this.nowMs() }]
        .filter(({ atMs }) => this.nowMs() - atMs < keptMs)
        .slice(-mostKept);
    return {
      source: this.pulse,
      referenceUs: this.kept.length === 0 ? null : median(this.kept.map((one) => one.us)),
      bestUs,
    };
  }
}
