import { freemem } from 'node:os';
import { processDiskBytes, ProcessWatch, systemBytes } from '@/engine/activity';
import { processorTimes } from '@/engine/rig';
import type { LoadSummary } from '@/db/schema';

/** Loads in shares of all cores, 0 to 1; rates in bytes per second over all disks and network interfaces, null where the system does not tell. */
export interface LoadSample {
  readonly trialLoad: number;
  readonly othersLoad: number;
  readonly freeMemoryBytes: number;
  readonly trialDiskBytesPerSecond: number | null;
  readonly othersDiskBytesPerSecond: number | null;
  readonly networkBytesPerSecond: number | null;
}

/** Looks at single processes are dearer than at totals, and rarer. */
const samplesPerLook = 4;

/** What started this runner and with it the web server, and the database that the start script names. */
function ownRoots(): ReadonlySet<number> {
  return new Set([process.ppid, Number(process.env.NAVVY_DATABASE_PID)].filter((pid) => pid > 1));
}

class Mean {
  private sum = 0;
  private count = 0;
  add(value: number | null): void {
    if (value === null) return;
    this.sum += value;
    this.count++;
  }
  get value(): number | null { return this.count === 0 ? null : this.sum / this.count; }
}

/** Tells what a trial does to the rig from what everybody else does, between two looks. The runner's own work is left out. */
export class LoadMeter {
  private last = processorTimes();
  private lastOwn = process.cpuUsage();
  private lastTrialUs = 0;
  private lastBytes = systemBytes();
  private lastTrialDisk: number | null = null;
  private lastAt = performance.now();
  private count = 0;
  private othersPeak = 0;
  private readonly means = { trial: new Mean(), others: new Mean(), othersDisk: new Mean(), network: new Mean() };
  private readonly watch: ProcessWatch | null;
  private trialPid: number | null = null;

  /** @param byName also watches who the others are; costs a look at every process each two seconds */
  constructor(byName = true) {
    this.watch = byName ? new ProcessWatch((pid) => pid === process.pid || pid === this.trialPid, ownRoots()) : null;
  }

  /**
   * @param trialCpuUs processor time of the trial process so far; 0 when none runs
   * @param trialPid the trial process, for what it moves on disks
   */
  sample(trialCpuUs: number, trialPid: number | null = null): LoadSample | null {
    const now = processorTimes();
    const at = performance.now();
    const own = process.cpuUsage(this.lastOwn);
    const totalMs = now.totalMs - this.last.totalMs;
    if (totalMs <= 0) return null;
    this.trialPid = trialPid ?? this.trialPid;
    const trialMs = Math.max(0, trialCpuUs - this.lastTrialUs) / 1000;
    const othersMs = Math.max(0, now.busyMs - this.last.busyMs - trialMs - (own.user + own.system) / 1000);
    this.last = now;
    this.lastOwn = process.cpuUsage();
    this.lastTrialUs = trialCpuUs;
    const sample = { trialLoad: Math.min(1, trialMs / totalMs), othersLoad: Math.min(1, othersMs / totalMs), freeMemoryBytes: freemem(), ...this.rates((at - this.lastAt) / 1000, trialPid) };
    this.lastAt = at;
    this.count++;
    this.means.trial.add(sample.trialLoad);
    this.means.others.add(sample.othersLoad);
    this.means.othersDisk.add(sample.othersDiskBytesPerSecond);
    this.means.network.add(sample.networkBytesPerSecond);
    this.othersPeak = Math.max(this.othersPeak, sample.othersLoad);
    if (this.count % samplesPerLook === 0) this.watch?.look();
    return sample;
  }

  private rates(seconds: number, trialPid: number | null): Pick<LoadSample, 'trialDiskBytesPerSecond' | 'othersDiskBytesPerSecond' | 'networkBytesPerSecond'> {
    const bytes = systemBytes();
    const trialDisk = trialPid === null ? null : processDiskBytes(trialPid);
    const per = (now: number | null, before: number | null) => (now === null || before === null || seconds <= 0 ? null : Math.max(0, now - before) / seconds);
    const all = per(bytes.disk, this.lastBytes.disk);
    const own = trialDisk === null ? null : per(trialDisk, this.lastTrialDisk ?? 0);
    const rates = { trialDiskBytesPerSecond: own, othersDiskBytesPerSecond: all === null ? null : Math.max(0, all - (own ?? 0)), networkBytesPerSecond: per(bytes.network, this.lastBytes.network) };
    this.lastBytes = bytes;
    this.lastTrialDisk = trialDisk ?? this.lastTrialDisk;
    return rates;
  }

  /** Means and peaks over all samples so far, or null without any. */
  summary(peakMemoryBytes: number | null): LoadSummary | null {
    const { means, count, othersPeak } = this;
    if (count === 0) return null;
    this.watch?.look();
    return { trialMean: means.trial.value ?? 0, othersMean: means.others.value ?? 0, othersPeak, peakMemoryBytes, othersDiskBytesPerSecond: means.othersDisk.value, networkBytesPerSecond: means.network.value, others: this.watch?.busiest() ?? [] };
  }
}
