import { getRig } from '@/db/queries/rigs';
import { getVolume } from '@/db/queries/volumes';
import { readRigIdentity, readRigState } from '@/engine/rig';
import { saveSample } from '@/db/queries/trials';
import { Pulse } from '@/engine/pulse/pulse';
import { announce } from '../events';
import { softwareVersion } from '../version';
import { LoadMeter, type LoadSample } from './loadMeter';
import { PulseReference } from './pulseReference';
import { persist } from './persist';
import type { RigConditions } from '@/core/kinds/shared/conditions';

export const sampleIntervalMs = 500;

/** One for all runs of this runner; it rests between them. Null where it is not bundled beside it. */
const pulse = new PulseReference(Pulse.open(new URL('./pulse.mjs', import.meta.url)));

/**
 * Begins a measurement of any kind: under what it begins, with the rig's pulse before it, and a meter of the load from now on.
 * What the rig is was written down when this runner began; only its state changes.
 * @param pids the measuring processes at each moment
 * @param volumeIds what it reads from and writes to
 */
export async function beginMeasuring(
  rigId: string,
  pids: () => readonly number[],
  volumeIds: readonly (string | null | undefined)[],
): Promise<{ conditions: RigConditions; load: LoadMeter }> {
  const [rig, rigState, overNetwork] = await Promise.all([
    persist(() => getRig(rigId)),
    readRigState(new Set([process.pid, process.ppid])),
    areOverNetwork(volumeIds),
  ]);
  const conditions = {
    rig: rig?.identity ?? (await readRigIdentity()),
    rigState,
    softwareVersion: softwareVersion(),
  };
  const load = new LoadMeter(pids, { pulse: await pulse.before(rig?.bestPulse?.us ?? null) });
  load.overNetwork = overNetwork;
  return { conditions, load };
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

/** Whether one of some volumes is mounted from a network, so that what is read from it passes the network. Those that are gone do not count. */
export async function areOverNetwork(volumeIds: readonly (string | null | undefined)[]): Promise<boolean> {
  const ids = [...new Set(volumeIds.flatMap((id) => id ?? []))];
  const volumes = await Promise.all(ids.map((id) => persist(() => getVolume(id))));
  return volumes.some((volume) => volume?.facts.network != null);
}
