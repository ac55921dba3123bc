import { getRig } from '@/db/queries/rigs';
import { getVolume } from '@/db/queries/volumes';
import { readRigIdentity, readRigState } from '@/engine/rig';
import { saveSample } from '@/db/queries/trials';
import { Pulse } from '@/engine/pulse/pulse';
import { linkNames, type NetworkLink } from '@/core/rig/networkLink';
import { hostOf, interfaceTo } from '@/engine/networkLink';
import { announce } from '../../platform/events';
import { softwareVersion } from '../../platform/version';
import { LoadMeter, type LoadSample } from './loadMeter';
import { PulseReference } from './pulseReference';
import { retryWhileAway } from './retryWhileAway';
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
  const [rig, rigState, links] = await Promise.all([
    retryWhileAway(() => getRig(rigId)),
    readRigState(new Set([process.pid, process.ppid])),
    networkLinks(volumeIds),
  ]);
  const conditions = {
    rig: rig?.identity ?? (await readRigIdentity()),
    rigState,
    softwareVersion: softwareVersion(),
  };
  const load = new LoadMeter(pids, { pulse: await pulse.before(rig?.bestPulse?.us ?? null) });
  load.readsOver(links);
  return { conditions, load };
}

/** Tells the load of the moment to pages and keeps it with the trial. */
export function noteLoad(trialId: string, load: LoadMeter): LoadSample | null {
  const sample = load.sample();
  if (!sample) return null;
  saveSample({ trialId, at: new Date(), ...sample }).catch(() => undefined);
  announceLoad(sample, load.overLinks);
  return sample;
}

/** @param links where what is measured reads over the network */
export function announceLoad(
  { othersLoad, trialLoad, freeMemoryBytes, linkBytesPerSecond, trialMovedBytesPerSecond }: LoadSample,
  links: readonly NetworkLink[] = [],
): void {
  const link =
    linkBytesPerSecond === null
      ? null
      : { names: linkNames(links), linkBytesPerSecond, trialMovedBytesPerSecond };
  announce({ type: 'load', othersLoad, trialLoad, freeMemoryBytes, link });
}

/** How those of some volumes are reached that are mounted from a network. Volumes that are gone do not count. */
export async function networkLinks(
  volumeIds: readonly (string | null | undefined)[],
): Promise<NetworkLink[]> {
  const ids = [...new Set(volumeIds.flatMap((id) => id ?? []))];
  const volumes = await Promise.all(ids.map((id) => retryWhileAway(() => getVolume(id))));
  const links = await Promise.all(
    volumes.map(async (volume): Promise<NetworkLink | null> => {
      const network = volume?.facts.network;
      if (!volume || !network) return null;
      const { server } = network;
      return { volume: volume.name, server: hostOf(server), interfaceName: await interfaceTo(server) };
    }),
  );
  return links.filter((link) => link !== null);
}
