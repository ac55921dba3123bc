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
  private count = 0;
  private trialSum = 0;
  private othersSum = 0;
  private othersPeak = 0;

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
    this.count++;
    this.trialSum += sample.trialLoad;
    this.othersSum += sample.othersLoad;
    this.othersPeak = Math.max(this.othersPeak, sample.othersLoad);
    return sample;
  }

  /** Means and peaks over all samples so far, or null without any. */
  summary(peakMemoryBytes: number | null): LoadSummary | null {
    const { count, trialSum, othersSum, othersPeak } = this;
    return count === 0 ? null : { trialMean: trialSum / count, othersMean: othersSum / count, othersPeak, peakMemoryBytes };
  }
}
