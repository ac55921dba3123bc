import { join } from 'node:path';
import { answerOf } from '@/core/kinds/kinds';
import type { StorageKind } from '@/core/kinds/kinds';
import { disturbingLoad } from '@/core/rig/disturbance';
import { carriedStreams, expectedRate } from '@/core/storage/model';
import { requiredRate } from '@/core/storage/required';
import { summariseStreams } from '@/core/storage/streams';
import { summariseThroughput } from '@/core/storage/throughput';
import { TimeLeftEstimator } from '@/core/tasks/timeLeft';
import type { StorageTrial, TrialRow } from '@/db/kinds';
import { getClip, getPacketTable } from '@/db/queries/clips';
import { saveCopyFile } from '@/db/queries/storageRecords';
import { latestThroughput } from '@/db/queries/trials';
import { getVolume } from '@/db/queries/volumes';
import { EngineError } from '@/engine/errors';
import { removeTestFiles } from '@/engine/storage/testFile';
import type { FromStorage, ReadSource, StorageSpec, VolumeAccess } from '@/engine/storage/spec';
import { inspectFolder } from '@/engine/volume';
import { loadBlocks, storeBlockBatch } from '../../blocks';
import { plainFinding } from '../../findings';
import { allowedRoots } from '../../roots';
import { sampleIntervalMs } from '../measuring';
import { persist } from '../persist';
import type { KindRunner, TrialRun } from '../trialRun';
import type { ProcessEnd } from '../watchedProcess';
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
  const volume = volumeId === null ? null : await persist(() => getVolume(volumeId));
  if (!volume)
    throw new EngineError(
      'The volume of this trial is no longer in the list. Add it again and start a new trial.',
    );
  const { path } = await inspectFolder(volume.path, allowedRoots());
  return { path, standIn: volume.standIn };
}

async function clipSource(clipId: string): Promise<ReadSource> {
  const [clip, packets] = await persist(() => Promise.all([getClip(clipId), getPacketTable(clipId)]));
  if (!clip?.format || !packets)
    throw new EngineError(
      'The clip of this trial is no longer in the library. Scan its volume and start the trial again.',
    );
  return { path: join(clip.volumePath, clip.path), packets, rate: clip.format.rate };
}

async function removeOwnFiles({ id, subject }: Pick<StorageTrial, 'id' | 'subject'>): Promise<void> {
  await removeTestFiles(subject.volumePath, id);
}

export const throughput: KindRunner<'throughput'> = {
  async prepare(trial) {
    const { settings, volumeIds, subject } = trial;
    const spec: StorageSpec = {
      kind: 'throughput',
      trialId: trial.id,
      volume: await accessOf(subject.volumeId),
      settings,
      source: settings.clipId === null ? null : await clipSource(settings.clipId),
    };
    return {
      volumeIds,
      conditions: plainConditions,
      measure: async (run) => ({
        end: await performStorage(run, spec, trial),
      }),
    };
  },
  judge: async (trial, { outcome }) => {
    const blocks = await persist(() => loadBlocks(trial.id));
    return { summary: blocks.length === 0 ? null : summariseThroughput(blocks), outcome };
  },
  clearAway: removeOwnFiles,
};

export const streamsCarried: KindRunner<'streams-carried'> = {
  async prepare(trial) {
    const { settings, volumeIds, subject } = trial;
    const spec: StorageSpec = {
      kind: 'streams-carried',
      trialId: trial.id,
      volume: await accessOf(subject.volumeId),
      settings,
      source: await clipSource(settings.clipId),
    };
    return {
      volumeIds,
      conditions: plainConditions,
      measure: async (run) => {
        let streams: readonly number[] = [];
        return {
          end: await performStorage(run, spec, trial, (step) => {
            streams = [...streams, step];
            run.keep({ streams });
          }),
        };
      },
    };
  },
  judge: async (trial, { outcome }) => {
    const summary = await summaryOf(trial);
    return { summary, outcome: outcome ?? (summary && answerOf(plainFinding({ ...trial, summary }))) };
  },
  clearAway: removeOwnFiles,
};

async function summaryOf(
  trial: TrialRow<'streams-carried'>,
): Promise<TrialRow<'streams-carried'>['summary']> {
  const { subject, settings, record } = trial;
  const blocks = await persist(() => loadBlocks(trial.id));
  if (blocks.length === 0 || !subject.clip) return null;
  return summariseStreams(
    blocks,
    record?.streams ?? [],
    subject.clip,
    (1e6 * subject.clip.format.rate.den) / subject.clip.format.rate.num,
    settings.mostStreams,
    await rateBeside(trial),
  );
}

/** The rate that arithmetic uses: the volume's last measured sequential read, else its stand-in's model. */
async function rateBeside({ rigId, subject: { volumeId, standIn, clip } }: TrialRow<'streams-carried'>) {
  const measured = (await persist(() => latestThroughput(rigId))).find(
    (row) => row.subject.volumeId === volumeId && row.settings.test === 'sequential-read',
  );
  const model = standIn && expectedRate(standIn, false, 2 ** 20);
  const sustained = measured?.summary?.read?.sustained;
  if (sustained !== undefined)
    return { bytesPerSecond: sustained, from: 'measured' as const, limit: model?.limit ?? null };
  if (!standIn || !model || !clip) return null;
  const { required } = requiredRate(clip, { streams: 1, speed: 1, margin: 0 });
  return {
    ...model,
    from: 'model' as const,
    streams: carriedStreams(
      (streams) => expectedRate(standIn, false, 2 ** 20, true, streams).bytesPerSecond,
      required,
    ),
  };
}
