import { freemem } from 'node:os';
import { networkBesides } from '@/core/rig/disturbance';
import { summariseGraphics, type GraphicsLook } from '@/core/rig/graphics';
import { lostTime, type LostTime } from '@/core/rig/lostTime';
import type { NetworkLink } from '@/core/rig/networkLink';
import { summarisePulse } from '@/core/rig/pulse';
import { summariseSensors, type SensorLook } from '@/core/rig/sensors';
import { heldTime, linkBytes, processBytes, ProcessWatch, systemBytes, waitedTimes } from '@/engine/activity';
import { GraphicsMeter } from '@/engine/graphics';
import { clocksFollowLoad, endedChildrenTime, processorTimeOf, processorTimes } from '@/engine/rig';
import { Sensors } from '@/engine/sensors';
import type { LoadSummary } from '@/core/rig/load';
import { BusyCores, type MeasuredPulse } from './measuredPulse';
import { Grown } from './grown';

/**
 * Loads in shares of all cores, 0 to 1; rates in bytes per second over all disks and network interfaces, null where the system does not tell.
 * `lostShare`: of the time in which the trial's threads were ready to run, that in which others had their core; `siblingShare`: in which they waited for each other; `heldShare`: in which the system held them back to a share of the cores that is set for them. `pulseUs`: see `Pulse`.
 */
export interface LoadSample extends SensorLook, GraphicsLook {
  readonly trialLoad: number;
  readonly othersLoad: number;
  readonly freeMemoryBytes: number;
  readonly trialDiskBytesPerSecond: number | null;
  readonly othersDiskBytesPerSecond: number | null;
  readonly networkBytesPerSecond: number | null;
  /** Over the interfaces to the servers of the trial's volumes, and what the trial's processes read and wrote; null where no volume is reached over the network. */
  readonly linkBytesPerSecond: number | null;
  readonly trialMovedBytesPerSecond: number | null;
  readonly lostShare: number;
  readonly siblingShare: number;
  readonly heldShare: number;
  readonly pulseUs: number | null;
}

/** Processor time of this process, the runner, so far, µs. */
function runnerTime(): number {
  const { user, system: kernel } = process.cpuUsage();
  return user + kernel;
}

const system = {
  runnerTime,
  processorTimes,
  systemBytes,
  linkBytes,
  processBytes,
  processorTimeOf,
  endedChildrenTime,
  waitedTimes,
  heldTime,
  clocksFollowLoad,
};

/** Looks at single processes are dearer than at totals, and rarer. */
const samplesPerLook = 4;

/** What started this runner and with it the web server, and the database that the start script names. */
function ownRoots(): ReadonlySet<number> {
  return new Set([process.ppid, Number(process.env.NAVVY_DATABASE_PID)].filter((pid) => pid > 1));
}

function shareOf(us: number, { readyUs }: LostTime): number {
  return readyUs > 0 ? us / readyUs : 0;
}

class Mean {
  private sum = 0;
  private count = 0;
  add(value: number | null): void {
    if (value === null) return;
    this.sum += value;
    this.count++;
  }
  get value(): number | null {
    return this.count === 0 ? null : this.sum / this.count;
  }
}

/** What processes have done so far. */
interface Work {
  readonly cpuUs: number;
  readonly diskBytes: number;
  readonly movedBytes: number;
}
const none: Work = { cpuUs: 0, diskBytes: 0, movedBytes: 0 };
/** Takes two works together, figure by figure. */
const joined = (a: Work, b: Work, join: (a: number, b: number) => number): Work => ({
  cpuUs: join(a.cpuUs, b.cpuUs),
  diskBytes: join(a.diskBytes, b.diskBytes),
  movedBytes: join(a.movedBytes, b.movedBytes),
});
const plus = (a: Work, b: Work) => joined(a, b, (x, y) => x + y);

/** Tells what a trial's processes do to the rig from what everybody else does, between two looks. The runner's own work is left out. */
export class LoadMeter {
  private last: ReturnType<typeof processorTimes>;
  private lastRunnerUs: number;
  /** By how much more the system's coarse clocks have told of this side than of all: what they give back is nobody else's work. */
  private owedMs = 0;
  private lastOwn: Work;
  private lastBytes: ReturnType<typeof systemBytes>;
  private lastAt = performance.now();
  private count = 0;
  private othersPeak = 0;
  private readonly means = {
    trial: new Mean(),
    others: new Mean(),
    stolen: new Mean(),
    othersDisk: new Mean(),
    networkBesides: new Mean(),
  };
  /** Times that threads of the trial waited for a core, and that its processes were held back, µs. */
  private readonly waited = new Grown(true);
  private readonly held = new Grown(false);
  private readonly busyCores: BusyCores;
  private readonly pulses: number[] = [];
  private readonly graphicsLooks: GraphicsLook[] = [];
  private readonly looks: (SensorLook & { readonly atMs: number })[] = [];
  /** Over all samples. */
  private lost: LostTime = { lostUs: 0, heldUs: 0, siblingUs: 0, readyUs: 0 };
  private readonly watch: ProcessWatch | null;
  private readonly tells: typeof system;
  private readonly pulse: MeasuredPulse | null;
  private readonly sensors: Pick<Sensors, 'look'>;
  private readonly graphics: Pick<GraphicsMeter, 'look'>;
  /** The trial's processes at the last look, with what they had done. */
  private alive: ReadonlyMap<number, Work> = new Map();
  /** What those had done that have ended since. */
  private ended = none;
  /** What the runner had on its account at the last look: its own reading and writing, and all that its ended children did. */
  private account: Work;
  /** Whether the system tells what processes read and write. */
  private readonly told: boolean;
  private readonly measuring = new Set<number>([process.pid]);
  private links: readonly NetworkLink[] = [];
  private interfaces: ReadonlySet<string> = new Set();
  private lastLinkBytes: number | null = null;
  /** Over all samples since the links are known. */
  private passed = { carriedBytes: 0, movedBytes: 0 };

  /**
   * @param pids the trial's processes at this moment
   * @param byName also watches who the others are; costs a look at every process each two seconds
   * @param pulse the rig's pulse, taken before; it beats from now to the summary
   * @param tells what the system counts
   * @param sensors the processor's own
   * @param graphics what the rig's graphics do
   */
  constructor(
    private readonly pids: () => readonly number[],
    {
      byName = true,
      pulse = null,
      tells = system,
      sensors = new Sensors(),
      graphics = new GraphicsMeter(),
    }: {
      readonly byName?: boolean;
      readonly pulse?: MeasuredPulse | null;
      readonly tells?: typeof system;
      readonly sensors?: Pick<Sensors, 'look'>;
      readonly graphics?: Pick<GraphicsMeter, 'look'>;
    } = {},
  ) {
    this.tells = tells;
    this.sensors = sensors;
    this.graphics = graphics;
    this.pulse = pulse;
    this.last = tells.processorTimes();
    this.lastRunnerUs = tells.runnerTime();
    this.busyCores = new BusyCores(this.last.cores, tells.clocksFollowLoad());
    this.lookAtWaits();
    pulse?.source.beat();
    this.lastBytes = tells.systemBytes();
    this.told = tells.processBytes(process.pid) !== null;
    this.account = this.accountNow();
    this.lastOwn = this.own();
    this.watch = byName ? new ProcessWatch((pid) => this.measuring.has(pid), ownRoots()) : null;
  }

  /** The trial reads or writes over these from now on: what it moves itself is no disturbance. */
  readsOver(links: readonly NetworkLink[]): void {
    this.links = links;
    this.interfaces = new Set(links.flatMap(({ interfaceName }) => interfaceName ?? []));
    this.lastLinkBytes = this.tells.linkBytes(this.interfaces);
    this.passed = { carriedBytes: 0, movedBytes: 0 };
  }

  /** What has happened since the last sample; null where the clocks have not moved. */
  sample(): LoadSample | null {
    const now = this.tells.processorTimes();
    const totalMs = now.totalMs - this.last.totalMs;
    if (totalMs <= 0) return null;
    const own = this.own();
    const runnerUs = this.tells.runnerTime();
    const trialMs = Math.max(0, own.cpuUs - this.lastOwn.cpuUs) / 1000;
    const restMs =
      now.busyMs - this.last.busyMs - trialMs - (runnerUs - this.lastRunnerUs) / 1000 - this.owedMs;
    const othersMs = Math.max(0, restMs);
    this.owedMs = othersMs - restMs;
    const stolenMs = Math.min(othersMs, Math.max(0, now.stolenMs - this.last.stolenMs));
    const lost = lostTime({
      trialUs: trialMs * 1000,
      othersUs: (othersMs - stolenMs) * 1000,
      stolenUs: stolenMs * 1000,
      ...this.lookAtWaits(),
    });
    this.lost = {
      lostUs: this.lost.lostUs + lost.lostUs,
      heldUs: this.lost.heldUs + lost.heldUs,
      siblingUs: this.lost.siblingUs + lost.siblingUs,
      readyUs: this.lost.readyUs + lost.readyUs,
    };
    const sample = {
      trialLoad: Math.min(1, trialMs / totalMs),
      othersLoad: Math.min(1, othersMs / totalMs),
      freeMemoryBytes: freemem(),
      ...this.rates(own),
      lostShare: shareOf(lost.lostUs, lost),
      siblingShare: shareOf(lost.siblingUs, lost),
      heldShare: shareOf(lost.heldUs, lost),
      ...this.lookAtSensors(),
      ...this.lookAtGraphics(),
      pulseUs: this.pulseNow(now.cores),
    };
    this.last = now;
    this.lastRunnerUs = runnerUs;
    this.lastOwn = own;
    this.count++;
    this.means.trial.add(sample.trialLoad);
    this.means.others.add(sample.othersLoad);
    this.means.stolen.add(stolenMs / totalMs);
    this.means.othersDisk.add(sample.othersDiskBytesPerSecond);
    this.othersPeak = Math.max(this.othersPeak, sample.othersLoad);
    if (this.count % samplesPerLook === 0) this.watch?.look();
    return sample;
  }

  /**
   * What the trial's processes have done so far. Of one that has ended the system passes all that it did to the account
   * of the runner (proc(5): cutime, and io of children that were waited for), so that its last moments are not lost.
   */
  private own(): Work {
    const alive = new Map(
      this.pids().flatMap((pid): [number, Work][] => {
        const cpuUs = this.tells.processorTimeOf(pid);
        return cpuUs === null ? [] : [[pid, { ...(this.tells.processBytes(pid) ?? none), cpuUs }]];
      }),
    );
    const account = this.accountNow();
    const gone = [...this.alive].filter(([pid]) => !alive.has(pid)).map(([, work]) => work);
    if (gone.length > 0)
      this.ended = plus(
        this.ended,
        joined(
          gone.reduce(plus),
          joined(account, this.account, (now, before) => now - before),
          Math.max,
        ),
      );
    this.alive = alive;
    this.account = account;
    for (const pid of alive.keys()) this.measuring.add(pid);
    return [...alive.values()].reduce(plus, this.ended);
  }

  private lookAtWaits(): { waitedUs: number; heldUs: number } {
    const pids = this.pids();
    const waits = new Map(pids.flatMap((pid) => [...this.tells.waitedTimes(pid)]));
    // Processes of one group are held back together.
    const held = new Map(pids.slice(0, 1).map((pid) => [pid, this.tells.heldTime(pid)]));
    return { waitedUs: this.waited.by(waits), heldUs: this.held.by(held) };
  }

  private pulseNow(cores: ReturnType<typeof processorTimes>['cores']): number | null {
    const pulseUs = this.busyCores.pulseOf(this.pulse?.source.take() ?? [], cores);
    if (pulseUs !== null) this.pulses.push(pulseUs);
    return pulseUs;
  }

  private lookAtGraphics(): GraphicsLook {
    const look = this.graphics.look(this.pids());
    this.graphicsLooks.push(look);
    return look;
  }

  private lookAtSensors(): SensorLook {
    const look = this.sensors.look();
    this.looks.push({ ...look, atMs: performance.now() });
    return look;
  }

  private accountNow(): Work {
    return { ...(this.tells.processBytes(process.pid) ?? none), cpuUs: this.tells.endedChildrenTime() };
  }

  private rates(
    own: Work,
  ): Pick<
    LoadSample,
    | 'trialDiskBytesPerSecond'
    | 'othersDiskBytesPerSecond'
    | 'networkBytesPerSecond'
    | 'linkBytesPerSecond'
    | 'trialMovedBytesPerSecond'
  > {
    const bytes = this.tells.systemBytes();
    const linked = this.tells.linkBytes(this.interfaces);
    const overNetwork = this.links.length > 0;
    const at = performance.now();
    const seconds = (at - this.lastAt) / 1000;
    const per = (now: number | null, before: number | null) =>
      now === null || before === null || seconds <= 0 ? null : Math.max(0, now - before) / seconds;
    const all = per(bytes.disk, this.lastBytes.disk);
    const disk = this.told ? per(own.diskBytes, this.lastOwn.diskBytes) : null;
    const rates = {
      trialDiskBytesPerSecond: disk,
      othersDiskBytesPerSecond: all === null ? null : Math.max(0, all - (disk ?? 0)),
      networkBytesPerSecond: per(bytes.network, this.lastBytes.network),
      linkBytesPerSecond: per(linked, this.lastLinkBytes),
      trialMovedBytesPerSecond:
        overNetwork && this.told ? per(own.movedBytes, this.lastOwn.movedBytes) : null,
    };
    if (linked !== null && this.lastLinkBytes !== null)
      this.passed = {
        carriedBytes: this.passed.carriedBytes + Math.max(0, linked - this.lastLinkBytes),
        movedBytes: this.passed.movedBytes + Math.max(0, own.movedBytes - this.lastOwn.movedBytes),
      };
    this.lastLinkBytes = linked;
    this.means.networkBesides.add(
      networkBesides(rates.networkBytesPerSecond, overNetwork ? rates.trialMovedBytesPerSecond : 0),
    );
    this.lastBytes = bytes;
    this.lastAt = at;
    return rates;
  }

  /** Where the trial's volumes are reached over the network. */
  get overLinks(): readonly NetworkLink[] {
    return this.links;
  }

  /** Means and peaks over all samples so far, or null without any. */
  summary(peakMemoryBytes: number | null): LoadSummary | null {
    const { means, count, othersPeak, pulse } = this;
    pulse?.source.rest();
    if (count === 0) return null;
    this.watch?.look();
    return {
      trialMean: means.trial.value ?? 0,
      othersMean: means.others.value ?? 0,
      stolenMean: means.stolen.value ?? 0,
      othersPeak,
      peakMemoryBytes,
      othersDiskBytesPerSecond: means.othersDisk.value,
      networkBytesPerSecond: means.networkBesides.value,
      others: this.watch?.busiest() ?? [],
      lostShare: shareOf(this.lost.lostUs, this.lost),
      heldShare: shareOf(this.lost.heldUs, this.lost),
      sensors: summariseSensors(this.looks),
      graphics: summariseGraphics(this.graphicsLooks),
      link: this.interfaces.size === 0 ? null : { links: this.links, ...this.passed },
      pulse: pulse && summarisePulse(this.pulses, pulse.referenceUs, pulse.bestUs),
    };
  }
}
