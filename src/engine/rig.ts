import { together } from '@/core/together';
import { groupBy } from '@/core/groups';
import { quantity } from '@/core/format';
import { availableParallelism, cpus, freemem, hostname, loadavg, totalmem } from 'node:os';
import { createHash } from 'node:crypto';
import { existsSync, readFileSync } from 'node:fs';
import { readFile } from 'node:fs/promises';
import system from 'systeminformation';
import type { RigIdentity, RigState } from '@/core/rig/identity';
import { Sensors } from './sensors';
import { textOf } from './systemFiles';
import { processName } from './processName';

/** An identifier that stays the same for this host over restarts. */
export async function thisRigId(): Promise<string> {
  const machineId = await readFile('/etc/machine-id', 'utf8').catch(() => '');
  return `rig-${createHash('sha256')
    .update(machineId.trim() || hostname())
    .digest('hex')
    .slice(0, 12)}`;
}

/** Reads what the system tells of this rig. Parts that cannot be read are named as unknown. */
export async function readRigIdentity(): Promise<RigIdentity> {
  const { cpu, graphics, os, machine, disks, networks } = await together({
    cpu: system.cpu(),
    graphics: system.graphics(),
    os: system.osInfo(),
    machine: system.system(),
    disks: system.diskLayout().catch(() => []),
    networks: system.networkInterfaces(),
  });
  return {
    host: hostname(),
    processor: [cpu.manufacturer, cpu.brand].filter(Boolean).join(' ') || cpus()[0]?.model || 'unknown',
    physicalCores: cpu.physicalCores || availableParallelism(),
    logicalCores: availableParallelism(),
    memoryBytes: totalmem(),
    graphics: graphics.controllers
      .map((controller) => [controller.vendor, controller.model].filter(Boolean).join(' '))
      .filter(Boolean),
    system: [os.distro, os.release].filter(Boolean).join(' '),
    kernel: os.kernel,
    disks: disks.map(({ name, type, size, interfaceType }) =>
      [name, type, interfaceType, size > 0 ? quantity(size / 1e9, 'GB', 0) : ''].filter(Boolean).join(', '),
    ),
    networks: (Array.isArray(networks) ? networks : [networks])
      .filter(({ internal, operstate }) => !internal && operstate !== 'down')
      .map(({ iface, type, speed }) =>
        [iface, type, speed && speed > 0 ? quantity(speed, 'Mb/s') : ''].filter(Boolean).join(', '),
      ),
    machine: machine.virtual
      ? `virtual${machine.virtualHost ? ` (${machine.virtualHost})` : ''}`
      : 'physical',
  };
}

let virtual: Promise<boolean> | null = null;

/** Whether this is a virtual machine. Asked once: it does not change, and asking starts other programs. */
function isVirtual(): Promise<boolean> {
  virtual ??= system.system().then((machine) => machine.virtual);
  return virtual;
}

/** What the rig runs on now; `unknown` where the system does not tell. */
export async function readPower(): Promise<RigState['power']> {
  const battery = await system.battery();
  if (battery.hasBattery) return battery.acConnected ? 'mains' : 'battery';
  // Without a battery there is mains, unless this is a guest that is told nothing of its host's power.
  return (await isVirtual()) ? 'unknown' : 'mains';
}

/** The program that lists processes lists itself, and is busy with it. */
const lookingTool = 'ps';

/** Reads the rig's state of the moment. */
export async function readRigState(ownPids: ReadonlySet<number>): Promise<RigState> {
  const [power, processes] = await Promise.all([readPower(), system.processes()]);
  const { clockGigahertz, temperatureCelsius } = new Sensors().look();
  const others = processes.list
    .filter(
      (entry) =>
        !ownPids.has(entry.pid) &&
        !ownPids.has(entry.parentPid) &&
        entry.cpu >= 1 &&
        entry.name !== lookingTool,
    )
    .map(({ pid, name, cpu }) => ({ name: processName(pid) ?? name, cpu }));
  // One line for a program, however many processes it has.
  const busiest = [...groupBy(others, ({ name }) => name)]
    .map(([name, of]) => ({
      name,
      share: (of.reduce((sum, { cpu }) => sum + cpu, 0) / 100) * availableParallelism(),
    }))
    .sort((a, b) => b.share - a.share)
    .slice(0, 5);
  return {
    at: new Date().toISOString(),
    power,
    processorGovernor:
      (
        await readFile('/sys/devices/system/cpu/cpu0/cpufreq/scaling_governor', 'utf8').catch(() => '')
      ).trim() || null,
    loadAverage: loadavg()[0] ?? 0,
    freeMemoryBytes: freemem(),
    busiest,
    temperatureCelsius,
    clockGigahertz,
  };
}

/** Clock ticks a second in which the system counts a process's time (USER_HZ; 100 on every Linux that Node.js runs on). */
const ticksPerSecond = 100;

/** What the system tells of a process behind its name, which may hold blanks; null when it has gone. Source: proc(5), /proc/[pid]/stat: state, parent, ... */
export function processFields(pid: number): readonly string[] | null {
  return textOf(`/proc/${pid}/stat`)?.split(') ').at(-1)?.split(' ') ?? null;
}

/** Sum of two neighbouring counters of clock ticks of a process, in µs; null when it has gone. @param at place of the first among `processFields` */
function processTicksUs(pid: number, at: number): number | null {
  const fields = processFields(pid);
  const ticks = Number(fields?.[at]) + Number(fields?.[at + 1]);
  return Number.isFinite(ticks) ? (ticks / ticksPerSecond) * 1e6 : null;
}

/** Processor time of a process with all its threads so far, in µs, to 10 ms; null when it has gone. Source: proc(5), utime and stime. */
export function processorTimeOf(pid: number): number | null {
  return processTicksUs(pid, 11);
}

/** Processor time of all processes that this one started and that have ended, in µs, to 10 ms. Source: proc(5), cutime and cstime. */
export function endedChildrenTime(): number {
  return processTicksUs(process.pid, 13) ?? 0;
}

/** Processor time since boot, ms. */
export interface ProcessorTimes {
  readonly busyMs: number;
  readonly totalMs: number;
  /** of the busy time: the host of a virtual machine gave to others */ readonly stolenMs: number;
}

/**
 * Processor time of the whole rig since boot over all cores, and of each core by its number. Time that a
 * virtual machine's host gave to others counts as busy: the rig could not use it.
 * @param statistics the text of /proc/stat. Source: proc(5), the lines "cpu" and "cpu0" ...: user, nice, system, idle, iowait, irq, softirq, steal.
 */
export function processorTimes(
  statistics = readFileSync('/proc/stat', 'utf8'),
): ProcessorTimes & { readonly cores: ReadonlyMap<number, ProcessorTimes> } {
  const cores = new Map<number, ProcessorTimes>();
  let all: ProcessorTimes = { busyMs: 0, totalMs: 0, stolenMs: 0 };
  for (const [, core, fields = ''] of statistics.matchAll(/^cpu(\d*) +(.*)$/gm)) {
    const ticks = fields.split(' ').map(Number).slice(0, 8);
    const total = ticks.reduce((sum, value) => sum + value, 0);
    const idle = (ticks[3] ?? 0) + (ticks[4] ?? 0);
    const toMs = 1000 / ticksPerSecond;
    const times = { busyMs: (total - idle) * toMs, totalMs: total * toMs, stolenMs: (ticks[7] ?? 0) * toMs };
    if (core) cores.set(Number(core), times);
    else all = times;
  }
  return { ...all, cores };
}

/** Whether cores clock lower when they have little to do, so that work on an idle one says nothing of the machine. */
export function clocksFollowLoad(): boolean {
  return existsSync('/sys/devices/system/cpu/cpu0/cpufreq');
}
