import { getRig } from '@/db/queries/rigs';
import { processorTimeOf, readRigIdentity, readRigState, type RigIdentity, type RigState } from '@/engine/rig';
import { saveSample } from '@/db/queries/trials';
import { announce } from '../events';
import { softwareVersion } from '../version';
import type { LoadMeter, LoadSample } from './loadMeter';
import { persist } from './persist';

export const sampleIntervalMs = 500;

/** Under what a measurement begins. What the rig is was written down when this runner began; only its state changes. */
export async function conditionsNow(rigId: string): Promise<{ rig: RigIdentity; rigState: RigState; softwareVersion: string }> {
  const [rig, rigState] = await Promise.all([persist(() => getRig(rigId)), readRigState(new Set([process.pid, process.ppid]))]);
  return { rig: rig?.identity ?? (await readRigIdentity()), rigState, softwareVersion: softwareVersion() };
}

/** Tells the load of the moment to pages and keeps it with the trial. */
export function noteLoad(trialId: string, load: LoadMeter, pid: number | null, cpuUs = pid === null ? null : processorTimeOf(pid)): LoadSample | null {
  const sample = load.sample(cpuUs ?? 0, pid);
  if (!sample) return null;
  saveSample({ trialId, at: new Date(), ...sample }).catch(() => undefined);
  announceLoad(sample);
  return sample;
}

export function announceLoad({ othersLoad, trialLoad, freeMemoryBytes }: LoadSample): void {
  announce({ type: 'load', othersLoad, trialLoad, freeMemoryBytes });
}

/** Waits for a measuring process to end, telling the load and whose process it is meanwhile. */
export async function measured<End>(trialId: string, host: { readonly pid: number | null; readonly ended: Promise<End> }, load: LoadMeter, onTrialPid: (pid: number | null) => void): Promise<End> {
  const sampler = setInterval(() => { noteLoad(trialId, load, host.pid); }, sampleIntervalMs);
  onTrialPid(host.pid);
  try {
    return await host.ended;
  } finally {
    clearInterval(sampler);
    onTrialPid(null);
  }
}
