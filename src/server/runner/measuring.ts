import { getRig } from '@/db/queries/rigs';
import { getVolume } from '@/db/queries/volumes';
import { readRigIdentity, readRigState, type RigIdentity, type RigState } from '@/engine/rig';
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
export function noteLoad(trialId: string, load: LoadMeter): LoadSample | null {
  const sample = load.sample();
  if (!sample) return null;
  saveSample({ trialId, at: new Date(), ...sample }).catch(() => undefined);
  announceLoad(sample);
  return sample;
}

export function announceLoad({ othersLoad, trialLoad, freeMemoryBytes }: LoadSample): void {
  announce({ type: 'load', othersLoad, trialLoad, freeMemoryBytes });
}

/** The processes under watch of some hosts, as a load meter asks for them. */
export function pidsOf(hosts: Iterable<{ readonly pid: number | null } | null>): number[] {
  return [...hosts].flatMap((host) => host?.pid ?? []);
}

/** Whether one of some volumes is mounted from a network, so that what is read from it passes the network. Those that are gone do not count. */
export async function areOverNetwork(volumeIds: readonly (string | null | undefined)[]): Promise<boolean> {
  const ids = [...new Set(volumeIds.flatMap((id) => id ?? []))];
  const volumes = await Promise.all(ids.map((id) => persist(() => getVolume(id))));
  return volumes.some((volume) => volume?.facts.network != null);
}

/** Waits for a measuring process to end, telling the load and whose process it is meanwhile. */
export async function measured<End>(trialId: string, host: { readonly pid: number | null; readonly ended: Promise<End> }, load: LoadMeter, onTrialPid: (pid: number | null) => void): Promise<End> {
  const sampler = setInterval(() => { noteLoad(trialId, load); }, sampleIntervalMs);
  onTrialPid(host.pid);
  try {
    return await host.ended;
  } finally {
    clearInterval(sampler);
    onTrialPid(null);
  }
}
