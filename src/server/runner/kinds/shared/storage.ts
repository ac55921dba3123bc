import { join } from 'node:path';
import type { StorageKind } from '@/core/kinds/kinds';
import { disturbingLoad } from '@/core/rig/disturbance';
import { TimeLeftEstimator } from '@/core/tasks/timeLeft';
import type { StorageTrial } from '@/db/kinds';
import { getClip, getPacketTable } from '@/db/queries/clips';
import { saveCheckedFile, saveCopyFile } from '@/db/queries/storageRecords';
import { getVolume } from '@/db/queries/volumes';
import { EngineError } from '@/engine/errors';
import { removeTestFiles } from '@/engine/storage/testFile';
import type { FromStorage, ReadSource, StorageSpec, VolumeAccess } from '@/engine/storage/spec';
import { inspectVolume } from '@/engine/volume';
import { storeBlockBatch } from '../../../trials/blocks';
import { allowedRoots } from '../../../library/roots';
import { sampleIntervalMs } from '../../shared/measuring';
import { retryWhileAway } from '../../shared/retryWhileAway';
import type { TrialRun } from '../../trialRun';
import type { ProcessEnd } from '../../shared/watchedProcess';
import type { StorageConditions } from '@/core/kinds/shared/storage';

/** A drop-out that a stand-in scripts is no hang. */
const spareMs = 5_000;

/** Conditions of a storage trial before it has told its own. */
export const plainConditions = { cold: null, writes: null, disturbedMs: [] } as const;

/** Does a storage trial or copy in its process: keeps requests and files as they come, and notes when others disturb it. */
export async function performStorage(
  run: TrialRun<StorageKind>,
  spec: StorageSpec,
  { subject }: StorageTrial,
  onStep: (streams: number) => void = () => undefined,
): Promise<ProcessEnd<'storage'>> {
  const timeLeft = new TimeLeftEstimator();
  let atMs: number | null = null;
  const onMessage = (message: FromStorage) => {
    switch (message.type) {
      case 'prepared':
        run.condition({ cold: message.cold, writes: message.writes });
        break;
      case 'blocks':
        run.save(() => storeBlockBatch(run.trialId, message.from, message.count, message.data));
        break;
      case 'step':
        onStep(message.streams);
        break;
      case 'copied':
        run.save(() => saveCopyFile(run.trialId, message.file));
        break;
      case 'checked':
        run.save(() => saveCheckedFile(run.trialId, message.file));
        break;
      case 'progress': {
        const told = message.progress;
        timeLeft.observe(told.share, Date.now());
        const msLeft = told.msLeft ?? (told.share > 0 ? timeLeft.remainingMs(1) : null);
        atMs = told.atMs;
        run.reach({ ...told, msLeft });
        run.tell({ ...told, msLeft });
        break;
      }
      case 'failed':
      case 'finished':
        break;
    }
  };
  run.onSample = (sample) => {
    const { conditions } = run;
    if (sample && conditions && atMs !== null && sample.othersLoad > disturbingLoad)
      run.condition({ disturbedMs: withSpan(conditions.disturbedMs, atMs - sampleIntervalMs, atMs) });
  };
  const { fault } = subject.standIn ?? { fault: null };
  const scripted = fault?.kind === 'drop-out' ? fault.seconds * 1000 + spareMs : 0;
  return run.perform('storage', spec, { watchdogMs: run.parts.watchdogMs + scripted, onMessage });
}

/** Adds a span of time, joined to the last one where they meet. */
function withSpan(
  spans: StorageConditions['disturbedMs'],
  from: number,
  to: number,
): StorageConditions['disturbedMs'] {
  const last = spans.at(-1);
  return last && from <= last[1] + sampleIntervalMs
    ? [...spans.slice(0, -1), [last[0], to]]
    : [...spans, [Math.max(0, from), to]];
}

/** A volume's folder, still there and allowed, with its model. @throws EngineError when it is not */
export async function accessOf(volumeId: string | null): Promise<VolumeAccess> {
  const volume = volumeId === null ? null : await retryWhileAway(() => getVolume(volumeId));
  if (!volume) throw new EngineError('trial-volume-gone');
  const { path } = await inspectVolume(volume.path, allowedRoots());
  return { path, standIn: volume.standIn };
}

export async function clipSource(clipId: string): Promise<ReadSource> {
  const [clip, packets] = await retryWhileAway(() => Promise.all([getClip(clipId), getPacketTable(clipId)]));
  if (!clip?.format || !clip.setup || !packets) throw new EngineError('trial-clip-gone');
  return { path: join(clip.volumePath, clip.path), packets, rate: clip.format.rate, setup: clip.setup };
}

export async function removeOwnFiles({ id, subject }: Pick<StorageTrial, 'id' | 'subject'>): Promise<void> {
  await removeTestFiles(subject.volumePath, id);
}
