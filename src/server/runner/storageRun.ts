import { join } from 'node:path';
import { disturbingLoad } from '@/core/rig/disturbance';
import { streamsSentence, summariseStreams } from '@/core/storage/streams';
import { carriedStreams, expectedRate } from '@/core/storage/model';
import { requiredRate } from '@/core/storage/required';
import { summariseThroughput } from '@/core/storage/throughput';
import { TimeLeftEstimator } from '@/core/tasks/timeLeft';
import { getClip, getPacketTable } from '@/db/queries/clips';
import {
  getStorageTrial,
  latestThroughput,
  listCopyFiles,
  saveCopyFile,
  updateStorageTrial,
  type StorageTrialRow,
} from '@/db/queries/storageTrials';
import { getVolume } from '@/db/queries/volumes';
import type { StorageConditions, StorageResult, StorageStatus } from '@/db/schema';
import { EngineError } from '@/engine/errors';
import { removePartials } from '@/engine/storage/copyFiles';
import { removeTestFiles } from '@/engine/storage/testFile';
import type {
  CopyResult,
  ReadSource,
  StorageProgress,
  StorageSpec,
  VolumeAccess,
} from '@/engine/storage/spec';
import { assertInside, inspectFolder } from '@/engine/volume';
import { loadBlocks, storeBlockBatch } from '../blocks';
import { announce } from '../events';
import { allowedRoots } from '../roots';
import { softwareVersion } from '../version';
import type { LoadMeter } from './loadMeter';
import { beginMeasuring, noteLoad, pidsOf, sampleIntervalMs } from './measuring';
import { persist } from './persist';
import { StorageHost, type StorageEnd } from './storageHost';

export interface StorageRunParts {
  readonly processPath: string;
  readonly watchdogMs: number;
  readonly onTrialPid: (pid: number | null) => void;
}

/** A drop-out that a stand-in scripts is no hang. */
const spareMs = 5_000;

/** Takes one queued storage trial or copy to its end, saves as it goes, and clears away what it wrote. */
export class StorageRun {
  private host: StorageHost | null = null;
  private conditions: StorageConditions | null = null;
  private progress: StorageProgress | null = null;
  private rampStreams: number[] = [];
  private load: LoadMeter | null = null;
  private readonly timeLeft = new TimeLeftEstimator();
  private saving: Promise<void> = Promise.resolve();
  private wish: 'cancel' | 'pause' | null = null;

  constructor(
    readonly trialId: string,
    private readonly parts: StorageRunParts,
  ) {}

  cancel(): void {
    this.wish = 'cancel';
    this.host?.cancel();
  }

  pause(): void {
    this.wish ??= 'pause';
    this.host?.pause();
  }

  async run(): Promise<void> {
    const trial = await persist(() => getStorageTrial(this.trialId));
    if (
      !trial ||
      !(await persist(() =>
        updateStorageTrial(trial.id, ['queued'], {
          status: 'running',
          startedAt: trial.startedAt ?? new Date(),
          outcome: null,
          detail: null,
        }),
      ))
    )
      return;
    announce({ type: 'storage-status', trialId: trial.id, volumeId: trial.volumeId, status: 'running' });
    const spec = await this.buildSpec(trial).catch((error: unknown) => {
      if (error instanceof EngineError) return error;
      throw error;
    });
    if (spec instanceof EngineError) {
      await closeStorageTrial(trial, { kind: 'failed', message: spec.message, detail: '' }, null, null);
      return;
    }
    const { conditions, load } = await beginMeasuring(trial.rigId, () => pidsOf([this.host]), [
      trial.volumeId,
      ...(trial.settings.kind === 'copy' ? trial.settings.destinations.map(({ volumeId }) => volumeId) : []),
    ]);
    this.conditions = { ...conditions, cold: null, writes: null, disturbedMs: [] };
    this.load = load;
    const end = await this.measure(spec, trial);
    await this.saving;
    await closeStorageTrial(
      { ...trial, conditions: this.conditions, rampStreams: this.rampStreams, progress: this.progress },
      end,
      load.summary(null),
      this.host?.partOfCopy ?? null,
    );
  }

  /** @throws EngineError when the volume or clip is not there any more, or may not be used */
  private async buildSpec(trial: StorageTrialRow): Promise<StorageSpec> {
    const { settings } = trial;
    const volume = await accessOf(trial.volumeId);
    switch (settings.kind) {
      case 'throughput':
        return {
          kind: 'throughput',
          trialId: trial.id,
          volume,
          settings,
          source: settings.clipId === null ? null : await clipSource(settings.clipId),
        };
      case 'streams':
        return {
          kind: 'streams',
          trialId: trial.id,
          volume,
          settings,
          source: await clipSource(settings.clipId),
        };
      case 'copy': {
        const destinations = await Promise.all(
          settings.destinations.map(async ({ volumeId, folder }) => below(await accessOf(volumeId), folder)),
        );
        return {
          kind: 'copy',
          trialId: trial.id,
          source: await below(volume, settings.folder),
          destinations,
          verify: settings.verify,
          softwareVersion: softwareVersion(),
          finished: await persist(() => listCopyFiles(trial.id)),
        };
      }
    }
  }

  private async measure(spec: StorageSpec, trial: StorageTrialRow): Promise<StorageEnd> {
    const { fault } = trial.subject.standIn ?? { fault: null };
    const watchdogMs =
      this.parts.watchdogMs + (fault?.kind === 'drop-out' ? fault.seconds * 1000 + spareMs : 0);
    const host = new StorageHost(
      this.parts.processPath,
      spec,
      {
        onPrepared: (cold, writes) => {
          if (this.conditions) this.conditions = { ...this.conditions, cold, writes };
        },
        onBlocks: ({ from, count, data }) =>
          this.queueSave(() => storeBlockBatch(this.trialId, from, count, data)),
        onStep: (streams) => {
          this.rampStreams.push(streams);
          this.queueSave(() =>
            updateStorageTrial(this.trialId, ['running'], {
              rampStreams: this.rampStreams,
              conditions: this.conditions,
            }),
          );
        },
        onCopied: (file) => this.queueSave(() => saveCopyFile(this.trialId, file)),
        onProgress: (progress) => this.onProgress(progress),
      },
      watchdogMs,
    );
    this.host = host;
    this.parts.onTrialPid(host.pid);
    if (this.wish === 'cancel') host.cancel();
    else if (this.wish === 'pause') host.pause();
    const sampler = setInterval(() => this.sampleLoad(), sampleIntervalMs);
    try {
      return await host.ended;
    } finally {
      clearInterval(sampler);
      this.parts.onTrialPid(null);
    }
  }

  private queueSave(step: () => Promise<unknown>): void {
    this.saving = this.saving.then(() => persist(step)).then(() => undefined);
    this.saving.catch(() => this.host?.cancel());
  }

  private onProgress(told: StorageProgress): void {
    this.timeLeft.observe(told.share, Date.now());
    const progress = {
      ...told,
      msLeft: told.msLeft ?? (told.share > 0 ? this.timeLeft.remainingMs(1) : null),
    };
    this.progress = progress;
    announce({ type: 'storage-progress', trialId: this.trialId, progress });
  }

  private sampleLoad(): void {
    const sample = this.load && noteLoad(this.trialId, this.load);
    if (!sample) return;
    const { progress, conditions } = this;
    if (progress && conditions && sample.othersLoad > disturbingLoad)
      this.conditions = {
        ...conditions,
        disturbedMs: withSpan(conditions.disturbedMs, progress.atMs - sampleIntervalMs, progress.atMs),
      };
    if (progress) updateStorageTrial(this.trialId, ['running'], { progress }).catch(() => undefined);
  }
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

/** A volume's folder, still there and allowed, with its model. */
async function accessOf(volumeId: string | null): Promise<VolumeAccess> {
  const volume = volumeId === null ? null : await persist(() => getVolume(volumeId));
  if (!volume)
    throw new EngineError(
      'The volume of this trial is no longer in the list. Add it again and start a new trial.',
    );
  const { path } = await inspectFolder(volume.path, allowedRoots());
  return { path, standIn: volume.standIn };
}

/** A folder of a volume, that no link leads out of. */
async function below(volume: VolumeAccess, folder: string): Promise<VolumeAccess> {
  const path = join(volume.path, folder);
  await assertInside(volume.path, path);
  return { ...volume, path };
}

async function clipSource(clipId: string): Promise<ReadSource> {
  const [clip, packets] = await persist(() => Promise.all([getClip(clipId), getPacketTable(clipId)]));
  if (!clip?.format || !packets)
    throw new EngineError(
      'The clip of this trial is no longer in the library. Scan its volume and start the trial again.',
    );
  return { path: join(clip.volumePath, clip.path), packets, rate: clip.format.rate };
}

/** Removes whatever a storage trial may have left on its volumes, however it ended. */
async function clearAway({ id, settings, subject }: StorageTrialRow): Promise<void> {
  await removeTestFiles(subject.volumePath, id);
  if (settings.kind !== 'copy') return;
  for (const { volumeId, folder } of settings.destinations) {
    const volume = await persist(() => getVolume(volumeId));
    if (volume) await removePartials(join(volume.path, folder), id);
  }
}

/**
 * Writes a storage trial's end: judges what was saved and clears away what lies
 * on the volume. Serves finished runs and, after a restart, orphaned ones.
 */
export async function closeStorageTrial(
  trial: StorageTrialRow,
  end: StorageEnd | { readonly kind: 'interrupted'; readonly message: string },
  load: StorageTrialRow['load'],
  partOfCopy: CopyResult | null,
): Promise<void> {
  await clearAway(trial);
  const result = await judge(trial, 'copy' in end ? end.copy : partOfCopy);
  const status: StorageStatus = end.kind;
  const outcome =
    'message' in end
      ? end.message
      : end.kind === 'cancelled'
        ? 'Cancelled.'
        : end.kind === 'paused'
          ? 'Paused.'
          : streamsOutcome(result);
  const reached = await persist(() =>
    updateStorageTrial(trial.id, ['queued', 'running'], {
      status,
      outcome,
      detail: 'detail' in end ? end.detail : null,
      load,
      result,
      conditions: trial.conditions,
      progress: trial.progress,
      endedAt: new Date(),
    }),
  );
  if (reached) announce({ type: 'storage-status', trialId: trial.id, volumeId: trial.volumeId, status });
}

function streamsOutcome(result: StorageResult | null): string | null {
  return result?.kind === 'streams' ? streamsSentence(result.summary) : null;
}

async function judge(trial: StorageTrialRow, copy: CopyResult | null): Promise<StorageResult | null> {
  const { settings, subject } = trial;
  if (settings.kind === 'copy') return copy && { kind: 'copy', summary: copy };
  const blocks = await persist(() => loadBlocks(trial.id));
  if (blocks.length === 0) return null;
  if (settings.kind === 'throughput') return { kind: 'throughput', summary: summariseThroughput(blocks) };
  return (
    subject.clip && {
      kind: 'streams',
      summary: summariseStreams(
        blocks,
        trial.rampStreams,
        subject.clip,
        (1e6 * subject.clip.format.rate.den) / subject.clip.format.rate.num,
        settings.mostStreams,
        await rateBeside(trial),
      ),
    }
  );
}

/** The rate that arithmetic uses: the volume's last measured sequential read, else its stand-in's model. */
async function rateBeside({ rigId, volumeId, subject: { standIn, clip } }: StorageTrialRow) {
  const measured = (await persist(() => latestThroughput(rigId))).find(
    (row) =>
      row.volumeId === volumeId &&
      row.settings.kind === 'throughput' &&
      row.settings.test === 'sequential-read',
  );
  const model = standIn && expectedRate(standIn, false, 2 ** 20);
  const sustained =
    measured?.result?.kind === 'throughput' ? measured.result.summary.read?.sustained : undefined;
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
