import { availableParallelism } from 'node:os';
import { join } from 'node:path';
import type { AVPixelFormat } from 'node-av/constants';
import { avGetPixFmtFromName, Rational, type Frame } from 'node-av/lib';
import type { TaskProgress, TaskRecord } from '@/core/kinds/shared/task';
import { sizeText } from '@/core/digits';
import { analysisFrames, picturesPerSlot } from '@/core/tasks/analysis';
import { encoderTold, likelyBytes } from '@/core/tasks/exportCodecs';
import { proofSentence, proveOutput } from '@/core/tasks/outputProof';
import type { StageRooms, TaskStage } from '@/core/tasks/pipeline';
import { soundPlan } from '@/core/tasks/soundPlan';
import { TimeLeftEstimator } from '@/core/tasks/timeLeft';
import { toNumber } from '@/core/time/rational';
import { planCourse } from '@/core/timeline/course';
import { monotonicUs, sleepUs } from '../clock';
import { EngineError } from '../errors';
import { FrameNoter } from '../rendition/notes';
import { StageQueue } from '../rendition/queue';
import { StandInGate } from '../storage/standIn';
import { roomOn } from '../storage/testFile';
import { OpenTimeline } from '../timeline/openTimeline';
import { colourOf } from './colour';
import { FilterStage } from './filterStage';
import { LikenessMeter } from './likeness';
import { outputPath, OutputFile, type Piece } from './outputFile';
import type { PictureStage } from './pictureStage';
import { decodeOutput } from './proof';
import { assertRoomFor, keepOutput, makeScratch, removeScratch } from './scratch';
import { SlotPictures, type DecodedSlot } from './slotPictures';
import { SoundMix } from './soundMix';
import type { TaskSpec } from './spec';
import { shortestWindowMs, StageWatch } from './stageWatch';
import { ThreadOwners } from './threadOwners';
import { TrackStage } from './trackStage';

/** How often it is told how far the task is, and looked whether there is room, ms. */
const reportMs = 250;
const roomCheckMs = 1_000;
/** Stretch that a rate is told of: of a shorter one a slow encoder has too few frames. */
const rateMs = 1_000;
/** Frames between the stages. */
const rooms: StageRooms = { read: 12, decode: 4, process: 4, encode: 32 };

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
  private readonly noter = new FrameNoter();
  private readonly codes: number[] = [];
  private readonly signatures: Uint8Array[] = [];
  private timeLeft = new TimeLeftEstimator();
  private startUpUs: number | null = null;
  private beganUs = monotonicUs();
  private lastReport = { frames: 0, atUs: monotonicUs(), rate: 0 };
  private readonly total: number;
  /** Pictures that come of one slot, of the first one alone. */
  private readonly perSlot: number;
  private stage: PictureStage | null = null;
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
    this.likelyBytes = likelyBytes(spec.output, {
      ...timeline,
      frames: this.total,
      seconds: this.seconds,
    });
  }

  stop(): void {
    this.stopping = true;
  }

  /** @throws EngineError saying what stopped it */
  async run(): Promise<void> {
    const { source, output, target, keepIn } = this.spec;
    await assertRoomFor(target.path, this.likelyBytes);
    const opened = await OpenTimeline.open(source, this.spec.warm);
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
      this.noter.close();
      await opened.close();
      // Whoever started it looks again: a process that is killed does not come here.
      await removeScratch(target.path, this.spec.trialId);
    }
  }

  private report(): void {
    const proving = this.phase === 'proving';
    const frames = proving ? this.proved : this.watch.done('write');
    const nowUs = monotonicUs();
    const spanUs = nowUs - this.lastReport.atUs;
    if (spanUs >= rateMs * 1000) {
      this.timeLeft.observe(frames, nowUs / 1000);
      const rate = (Math.max(0, frames - this.lastReport.frames) * 1e6) / spanUs;
      this.lastReport = { frames, atUs: nowUs, rate };
    }
    this.watcher.onProgress({
      phase: this.phase,
      frames,
      total: this.total,
      framesPerSecond: this.lastReport.rate,
      msLeft: this.phase === 'opening' ? null : this.timeLeft.remainingMs(this.total),
      spreadMs: this.phase === 'opening' ? null : this.timeLeft.spreadMs(this.total),
      busiest: this.watch.busiest,
    });
  }

  private enter(phase: TaskProgress['phase']): void {
    this.report();
    this.phase = phase;
    if (phase !== 'proving') return;
    this.timeLeft = new TimeLeftEstimator();
    this.lastReport = { frames: 0, atUs: monotonicUs(), rate: 0 };
  }

  private slotPictures(opened: OpenTimeline): SlotPictures {
    const { source, threads } = this.spec;
    const plan = planCourse(source.timeline, source.course, opened.tables);
    const pixelFormat = avGetPixFmtFromName(this.stage?.pixelFormat ?? this.written);
    return new SlotPictures(source.timeline, plan, opened, {
      pixelFormat,
      threads,
      owners: this.owners,
    });
  }

  private async make(opened: OpenTimeline, path: string): Promise<TaskRecord['made']> {
    const { source, output: choice, startTimecode, threads } = this.spec;
    const { timeline, course } = source;
    this.stage = this.pictureStage();
    const slots = this.slotPictures(opened);
    this.beganUs = monotonicUs();
    const sound =
      choice.sound === 'none'
        ? null
        : await SoundMix.open(soundPlan(timeline, course), (media) => source.media[media]?.path ?? null);
    const { encoder, pixelFormat } = encoderTold(choice, timeline.rate);
    const format = avGetPixFmtFromName(pixelFormat);
    const [, , output] = await Promise.all([
      slots.open(),
      this.stage?.open(),
      this.owners.watching('encode')(() =>
        OutputFile.open({
          choice,
          path,
          startTimecode,
          sound,
          width: timeline.width,
          height: timeline.height,
          pixelFormat: format,
          rate: new Rational(timeline.rate.num, timeline.rate.den),
          sampleAspect: new Rational(1, 1),
          colour: colourOf(pixelFormat, timeline.height),
          threads: threads === 0 ? availableParallelism() : threads,
        }),
      ),
    ]);
    const openingUs = monotonicUs() - this.beganUs;
    const cpu = process.cpuUsage();
    this.enter('working');
    this.watch.begin();
    this.noteThreads(slots);
    const sampler = setInterval(() => this.sample(slots), shortestWindowMs);
    let outputBytes = 0;
    let failure: Error | null = null;
    try {
      await this.pipeline(slots, output, format);
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
    const elapsedUs = monotonicUs() - this.beganUs;
    const { user, system } = process.cpuUsage(cpu);
    const { faults } = slots;
    if (this.stopping || failure !== null) await output.abandon();
    await this.watcher.picturesDone();
    await slots.close();
    const { stage } = this;
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
      startUpUs: this.startUpUs ?? elapsedUs,
      provingUs: 0,
      coreUs: user + system,
      outputBytes,
      pixelFormat,
      encoder,
      width: timeline.width,
      height: timeline.height,
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
      facts: { rooms: this.rooms(), cores: availableParallelism(), threads },
      ...(this.stage ? { found: this.stage.found } : {}),
    });
  }

  /** Pictures between the stages, counted as those that are made. */
  private rooms(): StageRooms {
    return { ...rooms, read: rooms.read * this.perSlot, decode: rooms.decode * this.perSlot };
  }

  private noteThreads(slots: SlotPictures): void {
    const { threads } = this;
    threads.decode = Math.max(threads.decode, slots.decoderThreads);
    threads.process = Math.max(threads.process, this.owners.countOf('process'));
    threads.encode = Math.max(threads.encode, this.owners.countOf('encode'));
  }

  /** All stages at once, each waiting for the one before and for room behind it. Rejects with the first failure. */
  private async pipeline(slots: SlotPictures, output: OutputFile, format: AVPixelFormat): Promise<void> {
    const read = new StageQueue<number>(rooms.read);
    const decoded = new StageQueue<DecodedSlot>(rooms.decode);
    const ready = new StageQueue<Frame>(rooms.process);
    const pieces = new StageQueue<Piece>(rooms.encode);
    const queues = [read, decoded, ready, pieces];
    const stages = [
      this.readStage(slots, read).finally(() => read.end()),
      this.decodeStage(slots, read, decoded).finally(() => decoded.end()),
      this.processStage(slots, decoded, ready, format).finally(() => ready.end()),
      this.encodeStage(slots, output, ready, pieces).finally(() => pieces.end()),
      this.writeStage(output, pieces),
      this.watchPaths(slots, pieces),
    ];
    const failures: Error[] = [];
    await Promise.all(
      stages.map((stage) =>
        stage.catch((error: unknown) => {
          failures.push(asError(error));
          this.stopping = true;
          for (const queue of queues) queue.end();
        }),
      ),
    );
    const [failure] = failures;
    if (!failure) return;
    this.stopping = false; // it was not asked to stop: it failed
    throw failure;
  }

  private async readStage(slots: SlotPictures, read: StageQueue<number>): Promise<void> {
    for (let slot = 0; slot < slots.slotCount && !this.stopping; slot++) {
      await this.work('read', () => slots.read(slot));
      this.watch.passed('read', slots.bytesOf(slot), this.madeOf(slot));
      await read.put(slot);
    }
  }

  private async decodeStage(
    slots: SlotPictures,
    read: StageQueue<number>,
    decoded: StageQueue<DecodedSlot>,
  ): Promise<void> {
    const takeAll = async () => {
      while (slots.hasFrame && !this.stopping) {
        const next = await this.watch.busy('decode', () => slots.receive());
        this.watch.passed('decode', 0, this.madeOf(next.slot));
        await decoded.put(next);
      }
    };
    for (let slot = await read.take(); slot !== null && !this.stopping; slot = await read.take()) {
      const next = slot;
      await this.work('decode', () => slots.decode(next));
      await takeAll();
    }
    if (this.stopping) return;
    await this.watch.busy('decode', () => slots.end());
    await takeAll();
  }

  private async processStage(
    slots: SlotPictures,
    decoded: StageQueue<DecodedSlot>,
    ready: StageQueue<Frame>,
    format: AVPixelFormat,
  ): Promise<void> {
    const { stage } = this;
    const pass = async (pictures: readonly Frame[]) => {
      for (const picture of pictures) {
        if (picture.format !== format)
          throw new EngineError('A picture was not made as the encoder takes it.');
        this.watch.passed('process');
        await ready.put(picture);
      }
    };
    for (let next = await decoded.take(); next && !this.stopping; next = await decoded.take()) {
      const slot = next;
      await pass(
        await this.work('process', async () => {
          const made = await slots.make(slot);
          return this.noted(stage ? await throughStage(stage, made, slots) : made);
        }),
      );
    }
    if (stage && !this.stopping)
      await pass(await this.watch.busy('process', async () => this.noted(await stage.end())));
  }

  /** Notes what pictures show, so that the output can be held against them. */
  private async noted(pictures: readonly Frame[]): Promise<readonly Frame[]> {
    for (const picture of pictures) {
      const { code, signature } = await this.noter.note(picture);
      // What is worked on may have lost its number, or have that of two pictures mixed.
      this.codes.push(this.stage ? -1 : code);
      this.signatures.push(signature);
      this.stage?.note(signature);
    }
    return pictures;
  }

  /** Pictures that a slot stands for. */
  private madeOf(slot: number): number {
    return slot === 0 ? 1 : this.perSlot;
  }

  private pictureStage(): PictureStage | null {
    const { analysis, source, threads } = this.spec;
    if (!analysis) return null;
    const watchThreads = this.owners.watching('process');
    return analysis.work === 'track'
      ? new TrackStage(
          this.written,
          analysis.points ?? 1,
          source.timeline,
          watchThreads,
          new URL('./trackWorker.mjs', import.meta.url),
        )
      : new FilterStage(analysis, source.timeline, source.timeline.rate, this.written, threads, watchThreads);
  }

  /** The pixel format that the encoder takes. */
  private get written(): string {
    return encoderTold(this.spec.output, this.spec.source.timeline.rate).pixelFormat;
  }

  private async encodeStage(
    slots: SlotPictures,
    output: OutputFile,
    ready: StageQueue<Frame>,
    pieces: StageQueue<Piece>,
  ): Promise<void> {
    const takeAll = async () => {
      const done = await this.watch.busy('encode', () => output.pieces());
      if (done.some(({ frame }) => frame !== null)) this.startUpUs ??= monotonicUs() - this.beganUs;
      for (const piece of done) await pieces.put(piece);
    };
    for (let picture = await ready.take(); picture && !this.stopping; picture = await ready.take()) {
      const frame = picture;
      const number = this.watch.done('encode');
      await this.work('encode', () => output.send(frame));
      this.watch.passed('encode');
      this.watcher.onPicture(frame, number, () => (this.stage ?? slots.pictures).release(frame));
      await takeAll();
    }
    if (this.stopping) return;
    await this.watch.busy('encode', () => output.finish());
    await takeAll();
  }

  private async writeStage(output: OutputFile, pieces: StageQueue<Piece>): Promise<void> {
    const gate = this.writeGate();
    let at = 0;
    for (let piece = await pieces.take(); piece && !this.stopping; piece = await pieces.take()) {
      const { frame, packet } = piece;
      const { size } = packet;
      const next = piece;
      const write = () => output.write(next);
      await this.work('write', () => (gate ? gate.pace(0, at, size, true, write) : write()), frame !== null);
      at += size;
      this.watch.wrote(size);
      if (frame !== null) this.watch.passed('write');
    }
  }

  private writeGate(): StandInGate | null {
    const { standIn } = this.spec.target;
    return standIn && new StandInGate(standIn, 1, 4 * this.likelyBytes);
  }

  /** Looks now and then whether what is read is still there and the target has room. */
  private async watchPaths(slots: SlotPictures, pieces: StageQueue<Piece>): Promise<void> {
    const { path } = this.spec.target;
    while (!pieces.isEnded && !this.stopping) {
      await Promise.race([sleepUs(roomCheckMs * 1000), pieces.ended]);
      if (pieces.isEnded || this.stopping) return;
      await slots.assertStillThere();
      const room = await roomOn(path).catch(() => null);
      if (room === null)
        throw new EngineError(
          `${path} went away while it was written to. Connect its volume and start again.`,
        );
      if (room.free <= room.reserve)
        throw new EngineError(
          `${path} has only its reserve left after ${sizeText(this.watch.windows.bytesWritten.reduce((sum, bytes) => sum + bytes, 0))}. Free space or choose another volume, and start again.`,
        );
    }
  }

  /** Work of a stage on one frame, held for longer where a test asks for that. */
  private work<Value>(stage: TaskStage, work: () => Promise<Value>, isFrame = true): Promise<Value> {
    const { slowed } = this.spec;
    return this.watch.busy(stage, async () => {
      const value = await work();
      if (isFrame && slowed?.stage === stage) await sleepUs(slowed.us);
      return value;
    });
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
      { codes: this.codes, signatures: this.signatures },
      decoded.notes,
    );
    this.watcher.onRecord({ made, proof });
    if (proof.problems.length > 0)
      throw new EngineError(
        `${proofSentence(proof)} Its time does not count. Change the settings and start again.`,
      );
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

/** Puts pictures through a stage. Theirs are done with. */
async function throughStage(
  stage: PictureStage,
  pictures: readonly Frame[],
  slots: SlotPictures,
): Promise<Frame[]> {
  const made: Frame[] = [];
  for (const picture of pictures) {
    made.push(...(await stage.take(picture)));
    slots.pictures.release(picture);
  }
  return made;
}

const asError = (error: unknown): Error => (error instanceof Error ? error : new Error(String(error)));
