import { freemem } from 'node:os';
import { processorTimes } from '@/engine/rig';
import type { LoadSummary } from '@/db/schema';

/** Shares of all cores, 0 to 1. */
export interface LoadSample {
  readonly trialLoad: number;
  readonly othersLoad: number;
  readonly freeMemoryBytes: number;
}

/** Tells the trial's processor load from everybody else's, between two looks. The runner's own is left out. */
export class LoadMeter {
  private last = processorTimes();
  private lastOwn = process.cpuUsage();
  private lastTrialUs = 0;
  private readonly samples: LoadSample[] = [];

  /** @param trialCpuUs processor time of the trial process so far; 0 when none runs */
  sample(trialCpuUs: number): LoadSample | null {
    const now = processorTimes();
    const own = process.cpuUsage(this.lastOwn);
    const totalMs = now.totalMs - this.last.totalMs;
    if (totalMs <= 0) return null;
    const trialMs = Math.max(0, trialCpuUs - this.lastTrialUs) / 1000;
    const othersMs = Math.max(0, now.busyMs - this.last.busyMs - trialMs - (own.user + own.system) / 1000);
    this.last = now;
    this.lastOwn = process.cpuUsage();
    this.lastTrialUs = trialCpuUs;
    const sample = { trialLoad: Math.min(1, trialMs / totalMs), othersLoad: Math.min(1, othersMs / totalMs), freeMemoryBytes: freemem() };
    this.samples.push(sample);
    return sample;
  }

  /** Means and peaks over all samples so far, or null without any. */
  summary(peakMemoryBytes: number | null): LoadSummary | null {
    const { samples } = this;
    if (samples.length === 0) return null;
    const mean = (pick: (sample: LoadSample) => number) => samples.reduce((sum, sample) => sum + pick(sample), 0) / samples.length;
    return {
      trialMean: mean((sample) => sample.trialLoad), othersMean: mean((sample) => sample.othersLoad),
      othersPeak: Math.max(...samples.map((sample) => sample.othersLoad)), peakMemoryBytes,
    };
  }
}
