import { join } from 'node:path';
import { decodeSentence } from '@/core/decode/sentence';
import {
  decodeStreams,
  summariseRate,
  summariseSupport,
  type DecodeCores,
  type DecodeResult,
} from '@/core/decode/result';
import { refusedNote } from '@/core/media/faults';
import { getClip, getPacketTable } from '@/db/queries/clips';
import {
  finishedRates,
  getDecodeTrial,
  updateDecodeTrial,
  type DecodeTrialListRow,
  type DecodeTrialRow,
} from '@/db/queries/decodeTrials';
import type { DecodeRecord, TrialStatus } from '@/db/schema';
import type { DecodeProgress, DecodeSpec } from '@/engine/decode/spec';
import { EngineError } from '@/engine/errors';
import { noteClipFaults } from '../clipFaults';
import { announce } from '../events';
import { DecodeHost, type DecodeEnd } from './decodeHost';
import { beginMeasuring, measured, pidsOf } from './measuring';
import type { LoadMeter } from './loadMeter';
import { persist } from './persist';

export interface DecodeRunParts {
  readonly processPath: string;
  readonly watchdogMs: number;
  readonly onTrialPid: (pid: number | null) => void;
}

const nothing: DecodeRecord = { passes: [], costs: null, seeks: [], memoryBytes: null, steps: [] };

/** Takes one queued decode trial to its end: first pinned to one core, then on all. */
export class DecodeTrialRun {
  private host: DecodeHost | null = null;
  private cancelled = false;
  private record: DecodeRecord = nothing;
  private saving: Promise<void> = Promise.resolve();

  constructor(
    readonly trialId: string,
    private readonly parts: DecodeRunParts,
  ) {}

  cancel(): void {
    this.cancelled = true;
    this.host?.cancel();
  }

  async run(): Promise<void> {
    const trial = await persist(() => getDecodeTrial(this.trialId));
    if (
      !trial ||
      !(await persist(() =>
        updateDecodeTrial(trial.id, ['queued'], { status: 'running', startedAt: new Date() }),
      ))
    )
      return;
    announce({ type: 'decode-status', trialId: trial.id, status: 'running' });
    const source = await sourceOf(trial).catch((error: unknown) => {
      if (error instanceof EngineError) return error;
      throw error;
    });
    if (source instanceof EngineError) {
      await closeDecodeTrial(trial, { kind: 'failed', message: source.message, detail: '' }, null);
      return;
    }
    const { volumeId, ...spec } = source;
    const { conditions, load } = await beginMeasuring(trial.rigId, () => pidsOf([this.host]), [volumeId]);
    let end: DecodeEnd = { kind: 'done' };
    const parts: readonly DecodeCores[] = trial.settings.kind === 'streams' ? ['all'] : ['one', 'all'];
    for (const [index, cores] of parts.entries()) {
      if (end.kind === 'done' && !this.cancelled)
        end = await this.measure(trial.clipId, { ...spec, cores }, index, parts.length, load);
    }
    await this.saving;
    await closeDecodeTrial(
      { ...trial, conditions, record: this.record },
      this.cancelled ? { kind: 'cancelled' } : end,
      load.summary(null),
    );
  }

  private async measure(
    clipId: string | null,
    spec: DecodeSpec,
    part: number,
    parts: number,
    load: LoadMeter,
  ): Promise<DecodeEnd> {
    const host = new DecodeHost(
      this.parts.processPath,
      spec,
      {
        onProgress: (progress) => this.onProgress(progress, part, parts),
        onPass: (pass) => this.keep({ passes: [...this.record.passes, pass] }),
        onCosts: ({ type, costUs }) =>
          this.keep({ costs: { type: [...type], costUs: [...costUs].map(Math.round) } }),
        onSeeks: (seeks) => this.keep({ seeks }),
        onMemory: (memoryBytes) => this.keep({ memoryBytes }),
        onFaults: (faults) => {
          this.keep({ faults });
          this.save(() => noteClipFaults(clipId, faults));
        },
        onStreams: (step) => this.keep({ steps: [...this.record.steps, step] }),
      },
      this.parts.watchdogMs,
    );
    this.host = host;
    if (this.cancelled) host.cancel();
    return measured(this.trialId, host, load, this.parts.onTrialPid);
  }

  private keep(change: Partial<DecodeRecord>): void {
    this.record = { ...this.record, ...change };
    const { record } = this;
    this.save(() => updateDecodeTrial(this.trialId, ['running'], { record }));
  }

  private save(step: () => Promise<unknown>): void {
    this.saving = this.saving.then(() => persist(step)).then(() => undefined);
    this.saving.catch(() => this.host?.cancel());
  }

  /** The parts follow each other and take about as long: time left counts those still to come. */
  private onProgress(told: DecodeProgress, part: number, parts: number): void {
    const share = (part + told.share) / parts;
    const msLeft =
      told.msLeft === null
        ? null
        : told.msLeft + (parts - part - 1) * (told.msLeft / Math.max(0.05, 1 - told.share));
    announce({ type: 'decode-progress', trialId: this.trialId, progress: { ...told, share, msLeft } });
  }
}

async function sourceOf(
  trial: DecodeTrialRow,
): Promise<Omit<DecodeSpec, 'cores'> & { readonly volumeId: string }> {
  const { clipId } = trial;
  const [clip, packets] =
    clipId === null
      ? [null, null]
      : await persist(() => Promise.all([getClip(clipId), getPacketTable(clipId)]));
  if (!clip?.format || !clip.setup || !packets || clip.status !== 'ready')
    throw new EngineError(
      'The clip of this trial is no longer there or no longer playable. Scan its volume and start the trial again.',
    );
  return {
    path: join(clip.volumePath, clip.path),
    setup: clip.setup,
    format: clip.format,
    packets,
    settings: trial.settings,
    volumeId: clip.volumeId,
  };
}

/** Writes a decode trial's end and judges what was measured. Serves finished runs and, after a restart, orphaned ones. */
export async function closeDecodeTrial(
  trial: DecodeTrialRow,
  end: DecodeEnd | { readonly kind: 'interrupted'; readonly message: string },
  load: DecodeTrialRow['load'],
): Promise<void> {
  const result = await judge(trial);
  const status: TrialStatus = end.kind;
  const answer =
    result === null
      ? null
      : decodeSentence(result, rateOf(trial), trial.subject.device?.name ?? null) +
        refusedNote(trial.record?.faults);
  const outcome = 'message' in end ? end.message : end.kind === 'cancelled' ? 'Cancelled.' : answer;
  const reached = await persist(() =>
    updateDecodeTrial(trial.id, ['queued', 'running'], {
      status,
      outcome,
      detail: 'detail' in end ? end.detail : null,
      load,
      result,
      conditions: trial.conditions,
      record: trial.record,
      progress: null,
      endedAt: new Date(),
    }),
  );
  if (reached) announce({ type: 'decode-status', trialId: trial.id, status });
}

function rateOf({ settings, subject }: DecodeTrialRow) {
  return settings.kind === 'streams' ? settings.rate : subject.format.rate;
}

async function judge({ rigId, settings, subject, record }: DecodeTrialRow): Promise<DecodeResult | null> {
  if (!record) return null;
  const { passes, costs, seeks, memoryBytes, steps } = record;
  switch (settings.kind) {
    case 'rate':
      return passes.length === 0
        ? null
        : summariseRate({
            passes,
            costs: costs && { type: Uint8Array.from(costs.type), costUs: Float64Array.from(costs.costUs) },
            seeks,
            memoryBytes,
            format: subject.format,
            meanBitsPerSecond: subject.meanBitsPerSecond,
          });
    case 'support':
      return summariseSupport(passes);
    case 'streams':
      return steps.length === 0
        ? null
        : decodeStreams(
            steps,
            measuredRate(await persist(() => finishedRates(rigId)), subject.contentHash),
            settings.rate,
          );
  }
}

/** The newest decode rate on all cores of the same content, frames per second. */
function measuredRate(trials: readonly DecodeTrialListRow[], contentHash: string | null): number | null {
  const twin = trials.find(
    ({ subject, result }) =>
      subject.contentHash !== null &&
      subject.contentHash === contentHash &&
      result?.kind === 'rate' &&
      result.all !== null,
  );
  return twin?.result?.kind === 'rate' ? (twin.result.all?.framesPerSecond.median ?? null) : null;
}
