import { hasFiles } from '../media/joinedFiles';
import type { TimelineSpec } from '../timeline/spec';
import { availableParallelism } from 'node:os';
import { join } from 'node:path';
import { avGetPixFmtFromName, type Frame } from 'node-av/lib';
import type { TaskProgress, TaskRecord } from '@/core/kinds/shared/task';
import type { FrameNotes } from '@/core/rendition/frameCheck';
import { analysisFrames, picturesPerSlot } from '@/core/tasks/analysis';
import { deviceName } from '@/core/decode/standIns';
import { standInTimes, type TaskEncoder } from '@/core/tasks/encodeDevices';
import { likelyBytes } from '@/core/tasks/exportCodecs';
import { proveOutput } from '@/core/tasks/outputProof';
import type { TaskStage } from '@/core/tasks/pipeline';
import { soundPlan } from '@/core/tasks/soundPlan';
import { toNumber } from '@/core/time/rational';
import { planCourse } from '@/core/timeline/course';
import { monotonicUs } from '../clock';
import { DeviceFrames } from '../codec/deviceFrames';
import { CodecEncoder, type PictureEncoder } from '../codec/pictureEncoder';
import type { VideoEncoderChoice } from '../codec/videoEncoder';
import { EngineError } from '../errors';
import { OpenTimeline } from '../timeline/openTimeline';
import { FilterStage } from './filterStage';
import { LikenessMeter } from './likeness';
import { outputPath, OutputFile } from './outputFile';
import type { PictureStage } from './pictureStage';
import { ProgressMeter, reportMs } from './progressMeter';
import { decodeOutput } from './proof';
import { assertRoomFor, keepOutput, makeScratch, removeScratch } from './scratch';
import { SlotPictures } from './slotPictures';
import { SoundMix } from './soundMix';
import type { TaskSpec } from './spec';
import { shortestWindowMs, StageWatch } from './stageWatch';
import { StandInEncoder } from './standInEncoder';
import { encoderChoice, encoderOf } from './taskEncoder';
import { roomsFor, TaskPipeline } from './taskPipeline';
import { ThreadOwners } from './threadOwners';
import { TrackStage } from './trackStage';
import { proofSentence } from '@/core/sentences/tasks';

export interface TaskWatcher {
  readonly onProgress: (progress: TaskProgress) => void;
  readonly onRecord: (record: Partial<TaskRecord>) => void;
  /** A picture that goes to the encoder; `release` when done with it. */
  readonly onPicture: (picture: Frame, frame: number, release: () => void) => void;
  /** Resolves when it is done with all that it was given. */
  readonly picturesDone: () => Promise<void>;
}

/** Makes a file of a course of a timeline: reads, decodes, processes, encodes and writes at the same time, then proves what was written. */
export class TaskRun {
  private stopping = false;
  private phase: TaskProgress['phase'] = 'opening';
  private proved = 0;
  private readonly owners = new ThreadOwners();
  private readonly watch = new StageWatch(this.owners);
  private pipeline: TaskPipeline | null = null;
  private meter = new ProgressMeter();
  private beganUs = monotonicUs();
  private readonly total: number;
  /** Pictures that come of one slot, of the first one alone. */
  private readonly perSlot: number;
  private stage: PictureStage | null = null;
  /** Which encoder writes, and what it takes. */
  private readonly told: TaskEncoder;
  /** Length of what is made. */
  private readonly seconds: number;
  /** The most that it may well take. */
  private readonly likelyBytes: number;
  /** The most threads that worked for each stage so far. */
  private readonly threads: Record<TaskStage, number> = {
    read: 1,
    decode: 1,
    process: 1,
    encode: 1,
    write: 1,
  };

  constructor(
    private readonly spec: TaskSpec,
    private readonly watcher: TaskWatcher,
  ) {
    const { timeline, course } = spec.source;
    this.total = analysisFrames(course.slots, spec.analysis ?? null);
    this.perSlot = spec.analysis ? picturesPerSlot(spec.analysis) : 1;
    this.seconds = this.total / toNumber(timeline.rate);
    this.told = encoderOf(spec);
    this.likelyBytes = likelyBytes(spec.output, {
      ...timeline,
      frames: this.total,
      seconds: this.seconds,
    });
  }

  stop(): void {
    this.stopping = true;
    this.pipeline?.stop();
  }

  /** @throws EngineError saying what stopped it */
  async run(): Promise<void> {
    const { source, output, target, keepIn } = this.spec;
    await assertRoomFor(target.path, this.likelyBytes);
    const opened = await OpenTimeline.open(source, this.spec);
    this.watcher.onRecord({ cold: opened.cold });
    const reporter = setInterval(() => this.report(), reportMs);
    try {
      const path = outputPath(await makeScratch(target.path, this.spec.trialId), output);
      const written = await this.make(opened, path);
      const made = written && !this.stopping ? await this.prove(written, path) : null;
      if (this.stopping || !made) return;
      if (this.spec.likeness) await this.compare(opened, path);
      if (this.stopping || keepIn === null) return;
      const kept = await keepOutput(path, join(target.path, keepIn), this.spec.name);
      this.watcher.onRecord({ made: { ...made, keptAs: kept.slice(target.path.length + 1) } });
    } finally {
      clearInterval(reporter);
      this.report();
      await opened.close();
      // Whoever started it looks again: a process that is killed does not come here.
      await removeScratch(target.path, this.spec.trialId);
    }
  }

  private report(): void {
    const proving = this.phase === 'proving';
    const frames = proving ? this.proved : this.watch.done('write');
    this.watcher.onProgress({
      phase: this.phase,
      ...this.meter.at(frames, this.total),
      ...(this.phase === 'opening' ? { msLeft: null, spreadMs: null } : {}),
      busiest: this.watch.busiest,
    });
  }

  private enter(phase: TaskProgress['phase']): void {
    this.report();
    this.phase = phase;
    if (phase === 'proving') this.meter = new ProgressMeter();
  }

  private slotPictures(opened: OpenTimeline): SlotPictures {
    const { source, threads } = this.spec;
    const plan = planCourse(source.timeline, source.course, opened.tables);
    const pixelFormat = avGetPixFmtFromName(this.stage?.pixelFormat ?? this.told.pixelFormat);
    return new SlotPictures(source.timeline, plan, opened, {
      pixelFormat,
      threads,
      owners: this.owners,
    });
  }

  /** Opens what pictures and sound come of and go to, side by side. */
  private async openParts(slots: SlotPictures, path: string) {
    const { source, output: choice, startTimecode } = this.spec;
    const { timeline, course } = source;
    const sound =
      choice.sound === 'none'
        ? null
        : await SoundMix.open(soundPlan(timeline, course), (media) => soundPathOf(source.media[media]));
    const [, , output] = await Promise.all([
      slots.open(),
      this.stage?.open(),
      this.owners.watching('encode')(() =>
        OutputFile.open({
          choice,
          path,
          rate: timeline.rate,
          startTimecode,
          sound,
          openEncoder: (flags) => this.openEncoder(flags),
        }),
      ),
    ]);
    return { sound, output };
  }

  /** Passes every frame through; tells what the file came to, and what stopped it. */
  private async work(
    pipeline: TaskPipeline,
    slots: SlotPictures,
    output: OutputFile,
  ): Promise<{ readonly outputBytes: number; readonly failure: Error | null }> {
    const sampler = setInterval(() => this.sample(slots), shortestWindowMs);
    let outputBytes = 0;
    let failure: Error | null = null;
    try {
      if (!this.stopping) await pipeline.run();
      if (!this.stopping) {
        this.enter('finishing');
        outputBytes = await this.watch.busy('write', () => output.close());
      }
    } catch (error) {
      failure = asError(error);
    } finally {
      clearInterval(sampler);
      this.sample(slots, true);
    }
    return { outputBytes, failure };
  }

  private async make(opened: OpenTimeline, path: string): Promise<TaskRecord['made']> {
    const { source, device = null, ahead } = this.spec;
    const { encoder, pixelFormat } = this.told;
    this.stage = this.pictureStage();
    const slots = this.slotPictures(opened);
    this.beganUs = monotonicUs();
    const { sound, output } = await this.openParts(slots, path);
    const openingUs = monotonicUs() - this.beganUs;
    const cpu = process.cpuUsage();
    this.enter('working');
    this.watch.begin();
    this.noteThreads(slots);
    const { watch, perSlot, stage } = this;
    const pipeline = new TaskPipeline({
      ...this.spec,
      slots,
      stage,
      output,
      watch,
      format: avGetPixFmtFromName(pixelFormat),
      perSlot,
      likelyBytes: this.likelyBytes,
      onPicture: this.watcher.onPicture,
    });
    this.pipeline = pipeline;
    const { outputBytes, failure } = await this.work(pipeline, slots, output);
    const elapsedUs = monotonicUs() - this.beganUs;
    const { user, system } = process.cpuUsage(cpu);
    const { faults } = slots;
    if (this.stopping || failure !== null) await output.abandon();
    await this.watcher.picturesDone();
    await slots.close();
    await stage?.close();
    await sound?.close();
    if (stage) this.watcher.onRecord({ found: stage.found });
    this.watcher.onRecord({ windows: this.watch.windows, ...(faults ? { faults } : {}) });
    if (failure !== null) throw failure;
    if (slots.failure && !this.stopping) throw slots.failure;
    if (this.stopping) return null;
    const made: NonNullable<TaskRecord['made']> = {
      frames: this.watch.done('write'),
      elapsedUs,
      openingUs,
      startUpUs: pipeline.firstOutUs === null ? elapsedUs : pipeline.firstOutUs - this.beganUs,
      provingUs: 0,
      coreUs: user + system,
      outputBytes,
      pixelFormat,
      encoder: ahead ? deviceName(device) : encoder,
      width: source.timeline.width,
      height: source.timeline.height,
      soundSources: sound?.sources ?? 0,
      keptAs: null,
    };
    this.watcher.onRecord({ made });
    return made;
  }

  private sample(slots: SlotPictures, isLast = false): void {
    if (!this.watch.next(isLast)) return;
    this.noteThreads(slots);
    const { threads } = this;
    this.watcher.onRecord({
      windows: this.watch.windows,
      facts: { rooms: roomsFor(this.perSlot), cores: availableParallelism(), threads },
      ...(this.stage ? { found: this.stage.found } : {}),
    });
  }

  private noteThreads(slots: SlotPictures): void {
    const { threads } = this;
    threads.decode = Math.max(threads.decode, slots.decoderThreads);
    threads.process = Math.max(threads.process, this.owners.countOf('process'));
    threads.encode = Math.max(threads.encode, this.owners.countOf('encode'));
  }

  private async openEncoder(flags: VideoEncoderChoice['flags']): Promise<PictureEncoder> {
    const { ahead, device = null, output, source } = this.spec;
    if (!ahead) {
      const choice = encoderChoice(this.spec, this.told, flags);
      return CodecEncoder.open(choice, this.told.device && DeviceFrames.open(this.told.device, choice));
    }
    const times = standInTimes(device ?? '', output, source.timeline);
    if (!times) throw new EngineError('device-encodes-no-more', { device: deviceName(device) });
    return StandInEncoder.open(ahead.folder, times, (us) => this.watch.slept('encode', us));
  }

  private pictureStage(): PictureStage | null {
    const { analysis, source, threads } = this.spec;
    if (!analysis) return null;
    const { pixelFormat } = this.told;
    const watchThreads = this.owners.watching('process');
    const { work } = analysis;
    return work === 'track'
      ? new TrackStage(
          pixelFormat,
          analysis.points ?? 1,
          source.timeline,
          watchThreads,
          new URL('./trackWorker.mjs', import.meta.url),
        )
      : new FilterStage(
          { ...analysis, work },
          source.timeline,
          source.timeline.rate,
          pixelFormat,
          threads,
          watchThreads,
        );
  }

  /** Decodes what was written and holds it against what was handed over. @returns null where it was stopped @throws EngineError where it is not the same */
  private async prove(written: NonNullable<TaskRecord['made']>, path: string): Promise<TaskRecord['made']> {
    this.enter('proving');
    const { source, threads } = this.spec;
    const begunUs = monotonicUs();
    const decoded = await decodeOutput(path, {
      rate: source.timeline.rate,
      threads,
      isStopped: () => this.stopping,
      onFrames: (frames) => {
        this.proved = frames;
      },
    });
    if (!decoded) return null;
    const made = { ...written, provingUs: monotonicUs() - begunUs };
    const proof = proveOutput(
      { frames: this.total, seconds: this.seconds, sound: made.soundSources > 0 },
      decoded.found,
      this.pipeline?.notes ?? noNotes,
      decoded.notes,
    );
    this.watcher.onRecord({ made, proof });
    if (proof.problems.length > 0)
      throw new EngineError('output-not-proved', { proof: proofSentence(proof) });
    return made;
  }

  /** Makes the pictures once more and compares those of the output with them. */
  private async compare(opened: OpenTimeline, path: string): Promise<void> {
    const { source, threads } = this.spec;
    const slots = this.slotPictures(opened);
    const given = slots.inTurn(() => this.stopping);
    const meter = new LikenessMeter();
    this.proved = 0;
    try {
      await decodeOutput(path, {
        rate: source.timeline.rate,
        threads,
        isStopped: () => this.stopping,
        onFrames: (frames) => {
          this.proved = frames;
        },
        onFrame: async (frame) => {
          const next = await given.next();
          if (!next.done) await meter.add(frame, next.value);
        },
      });
    } finally {
      await given.return(undefined);
      await slots.close();
      const likeness = await meter.close();
      if (!this.stopping) this.watcher.onRecord({ likeness });
    }
  }
}

const noNotes: FrameNotes = { codes: [], signatures: [] };

const asError = (error: unknown): Error => (error instanceof Error ? error : new Error(String(error)));

/** Where a clip's sound lies; null where it has none that is read: files of pictures hold none, and that of a take lies in several. */
const soundPathOf = (media: TimelineSpec['media'][string] | undefined): string | null =>
  !media || hasFiles(media.setup) ? null : media.path;
