import { fileName } from '@/core/media/fileName';
import { access, mkdir, rename, rm } from 'node:fs/promises';
import { availableParallelism } from 'node:os';
import { dirname, join } from 'node:path';
import { checkSentence, isRefuted, type FrameCheck } from '@/core/rendition/frameCheck';
import { limiterOf, bestLanes } from '@/core/tasks/limiter';
import { TimeLeftEstimator } from '@/core/tasks/timeLeft';
import { getClip, updateClips, type ClipWithVolume } from '@/db/queries/clips';
import {
  findMadeRendition,
  getRenditionJob,
  listRenditionItems,
  updateRenditionItem,
  updateRenditionJob,
  type RenditionItemRow,
  type RenditionJobRow,
} from '@/db/queries/renditions';
import { getVolume } from '@/db/queries/volumes';
import type { LanesMeasured, RenditionProgressNote, RenditionStatus } from '@/db/schema';
import { EngineError, fileErrorMessage } from '@/engine/errors';
import type { RenditionSpec, RenditionWork } from '@/engine/rendition/spec';
import { assertInside, inspectFolder } from '@/engine/volume';
import { noteClipFaults } from '../clipFaults';
import { announce } from '../events';
import { regroup } from '../footage';
import { allowedRoots } from '../roots';
import type { LoadMeter } from './loadMeter';
import type { MediaReader } from './mediaReader';
import { areOverNetwork, beginMeasuring, noteLoad, pidsOf, sampleIntervalMs } from './measuring';
import { persist } from './persist';
import { RenditionHost, type RenditionEnd } from './renditionHost';
import { clipId, recordFile } from './scan';

export interface RenditionRunParts {
  readonly processPath: string;
  readonly watchdogMs: number;
  readonly reader: MediaReader;
  readonly onTrialPid: (pid: number | null) => void;
}

/** Media that is made to measure how many clips at a time are best, seconds of each clip. */
const sampleSeconds = 2;

/** Takes a batch of renditions to its end, several clips at a time. What is made stays; a clip under way at a stop begins again. */
export class RenditionJobRun {
  private readonly hosts = new Map<RenditionHost, { frames: number }>();
  private load: LoadMeter | null = null;
  private readonly timeLeft = new TimeLeftEstimator(4_000, 20_000);
  private wish: 'cancel' | 'pause' | null = null;
  private framesDone = 0;
  private framesTotal = 0;
  private note = '';
  private lastFrames = 0;
  private lastMs = Date.now();

  constructor(
    readonly trialId: string,
    private readonly parts: RenditionRunParts,
  ) {}

  cancel(): void {
    this.wish = 'cancel';
    for (const host of this.hosts.keys()) host.cancel();
  }

  pause(): void {
    this.wish ??= 'pause';
    for (const host of this.hosts.keys()) host.cancel();
  }

  async run(): Promise<void> {
    const job = await persist(() => getRenditionJob(this.trialId));
    if (
      !job ||
      !(await persist(() =>
        updateRenditionJob(job.id, ['queued'], {
          status: 'running',
          startedAt: job.startedAt ?? new Date(),
          outcome: null,
        }),
      ))
    )
      return;
    announce({ type: 'rendition-status', jobId: job.id, status: 'running' });
    const begun = Date.now();
    const { conditions, load } = await beginMeasuring(job.rigId, () => pidsOf(this.hosts.keys()), []);
    this.load = load;
    await persist(() => updateRenditionJob(job.id, ['running'], { conditions }));
    const sampler = setInterval(() => this.sample(), sampleIntervalMs);
    let problem: string | null = null;
    try {
      await this.makeAll(job);
    } catch (error) {
      if (!(error instanceof EngineError)) throw error;
      problem = error.message;
    } finally {
      clearInterval(sampler);
      this.parts.onTrialPid(null);
    }
    await persist(() => regroup(job.rigId));
    await closeRenditionJob(job, problem, this.wish, load.summary(null), job.workedMs + Date.now() - begun);
  }

  private async makeAll(job: RenditionJobRow): Promise<void> {
    const folder = await targetFolder(job);
    const items = (await persist(() => listRenditionItems(job.id))).filter(
      ({ status }) => status === 'waiting' || status === 'running' || status === 'failed',
    );
    const todo: { readonly item: RenditionItemRow; readonly source: ClipWithVolume }[] = [];
    for (const item of items) {
      const source = await this.prepare(item);
      if (source) todo.push({ item, source });
    }
    this.framesTotal = todo.reduce((sum, { item }) => sum + item.sourceFrames, 0);
    if (todo.length === 0) return;
    if (this.load)
      this.load.overNetwork = await areOverNetwork([
        job.settings.volumeId,
        ...todo.map(({ source }) => source.volumeId),
      ]);
    const lanes = job.settings.lanes ?? (await this.measureLanes(job, todo, folder));
    const waiting = [...todo];
    const work = async () => {
      for (let next = waiting.shift(); next && this.wish === null; next = waiting.shift())
        await this.make(job, next.item, next.source, folder, lanes);
    };
    await Promise.all(Array.from({ length: Math.min(lanes, todo.length) }, work));
  }

  /** What a rendition is made of, or null when there is nothing to make: it is there already, or its source is not. */
  private async prepare(item: RenditionItemRow): Promise<ClipWithVolume | null> {
    const { sourceHash, settingsKey, sourceClipId } = item;
    const made = sourceHash === null ? null : await persist(() => findMadeRendition(sourceHash, settingsKey));
    if (
      made &&
      (await access(join(made.volumePath, made.clipPath)).then(
        () => true,
        () => false,
      ))
    ) {
      await persist(() =>
        updateRenditionItem(item.id, {
          status: 'present',
          outcome: `It is there already, made of the same content with the same settings: ${made.clipPath} on ${made.volumeName}.`,
          outputClipId: made.clipId,
        }),
      );
      return null;
    }
    const source = sourceClipId === null ? null : await persist(() => getClip(sourceClipId));
    if (source?.format && source.identity && source.status === 'ready') return source;
    await persist(() =>
      updateRenditionItem(item.id, {
        status: 'failed',
        outcome: source?.problem ?? 'Its source is no longer in the library. Scan its volume and go on.',
      }),
    );
    return null;
  }

  /** Tries 1, 2, 3 ... clips at a time on the beginnings of the first clips, up to the cores. */
  private async measureLanes(
    job: RenditionJobRow,
    todo: readonly { readonly item: RenditionItemRow; readonly source: ClipWithVolume }[],
    folder: string,
  ): Promise<number> {
    const most = Math.min(availableParallelism(), todo.length);
    if (most === 1) return 1;
    const rates: number[] = [];
    for (let lanes = 1; lanes <= most && this.wish === null; lanes++) {
      this.note = `Measuring ${lanes} of ${most} at a time`;
      const begun = performance.now();
      const ends = await Promise.all(
        todo.slice(0, lanes).map(async ({ item, source }) => {
          const spec = specOf(job, item, source, join(folder, `.sample-${item.id}.partial.mov`), lanes);
          const end = await this.host({
            ...spec,
            sampleFrames: Math.min(
              item.sourceFrames,
              Math.ceil((sampleSeconds * spec.rate.num) / spec.rate.den),
            ),
          });
          await rm(spec.outputPath, { force: true });
          return end;
        }),
      );
      const frames = ends.reduce((sum, end) => sum + (end.kind === 'done' ? end.work.frames : 0), 0);
      rates.push((frames / (performance.now() - begun)) * 1000);
    }
    const lanes: LanesMeasured = { rates, chosen: bestLanes(rates) };
    await persist(() => updateRenditionJob(job.id, ['running'], { lanes }));
    return lanes.chosen;
  }

  private host(
    spec: RenditionSpec,
    onFrames: (frames: number) => void = () => undefined,
  ): Promise<RenditionEnd> {
    const host = new RenditionHost(
      this.parts.processPath,
      spec,
      ({ phase, frames }) => onFrames(phase === 'making' ? frames : spec.frames),
      this.parts.watchdogMs,
    );
    this.hosts.set(host, { frames: 0 });
    this.parts.onTrialPid(host.pid);
    if (this.wish !== null) host.cancel();
    return host.ended.finally(() => {
      this.hosts.delete(host);
    });
  }

  private async make(
    job: RenditionJobRow,
    item: RenditionItemRow,
    source: ClipWithVolume,
    folder: string,
    lanes: number,
  ): Promise<void> {
    const output = join(
      folder,
      item.outputPath.slice(job.settings.folder === '' ? 0 : job.settings.folder.length + 1),
    );
    const partial = join(dirname(output), `.${item.id}.partial.mov`);
    await persist(() => updateRenditionItem(item.id, { status: 'running', outcome: null, detail: null }));
    this.note = fileName(item.sourcePath);
    let counted = 0;
    const end = await this.prepareFolder(output).then(
      () =>
        this.host(specOf(job, item, source, partial, lanes), (frames) => {
          this.framesDone += Math.max(0, frames - counted);
          counted = Math.max(counted, frames);
        }),
      (error: unknown): RenditionEnd => ({
        kind: 'failed',
        message: fileErrorMessage(error, dirname(output)),
        detail: '',
      }),
    );
    if (end.kind === 'done') await this.finish(job, item, source, end.work, end.check, partial, output);
    else {
      await rm(partial, { force: true });
      this.framesDone += item.sourceFrames - counted;
      await persist(() =>
        updateRenditionItem(
          item.id,
          end.kind === 'cancelled'
            ? { status: 'waiting' }
            : { status: 'failed', outcome: end.message, detail: 'detail' in end ? end.detail : null },
        ),
      );
    }
    announce({ type: 'rendition-status', jobId: job.id, status: 'running' });
  }

  private async prepareFolder(output: string): Promise<void> {
    await mkdir(dirname(output), { recursive: true });
    if (
      await access(output).then(
        () => true,
        () => false,
      )
    )
      throw Object.assign(new Error(output), { code: 'EEXIST' });
  }

  /** A rendition is taken into the library as one of its footage; one that its check speaks against is not kept. */
  private async finish(
    job: RenditionJobRow,
    item: RenditionItemRow,
    source: ClipWithVolume,
    work: RenditionWork,
    check: FrameCheck | null,
    partial: string,
    output: string,
  ): Promise<void> {
    const { faults } = work;
    if (faults) await persist(() => noteClipFaults(source.id, faults));
    if (check === null || isRefuted(check)) {
      await rm(partial, { force: true });
      await persist(() =>
        updateRenditionItem(item.id, {
          status: 'failed',
          outcome: `It was made but not kept: ${check ? checkSentence(check) : 'its frames could not be checked.'}`,
          work,
          frameCheck: check,
        }),
      );
      return;
    }
    await rename(partial, output);
    const id = clipId(job.settings.volumeId, item.outputPath);
    const volume = await persist(() => getVolume(job.settings.volumeId));
    await persist(() =>
      recordFile(
        { id, volumeId: job.settings.volumeId, folder: volume?.path ?? '', path: item.outputPath },
        this.parts.reader,
      ),
    );
    if (source.footageId !== null)
      await persist(() => updateClips([id], { footageId: source.footageId, footageHand: 'grouped' }));
    const limiter = limiterOf(work.stageUs, work.wallUs);
    await persist(() =>
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
    if (this.load) noteLoad(this.trialId, this.load);
    const now = Date.now();
    this.timeLeft.observe(this.framesDone, now);
    const progress: RenditionProgressNote = {
      framesDone: this.framesDone,
      framesTotal: this.framesTotal,
      note: this.note,
      msLeft: this.timeLeft.remainingMs(this.framesTotal),
      framesPerSecond: Math.max(0, ((this.framesDone - this.lastFrames) / (now - this.lastMs)) * 1000),
    };
    this.lastFrames = this.framesDone;
    this.lastMs = now;
    announce({ type: 'rendition-progress', jobId: this.trialId, progress });
    updateRenditionJob(this.trialId, ['running'], { progress }).catch(() => undefined);
  }
}

function specOf(
  { settings }: RenditionJobRow,
  item: RenditionItemRow,
  source: ClipWithVolume,
  outputPath: string,
  lanes: number,
): RenditionSpec {
  const { format, identity } = source;
  if (!format || !identity)
    throw new EngineError(`${source.path} was not read fully. Scan its volume again.`);
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
async function targetFolder({ settings }: RenditionJobRow): Promise<string> {
  const volume = await persist(() => getVolume(settings.volumeId));
  if (!volume)
    throw new EngineError(
      'The volume that the renditions go to is no longer in the list. Add it again and start anew.',
    );
  const { path, facts } = await inspectFolder(volume.path, allowedRoots());
  if (!facts.writable)
    throw new EngineError(`${path} is read-only. Choose another volume for the renditions.`);
  const folder = join(path, settings.folder);
  await assertInside(path, folder);
  await mkdir(folder, { recursive: true }).catch((error: unknown) => {
    throw new EngineError(fileErrorMessage(error, folder), { cause: error });
  });
  return folder;
}

/** Writes a batch's end. Serves finished runs and, after a restart, orphaned ones. */
export async function closeRenditionJob(
  job: RenditionJobRow,
  problem: string | null,
  wish: 'cancel' | 'pause' | 'interrupted' | null,
  load: RenditionJobRow['load'],
  workedMs: number,
): Promise<void> {
  const items = await persist(() => listRenditionItems(job.id));
  const count = (status: RenditionItemRow['status']) => items.filter((item) => item.status === status).length;
  for (const item of items.filter(({ status }) => status === 'running'))
    await persist(() => updateRenditionItem(item.id, { status: 'waiting' }));
  const status: RenditionStatus =
    problem !== null
      ? 'failed'
      : wish === 'cancel'
        ? 'cancelled'
        : wish === 'pause'
          ? 'paused'
          : wish === 'interrupted'
            ? 'interrupted'
            : 'done';
  const parts = [
    `${count('made')} of ${items.length} made`,
    count('present') > 0 ? `${count('present')} there already` : '',
    count('failed') > 0 ? `${count('failed')} failed` : '',
  ].filter(Boolean);
  if (
    await persist(() =>
      updateRenditionJob(job.id, ['queued', 'running'], {
        status,
        outcome: problem ?? `${parts.join(', ')}.`,
        load,
        workedMs,
        progress: null,
        endedAt: new Date(),
      }),
    )
  )
    announce({ type: 'rendition-status', jobId: job.id, status });
}
