import type { RunFaults } from '@/core/media/faults';
import type {
  FromTrial,
  LiveCounters,
  RunConditions,
  RunFindings,
  ToTrial,
  TrialSpec,
} from '@/engine/playback/spec';
import { WatchedProcess, type BadEnd } from './watchedProcess';

/** How a trial process ended. */
export type TrialEnd =
  | {
      readonly kind: 'done';
      readonly cpuUs: number;
      readonly wallUs: number;
      readonly peakMemoryBytes: number;
    }
  | BadEnd;

export interface TrialListener {
  onPrepared(conditions: RunConditions, slotCount: number): void;
  /** What was met of frames that are not whole. */
  onFaults(faults: RunFaults): void;
  /** What was measured after the run. */
  onFindings(findings: RunFindings): void;
  onBatch(batch: { from: number; count: number; data: Uint8Array }): void;
  onCounters(counters: LiveCounters): void;
  onPicture(frame: number, jpeg: Uint8Array): void;
}

/** A playback trial's process under watch. */
export class TrialHost extends WatchedProcess<FromTrial, ToTrial, TrialEnd> {
  private settled = -1;

  constructor(
    trialPath: string,
    spec: TrialSpec,
    private readonly listener: TrialListener,
    watchdogMs: number,
  ) {
    super(trialPath, watchdogMs, 'frame');
    this.send({ type: 'start', spec });
  }

  setViewers(count: number): void {
    this.send({ type: 'viewers', count });
  }

  protected askToCancel(): ToTrial {
    return { type: 'cancel' };
  }

  protected onMessage(message: FromTrial): void {
    switch (message.type) {
      case 'prepared':
        this.progressed();
        this.listener.onPrepared(message.conditions, message.slotCount);
        break;
      case 'faults':
        this.listener.onFaults(message.faults);
        break;
      case 'findings':
        this.progressed();
        this.listener.onFindings(message.findings);
        break;
      case 'batch':
        this.progressed();
        this.listener.onBatch(message);
        break;
      case 'counters':
        if (message.counters.settled !== this.settled) this.progressed();
        this.settled = message.counters.settled;
        this.listener.onCounters(message.counters);
        break;
      case 'picture':
        this.listener.onPicture(message.frame, message.jpeg);
        break;
      case 'failed':
        this.end = { kind: 'failed', message: message.message, detail: message.detail };
        break;
      case 'finished':
        this.end = message.cancelled
          ? { kind: 'cancelled' }
          : {
              kind: 'done',
              cpuUs: message.cpuUs,
              wallUs: message.wallUs,
              peakMemoryBytes: message.peakMemoryBytes,
            };
        break;
    }
  }
}
