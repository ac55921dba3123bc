import { median } from '@/core/stats/quantiles';
import type { Beat, Pulse } from '@/engine/pulse/pulse';
import type { ProcessorTimes } from '@/engine/rig';

/** The rig's pulse as a run is measured against it. */
export interface MeasuredPulse {
  readonly source: Pick<Pulse, 'beat' | 'rest' | 'take'>;
  /** Before the run and shortly before that, µs. */
  readonly referenceUs: number | null;
  /** The rig's best so far, µs. */
  readonly bestUs: number | null;
}

/** Share of the time from which a core counts as at work. */
const atWork = 0.5;

/** Takes only beats of cores that were at work where idle ones clock lower: there a slow beat tells that there was little to do. */
export class BusyCores {
  constructor(
    private last: ReadonlyMap<number, ProcessorTimes>,
    private readonly clocksFollowLoad: boolean,
  ) {}

  /** The pulse since the last look, µs, as a median; null without a beat that counts. */
  pulseOf(beats: readonly Beat[], now: ReadonlyMap<number, ProcessorTimes>): number | null {
    const { last } = this;
    this.last = now;
    const isAtWork = (core: number) => {
      const [from, to] = [last.get(core), now.get(core)];
      return (
        from !== undefined &&
        to !== undefined &&
        to.busyMs - from.busyMs >= atWork * (to.totalMs - from.totalMs)
      );
    };
    const counted = this.clocksFollowLoad ? beats.filter(({ core }) => isAtWork(core)) : beats;
    return counted.length === 0 ? null : median(counted.map(({ us }) => us));
  }
}
