import type { RunStart } from './runStart';
import { hostClock, type Clock } from '../clock';
import type { InjectedFault } from '@/core/playback/injectedFault';

/** How long past the last missed deadline a held stage goes on, in µs: long enough to be surely past, short against a slot. */
const pastDeadlineUs = 1_500;

/** Slots that the faults make miss, with the stage to blame: what a sound analysis must find. */
export function expectedDrops(faults: readonly InjectedFault[]): Map<number, InjectedFault['stage']> {
  const expected = new Map<number, InjectedFault['stage']>();
  for (const { stage, slot, slots } of faults) {
    for (let missed = slot; missed < slot + slots; missed++) expected.set(missed, stage);
  }
  return expected;
}

/** The engine's injection point, used by the self-check and by tests. */
export class FaultInjector {
  /** True while a stage is being held. */
  isHolding = false;

  constructor(
    private readonly faults: readonly InjectedFault[],
    private readonly slotUs: number,
    private readonly start: RunStart,
    private readonly clock: Clock = hostClock,
  ) {}

  /** Waits out the fault of this stage and slot, if there is one. */
  async hold(stage: InjectedFault['stage'], slot: number): Promise<void> {
    const fault = this.faults.find((candidate) => candidate.stage === stage && candidate.slot === slot);
    if (!fault) return;
    this.isHolding = true;
    await this.waitOut(fault, slot);
    this.isHolding = false;
  }

  private async waitOut(fault: InjectedFault, slot: number): Promise<void> {
    for (;;) {
      if (this.start.isKnown) {
        const until = this.start.us + (slot + fault.slots) * this.slotUs + pastDeadlineUs;
        const left = until - this.clock.now();
        if (left <= 0) return;
        await this.clock.sleep(left);
      } else await this.clock.sleep(2_000);
    }
  }
}
