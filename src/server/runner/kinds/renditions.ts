import { access, mkdir, rm } from 'node:fs/promises';
import { availableParallelism } from 'node:os';
import { basename, dirname, join } from 'node:path';
import { fileName } from '@/core/media/fileName';
import { isRefuted } from '@/core/rendition/frameCheck';
import { limiterOf, bestLanes } from '@/core/tasks/limiter';
import { TimeLeftEstimator } from '@/core/tasks/timeLeft';
import type { TrialRow } from '@/db/kinds';
import { getClip, updateClips, type ClipWithVolume } from '@/db/queries/clips';
import {
  countRenditionItems,
  findMadeRendition,
  listRenditionItems,
  updateRenditionItem,
  type RenditionItemRow,
} from '@/db/queries/renditions';
import { getVolume } from '@/db/queries/volumes';
import { EngineError, errorCode, fileError, fileErrorMessage } from '@/engine/errors';
import { settleBeside } from '@/engine/settle';
import type { RenditionSpec } from '@/engine/rendition/spec';
import { assertInside, inspectVolume } from '@/engine/volume';
import { noteClipFaults } from '../../library/clipFaults';
import { announce } from '../../platform/events';
import { regroup } from '../../library/footage';
import { allowedRoots } from '../../library/roots';
import { networkLinks } from '../shared/measuring';
import { retryWhileAway } from '../shared/retryWhileAway';
import { clipId, recordFile } from '../shared/scan';
import type { KindRunner, Measured, TrialRun } from '../trialRun';
import type { BadEnd, LastWord, ProcessEnd } from '../shared/watchedProcess';
import type { LanesMeasured, RenditionRecord } from '@/core/kinds/renditions';
import { renditionsSentence, checkSentence } from '@/core/sentences/renditions';

type Batch = TrialRow<'renditions'>;

/** Media that is made to measure how many clips at a time are best, seconds of each clip. */
const sampleSeconds = 2;

/** Makes a batch of renditions, several clips at a time. What is made stays; a clip under way at a stop begins again. */
export const renditions: KindRunner<'renditions'> = {
  prepare: (batch) =>
    Promise.resolve({
      volumeIds: batch.volumeIds,
      measure: (run) => new RenditionsRun(run, batch).measure(),
    }),
  async judge(batch, { status, outcome }) {
    const items = await retryWhileAway(() => listRenditionItems(batch.id));
    for (const item of items.filter((one) => one.status === 'running'))
      await retryWhileAway(() => updateRenditionItem(item.id, { status: 'waiting' }));
    const counts = (await retryWhileAway(() => countRenditionItems([batch.id]))).get(batch.id);
    const summary = {
      items: 0,
      made: 0,
      present: 0,
      failed: 0,
      ...counts,
      frames: items.reduce(
        (sum, { status: end, work }) => sum + (end === 'made' ? (work?.frames ?? 0) : 0),
        0,
      ),
      workedMs: batch.record?.workedMs ?? 0,
    };
    return { summary, outcome: status === 'failed' ? outcome : renditionsSentence(summary) };
  },
};

interface Todo {
  readonly item: RenditionItemRow;
  readonly source: ClipWithVolume;
}

/** One batch under way. */
class RenditionsRun {
  private readonly begunMs = Date.now();
  private readonly timeLeft = new TimeLeftEstimator(4_000, 20_000);
  private record: RenditionRecord;
  private framesDone = 0;
  private framesTotal = 0;
  private note = '';
  private lastFrames = 0;
  private lastMs = Date.now();

  constructor(
    private readonly run: TrialRun<'renditions'>,
    private readonly batch: Batch,
  ) {
    this.record = batch.record ?? { lanes: null, workedMs: 0 };
  }

  async measure(): Promise<Measured<'renditions'>> {
    this.run.onSample = () => this.sample();
    try {
      await this.makeAll();
    } finally {
      this.keep({ workedMs: this.record.workedMs + Date.now() - this.begunMs });
      await retryWhileAway(() => regroup(this.batch.rigId));
    }
    const { wish } = this.run;
    return { end: { kind: wish === 'cancel' ? 'cancelled' : wish === 'pause' ? 'paused' : 'done' } };
  }

  private keep(change: Partial<RenditionRecord>): void {
    this.record = { ...this.record, ...change };
    this.run.keep(this.record);
  }

  private async makeAll(): Promise<void> {
    const { batch } = this;
    const folder = await targetFolder(batch);
    const items = (await retryWhileAway(() => listRenditionItems(batch.id))).filter(
      ({ status }) => status === 'waiting' || status === 'running' || status === 'failed',
    );
    const todo: Todo[] = [];
    for (const item of items) {
      const source = await this.prepare(item);
      if (source) todo.push({ item, source });
    }
    this.framesTotal = todo.reduce((sum, { item }) => sum + item.sourceFrames, 0);
    if (todo.length === 0) return;
    if (this.run.load)
      this.run.load.readsOver(
        await networkLinks([batch.settings.volumeId, ...todo.map(({ source }) => source.volumeId)]),
      );
    const lanes = batch.settings.lanes ?? (await this.measureLanes(todo, folder));
    const waiting = [...todo];
    const work = async () => {
      for (let next = waiting.shift(); next && this.run.wish === null; next = waiting.shift())
        await this.make(next, folder, lanes);
    };
    await Promise.all(Array.from({ length: Math.min(lanes, todo.length) }, work));
  }

  /** What a rendition is made of, or null when there is nothing to make: it is there already, or its source is not. */
  private async prepare(item: RenditionItemRow): Promise<ClipWithVolume | null> {
    const { sourceHash, settingsKey, sourceClipId } = item;
    const made =
      sourceHash === null ? null : await retryWhileAway(() => findMadeRendition(sourceHash, settingsKey));
    if (made && (await isThere(join(made.volumePath, made.clipPath)))) {
      await retryWhileAway(() =>
        updateRenditionItem(item.id, {
          status: 'present',
          outcome: `It already exists, made from the same content with the same settings: ${made.clipPath} on ${made.volumeName}.`,
          outputClipId: made.clipId,
        }),
      );
      return null;
    }
    const source = sourceClipId === null ? null : await retryWhileAway(() => getClip(sourceClipId));
    if (source?.format && source.identity && source.status === 'ready') return source;
    await retryWhileAway(() =>
      updateRenditionItem(item.id, {
        status: 'failed',
        outcome: source?.problem ?? 'Its source is no longer in the library. Scan its volume and go on.',
      }),
    );
    return null;
  }

  /** Tries 1, 2, 3 ... clips at a time on the beginnings of the first clips, up to the cores. */
  private async measureLanes(todo: readonly Todo[], folder: string): Promise<number> {
    const most = Math.min(availableParallelism(), todo.length);
    if (most === 1) return 1;
    const rates: number[] = [];
    for (let lanes = 1; lanes <= most && this.run.wish === null; lanes++) {
      this.note = `Measuring ${lanes} of ${most} at a time`;
      const begun = performance.now();
      const ends = await Promise.all(
        todo.slice(0, lanes).map(async ({ item, source }) => {
          const spec = specOf(
            this.batch,
            item,
            source,
            join(folder, `.sample-${item.id}.partial.mov`),
            lanes,
          );
          const sampleFrames = Math.ceil((sampleSeconds * spec.rate.num) / spec.rate.den);
          const end = await this.perform({
            ...spec,
            sampleFrames: Math.min(item.sourceFrames, sampleFrames),
          });
          await rm(spec.outputPath, { force: true });
          return end;
        }),
      );
      const frames = ends.reduce(
        (sum, end) => sum + (end.kind === 'done' ? (end.last.work?.frames ?? 0) : 0),
        0,
      );
      rates.push((frames / (performance.now() - begun)) * 1000);
    }
    const lanes: LanesMeasured = { rates, chosen: bestLanes(rates) };
    this.keep({ lanes });
    return lanes.chosen;
  }

  private perform(
    spec: RenditionSpec,
    onFrames: (frames: number) => void = () => undefined,
  ): Promise<ProcessEnd<'rendition'>> {
    return this.run.perform('rendition', spec, {
      onMessage: ({ progress: { phase, frames } }) => onFrames(phase === 'making' ? frames : spec.frames),
    });
  }

  private async make({ item, source }: Todo, folder: string, lanes: number): Promise<void> {
    const { batch } = this;
    const within = batch.settings.folder === '' ? 0 : batch.settings.folder.length + 1;
    const output = join(folder, item.outputPath.slice(within));
    const partial = join(dirname(output), `.${item.id}.partial.mov`);
    await retryWhileAway(() =>
      updateRenditionItem(item.id, { status: 'running', outcome: null, detail: null }),
    );
    this.note = fileName(item.sourcePath);
    let counted = 0;
    const end = await prepareFolder(output).then(
      () =>
        this.perform(specOf(batch, item, source, partial, lanes), (frames) => {
          this.framesDone += Math.max(0, frames - counted);
          counted = Math.max(counted, frames);
        }),
      (error: unknown): BadEnd => ({
        kind: 'failed',
        message: fileErrorMessage(error, dirname(output)),
        detail: '',
      }),
    );
    if (end.kind === 'done') await this.finish({ item, source }, end.last, partial, output);
    else {
      await rm(partial, { force: true });
      this.framesDone += item.sourceFrames - counted;
      await retryWhileAway(() =>
        updateRenditionItem(
          item.id,
          'message' in end
            ? { status: 'failed', outcome: end.message, detail: 'detail' in end ? end.detail : null }
            : { status: 'waiting' },
        ),
      );
    }
    announce({
      type: 'trial-status',
      trialId: batch.id,
      kind: 'renditions',
      volumeIds: batch.volumeIds,
      status: 'running',
    });
  }

  /** A rendition is taken into the library as one of its footage; one that its check speaks against is not kept. */
  private async finish(
    { item, source }: Todo,
    { work, check }: LastWord<'rendition'>,
    partial: string,
    output: string,
  ): Promise<void> {
    const faults = work?.faults;
    if (faults) await retryWhileAway(() => noteClipFaults(source.id, faults));
    const notKept = async (why: string) => {
      await rm(partial, { force: true });
      await retryWhileAway(() =>
        updateRenditionItem(item.id, {
          status: 'failed',
          outcome: `It was made but not kept: ${why}`,
          work,
          frameCheck: check,
        }),
      );
    };
    if (!work || check === null || isRefuted(check)) {
      await notKept(check ? checkSentence(check) : 'its frames could not be checked.');
      return;
    }
    try {
      await settleBeside(partial, output);
    } catch (error) {
      if (errorCode(error) !== 'EEXIST') throw error;
      await notKept(
        `meanwhile another file took the name ${basename(output)}. Move that away, then continue.`,
      );
      return;
    }
    const { volumeId } = this.batch.settings;
    const id = clipId(volumeId, item.outputPath);
    const volume = await retryWhileAway(() => getVolume(volumeId));
    await retryWhileAway(() =>
      recordFile({ id, volumeId, folder: volume?.path ?? '', path: item.outputPath }, this.run.parts.reader),
    );
    if (source.footageId !== null)
      await retryWhileAway(() => updateClips([id], { footageId: source.footageId, footageHand: 'grouped' }));
    const limiter = limiterOf(work.stageUs, work.wallUs);
    await retryWhileAway(() =>
      updateRenditionItem(item.id, {
        status: 'made',
        outcome: limiter ? `Held back by ${limiter.stage}.` : null,
        outputClipId: id,
        work,
        frameCheck: check,
      }),
    );
    announce({ type: 'clips' });
  }

  private sample(): void {
    const now = Date.now();
    this.timeLeft.observe(this.framesDone, now);
    const progress = {
      framesDone: this.framesDone,
      framesTotal: this.framesTotal,
      note: this.note,
      msLeft: this.timeLeft.remainingMs(this.framesTotal),
      framesPerSecond: Math.max(0, ((this.framesDone - this.lastFrames) / (now - this.lastMs)) * 1000),
    };
    this.lastFrames = this.framesDone;
    this.lastMs = now;
    this.run.reach(progress);
    this.run.tell(progress);
  }
}

const isThere = (path: string) =>
  access(path).then(
    () => true,
    () => false,
  );

async function prepareFolder(output: string): Promise<void> {
  await mkdir(dirname(output), { recursive: true });
  if (await isThere(output)) throw Object.assign(new Error(output), { code: 'EEXIST' });
}

function specOf(
  { settings }: Batch,
  item: RenditionItemRow,
  source: ClipWithVolume,
  outputPath: string,
  lanes: number,
): RenditionSpec {
  const { format, identity } = source;
  if (!format || !identity) throw new EngineError('not-read-fully', { path: source.path });
  return {
    sourcePath: join(source.volumePath, source.path),
    outputPath,
    presetId: settings.presetId,
    raster: settings.raster,
    rate: format.rate,
    frames: item.sourceFrames,
    identity: { timing: identity.timing, rotation: identity.rotation, scan: identity.scan },
    startTimecode: source.startTimecode,
    threads: Math.max(1, Math.round(availableParallelism() / lanes)),
    sampleFrames: null,
  };
}

/** The folder that renditions go to, there and writable. @throws EngineError saying what is wrong with it */
async function targetFolder({ settings }: Batch): Promise<string> {
  const volume = await retryWhileAway(() => getVolume(settings.volumeId));
  if (!volume) throw new EngineError('renditions-target-gone');
  const { path, facts } = await inspectVolume(volume.path, allowedRoots());
  if (!facts.writable) throw new EngineError('renditions-target-read-only', { path });
  const folder = join(path, settings.folder);
  await assertInside(path, folder);
  await mkdir(folder, { recursive: true }).catch((error: unknown) => {
    throw fileError(error, folder);
  });
  return folder;
}
