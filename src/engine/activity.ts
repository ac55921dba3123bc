import { readdirSync } from 'node:fs';
import { processFields, processorTimeOf } from './rig';
import { processName } from './processName';
import { namesIn, textOf } from './systemFiles';

/**
 * What a Linux system tells of its disks, network and processes. Read straight
 * from /proc: it happens twice a second beside a measurement, and a sensor
 * library starts other programs for each look.
 */
const sectorBytes = 512;

/** Bytes that whole disks have read and written since boot. Source: kernel, Documentation/admin-guide/iostats: fields 3 (reads' sectors) and 7 (writes' sectors), always of 512 bytes. @param statistics the text of /proc/diskstats */
export function diskBytes(statistics: string): number {
  let sectors = 0;
  for (const line of statistics.split('\n')) {
    const fields = line.trim().split(/\s+/);
    const name = fields[2] ?? '';
    // Partitions and devices made of others would count twice.
    if (
      /^(loop|ram|dm-|md|zram|sr|fd)/.test(name) ||
      /^(sd|vd|xvd|hd)[a-z]+\d+$/.test(name) ||
      /^(nvme\d+n\d+|mmcblk\d+)p\d+$/.test(name)
    )
      continue;
    sectors += (Number(fields[5]) || 0) + (Number(fields[9]) || 0);
  }
  return sectors * sectorBytes;
}

/** The interface over which this host speaks to itself. */
export const loopback = 'lo';

/** What each network interface has received and sent since boot, bytes. Source: proc(5), /proc/net/dev. @param statistics the text of /proc/net/dev */
function interfaceBytes(
  statistics: string,
): { readonly name: string; readonly received: number; readonly sent: number }[] {
  return statistics.split('\n').flatMap((line) => {
    const [name = '', figures] = line.split(':');
    if (!figures) return [];
    const fields = figures.trim().split(/\s+/);
    return { name: name.trim(), received: Number(fields[0]) || 0, sent: Number(fields[8]) || 0 };
  });
}

/** Bytes that network interfaces other than the loopback have received and sent since boot. @param statistics the text of /proc/net/dev */
export function networkBytes(statistics: string): number {
  return interfaceBytes(statistics)
    .filter(({ name }) => name !== loopback)
    .reduce((sum, { received, sent }) => sum + received + sent, 0);
}

/**
 * Bytes that some interfaces have carried since boot, both ways. The loopback counts each byte twice, as sent and as
 * received: it is told once.
 * @param statistics the text of /proc/net/dev
 */
export function carriedBytes(statistics: string, names: ReadonlySet<string>): number {
  return interfaceBytes(statistics)
    .filter(({ name }) => names.has(name))
    .reduce((sum, { name, received, sent }) => sum + received + (name === loopback ? 0 : sent), 0);
}

/** The same of this system; null where it does not tell. */
export function linkBytes(names: ReadonlySet<string>): number | null {
  const network = names.size === 0 ? null : textOf('/proc/net/dev');
  return network === null ? null : carriedBytes(network, names);
}

/**
 * What a process and its children that have ended have read and written so far; null where the system does not tell.
 * `diskBytes` went to and from disks. `movedBytes` were asked for and handed on, wherever they came from: also those of
 * network file systems that count no disk. Source: proc(5), /proc/[pid]/io.
 */
export function processBytes(
  pid: number,
): { readonly diskBytes: number; readonly movedBytes: number } | null {
  const text = textOf(`/proc/${pid}/io`);
  if (text === null) return null;
  const figures = new Map(
    text.split('\n').map((line) => {
      const [name = '', figure] = line.split(': ');
      return [name, Number(figure)] as const;
    }),
  );
  const sum = (one: string, other: string) => (figures.get(one) ?? 0) + (figures.get(other) ?? 0);
  return { diskBytes: sum('read_bytes', 'write_bytes'), movedBytes: sum('rchar', 'wchar') };
}

/** Totals since boot; null where the system does not tell. */
export function systemBytes(): { readonly disk: number | null; readonly network: number | null } {
  const [disks, network] = [textOf('/proc/diskstats'), textOf('/proc/net/dev')];
  return {
    disk: disks === null ? null : diskBytes(disks),
    network: network === null ? null : networkBytes(network),
  };
}

/** Processor time of a thread, and how long it was ready to run and waited for a core, µs. */
export interface ThreadTimes {
  readonly coreUs: number;
  readonly waitUs: number;
}

/** Of each thread of a process so far. Source: kernel, Documentation/scheduler/sched-stats: the first two figures of /proc/[pid]/schedstat, ns. */
export function threadTimes(pid: number): ReadonlyMap<number, ThreadTimes> {
  const times = new Map<number, ThreadTimes>();
  for (const thread of threadsOf(pid)) {
    const [core = NaN, wait = NaN] = (textOf(`/proc/${pid}/task/${thread}/schedstat`) ?? '')
      .split(' ')
      .map(Number);
    if (Number.isFinite(core) && Number.isFinite(wait))
      times.set(thread, { coreUs: core / 1e3, waitUs: wait / 1e3 });
  }
  return times;
}

/** For how long each thread of a process was ready to run and waited for a core so far, µs, by thread. */
export function waitedTimes(pid: number): ReadonlyMap<number, number> {
  return new Map([...threadTimes(pid)].map(([thread, { waitUs }]) => [thread, waitUs]));
}

/** Numbers of the threads of a process; none where it has gone. */
export function threadsOf(pid: number): number[] {
  return namesIn(`/proc/${pid}/task`).map(Number);
}

/**
 * Where each thread of a process stands, a line each: its name, its state (R runs, S sleeps, D waits for a device,
 * T is stopped) and what it waits for in the kernel. Empty where nothing is told. Source: proc(5), /proc/[pid]/task.
 */
export function threadsInWords(pid: number): string {
  return namesIn(`/proc/${pid}/task`)
    .map((thread) => {
      const of = (file: string) => textOf(`/proc/${pid}/task/${thread}/${file}`) ?? '?';
      return `${of('comm')} ${/^State:\s+(\w)/m.exec(of('status'))?.[1] ?? '?'} ${of('wchan')}`;
    })
    .join('\n');
}

/** @param statistics the text of a group's cpu.stat @returns µs */
export function heldOf(statistics: string): number {
  const figure = (name: string) => Number(new RegExp(`^${name} (\\d+)$`, 'm').exec(statistics)?.[1] ?? 0);
  return Math.max(figure('throttled_usec'), figure('throttled_time') / 1e3);
}

/**
 * For how long the system has held the group of a process to its share of the cores so far, µs over all cores; 0 where it has
 * no such share. Source: kernel, Documentation/admin-guide/cgroup-v2 (`throttled_usec`), and scheduler/sched-bwc for the older one (`throttled_time`, ns).
 */
export function heldTime(pid: number): number {
  const groups = textOf(`/proc/${pid}/cgroup`) ?? '';
  let held = 0;
  for (const [, controllers = '', path = ''] of groups.matchAll(/^\d+:([^:]*):(.*)$/gm)) {
    if (controllers !== '' && !controllers.split(',').includes('cpu')) continue;
    const statistics =
      [controllers, 'cpu', '']
        .map((folder) => textOf(`/sys/fs/cgroup/${folder}${path}/cpu.stat`))
        .find((text) => text !== null) ?? '';
    held = Math.max(held, heldOf(statistics));
  }
  return held;
}

/** What Navvy's own processes besides the runner are called together. */
export const ownName = 'Navvy itself';
const mostGenerations = 8;

function parentOf(pid: number): number {
  return Number(processFields(pid)?.[1] ?? 0);
}

/** Whether a process is one of some, or was started by one of them, at whatever remove. In a container the first of all may be one of ours. */
export function isBelow(pid: number, roots: ReadonlySet<number>): boolean {
  for (let at = pid, generation = 0; at > 0 && generation < mostGenerations; at = parentOf(at), generation++)
    if (roots.has(at)) return true;
  return false;
}

interface ProcessCounters {
  readonly name: string;
  readonly cpuUs: number;
  readonly diskBytes: number;
}

/** What other processes did, by name, over the time that it watches. */
export class ProcessWatch {
  private readonly first = new Map<number, ProcessCounters>();
  private readonly last = new Map<number, ProcessCounters>();
  private looked = false;
  private readonly beganMs = performance.now();

  /**
   * @param isMeasuring processes that are not others: the runner and the trial
   * @param roots processes that with all they started go by one name, `ownName`: server and database are a load that Navvy brings itself
   */
  constructor(
    private readonly isMeasuring: (pid: number) => boolean,
    private readonly roots: ReadonlySet<number> = new Set(),
  ) {
    this.look();
  }

  /** Reads the counters of all processes. A process that ends between two looks keeps what it had at the last. */
  look(): void {
    for (const entry of readdirSync('/proc')) {
      const pid = Number(entry);
      if (!Number.isInteger(pid) || this.isMeasuring(pid)) continue;
      const cpuUs = processorTimeOf(pid);
      if (cpuUs === null) continue;
      const known = this.last.get(pid);
      // One that has not run since the last look has moved nothing either.
      if (known && known.cpuUs === cpuUs) continue;
      const counters = {
        name: known?.name ?? this.nameOf(pid),
        cpuUs,
        diskBytes: processBytes(pid)?.diskBytes ?? 0,
      };
      // What a process did before the first look is not of this time; one that began later began at 0.
      if (!this.first.has(pid))
        this.first.set(pid, this.looked ? { ...counters, cpuUs: 0, diskBytes: 0 } : counters);
      this.last.set(pid, counters);
    }
    this.looked = true;
  }

  private nameOf(pid: number): string {
    return isBelow(pid, this.roots) ? ownName : (processName(pid) ?? 'unknown');
  }

  /** Names with their mean share of one core and bytes a second on disks since the first look, busiest first. */
  busiest(most = 5): { name: string; share: number; diskBytesPerSecond: number }[] {
    const seconds = (performance.now() - this.beganMs) / 1000;
    const byName = new Map<string, { share: number; diskBytesPerSecond: number }>();
    for (const [pid, { name, cpuUs, diskBytes: bytes }] of this.last) {
      const from = this.first.get(pid);
      if (!from || seconds <= 0) continue;
      const sum = byName.get(name) ?? { share: 0, diskBytesPerSecond: 0 };
      byName.set(name, {
        share: sum.share + (cpuUs - from.cpuUs) / 1e6 / seconds,
        diskBytesPerSecond: sum.diskBytesPerSecond + (bytes - from.diskBytes) / seconds,
      });
    }
    return [...byName]
      .map(([name, sums]) => ({ name, ...sums }))
      .filter(({ share, diskBytesPerSecond }) => share >= 0.01 || diskBytesPerSecond >= 1e5)
      .sort((a, b) => b.share - a.share || b.diskBytesPerSecond - a.diskBytesPerSecond)
      .slice(0, most);
  }
}
