import { getRig } from '@/db/queries/rigs';
import { processorTimeOf, readRigIdentity, readRigState, type RigIdentity, type RigState } from '@/engine/rig';
import { announce } from '../events';
import { softwareVersion } from '../version';
import type { LoadMeter } from './loadMeter';
import { persist } from './persist';

export const sampleIntervalMs = 500;

/** Under what a measurement begins. What the rig is was written down when this runner began; only its state changes. */
export async function conditionsNow(rigId: string): Promise<{ rig: RigIdentity; rigState: RigState; softwareVersion: string }> {
  const [rig, rigState] = await Promise.all([persist(() => getRig(rigId)), readRigState(new Set([process.pid, process.ppid]))]);
  return { rig: rig?.identity ?? (await readRigIdentity()), rigState, softwareVersion: softwareVersion() };
}

/** Waits for a measuring process to end, telling the load and whose process it is meanwhile. */
export async function measured<End>(host: { readonly pid: number | null; readonly ended: Promise<End> }, load: LoadMeter, onTrialPid: (pid: number | null) => void): Promise<End> {
  const sampler = setInterval(() => {
    const sample = load.sample((host.pid === null ? null : processorTimeOf(host.pid)) ?? 0);
    if (sample) announce({ type: 'load', ...sample });
  }, sampleIntervalMs);
  onTrialPid(host.pid);
  try {
    return await host.ended;
  } finally {
    clearInterval(sampler);
    onTrialPid(null);
  }
}
