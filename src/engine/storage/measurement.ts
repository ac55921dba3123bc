import { percent } from '@/core/format';
import { constants } from 'node:fs';
import { open, rm } from 'node:fs/promises';
import { basename, join } from 'node:path';
import { decodePacketTable, type PacketTable } from '@/core/media/packetTable';
import { defaultBufferDepths } from '@/core/playback/slots';
import { nextStreams, rampVerdict, type RampStep } from '@/core/storage/ramp';
import { pacerStateBytes, Pacer, pacerState } from '@/core/storage/pacer';
import { monotonicUs } from '../clock';
import { EngineError, fileError } from '../errors';
import { openMedia } from '../media/mediaBytes';
import { joinedFiles, type JoinedFiles } from '../media/joinedFiles';
import { alignedBuffer, ColdFile, openDirect, wholePages } from '../media/coldFile';
import { ActorRun } from './actorRun';
import { BlockRecorder } from './blockRecorder';
import { createTaken, type Actor, type PacketFiles, type Pattern, type SharedModel } from './blockShared';
import { HeldFolder, openInPlace } from '../inPlace';
import type { FromStorage, ReadSource, StorageSpec, VolumeAccess } from './spec';
import { assertRoom, createTestFile, fillTestBlock, testFilePath } from './testFile';
import type { CacheWay, ColdProof } from '@/core/media/coldProof';
import { stairs } from '@/core/storage/underWay';
import type { ThroughputSettings } from '@/core/kinds/throughput';
import type { StorageProgress } from '@/core/kinds/shared/storage';
import { mostRampSteps } from '@/core/storage/limits';

const preparationBlock = 4 * 2 ** 20;
const reportMs = 250;
const roomCheckMs = 500;

/** A file that is read, with what was found of it before the run. */
interface Readable {
  readonly path: string;
  readonly bytes: number;
  readonly packets: PacketTable | null;
  /** Files that its packets lie in; null where all lie in one. */
  readonly files: PacketFiles | null;
  readonly slotUs: number;
  readonly proof: ColdProof;
}

/** Measures one throughput or streams trial on a volume and removes what it wrote. */
export class Measurement {
  private readonly recorder = new BlockRecorder();
  private readonly made: string[] = [];
  private folder: HeldFolder | null = null;
  private run: ActorRun | null = null;
  private stopping = false;
  private beganUs = Number.NaN;
  private step = 0;
  private steps = 1;
  private phase: StorageProgress['phase'] = 'preparing';
  private preparedBytes = 0;
  private preparedShare = 0;
  /** Threads that have come up: many of them take their time on a busy machine, and are no standstill. */
  private started = 0;
  private bytes = 0;
  private stepBytes = 0;
  private stepBeganUs = Number.NaN;

  constructor(
    private readonly spec: Extract<StorageSpec, { kind: 'throughput' | 'streams-carried' }>,
    private readonly tell: (message: FromStorage) => void,
    private readonly workerPath: URL,
  ) {}

  stop(): void {
    this.stopping = true;
    this.run?.stop();
  }

  get stopped(): boolean {
    return this.stopping;
  }

  async measure(): Promise<void> {
    this.folder = await HeldFolder.open(this.spec.volume.path);
    const reporter = setInterval(() => this.report(), reportMs);
    const watch = this.watchVolume();
    try {
      await Promise.race([
        this.spec.kind === 'throughput' ? this.throughput(this.spec) : this.streams(this.spec),
        watch.failed,
      ]);
    } finally {
      this.stop();
      clearInterval(reporter);
      watch.end();
      this.report();
      await this.clear();
      await this.folder.close();
    }
  }

  /** Removes what it wrote, but for one file. Files leave the list first: whoever watches them must not miss them. */
  private async clear(keep: string | null = null): Promise<void> {
    for (const path of this.made.splice(0)) {
      if (path === keep) this.made.push(path);
      else await rm(join(this.folder?.path ?? '', basename(path)), { force: true }).catch(() => undefined);
    }
  }

  private async throughput({
    trialId,
    volume,
    settings,
    source,
  }: Extract<StorageSpec, { kind: 'throughput' }>): Promise<void> {
    const { test, bytes } = settings;
    const repeats = test === 'staircase' ? stairs.length : settings.repeats;
    this.steps = repeats;
    const reads = test !== 'sequential-write';
    const writes = test === 'sequential-write' || test === 'mixed';
    await assertRoom(volume.path, (reads && !source ? bytes : 0) + (writes ? bytes : 0));
    const readable = !reads
      ? null
      : source
        ? await this.openSource(source, settings.cache)
        : await this.makeTestFile(testFilePath(volume.path, trialId, 'read'), bytes, settings.cache);
    const writeBase = wholePages(readable?.bytes ?? 0);
    const shared = shareModel(volume, settings.streams + 1, writeBase + bytes);
    if (shared && !source && readable)
      new Pacer(shared.model, pacerState(shared.state, shared.model.drives, shared.streams)).noteWritten(
        0,
        readable.bytes,
      );
    for (let repeat = 0; repeat < repeats && !this.stopping; repeat++) {
      const actors: Actor[] = [];
      // What the repeat before left in the system's cache would be read from there.
      const cold =
        readable && repeat > 0 && settings.cache === 'through'
          ? await this.reopened(readable, settings.cache)
          : readable;
      if (cold) actors.push(...readActors(settings, cold, repeat));
      const writers = writes
        ? await this.writeActors(
            testFilePath(volume.path, trialId, `write-${repeat}`),
            settings,
            settings.streams,
            writeBase,
          )
        : [];
      actors.push(...writers);
      const [writer = null] = writers;
      if (repeat === 0)
        this.tell({
          type: 'prepared',
          cold: cold?.proof ?? null,
          writes: writer && (writer.direct ? 'direct' : 'synchronous'),
        });
      await this.perform(actors, shared, repeat);
      if (writes) await this.clear(readable?.path ?? null);
    }
  }

  private async streams({
    volume,
    settings,
    source,
  }: Extract<StorageSpec, { kind: 'streams-carried' }>): Promise<void> {
    const readable = await this.openSource(source);
    this.steps = mostRampSteps;
    this.tell({ type: 'prepared', cold: readable.proof, writes: null });
    const done: RampStep[] = [];
    for (
      let next = nextStreams(done, settings.mostStreams, mostRampSteps);
      next !== null && !this.stopping;
      next = nextStreams(done, settings.mostStreams, mostRampSteps)
    ) {
      this.tell({ type: 'step', streams: next });
      // Every stream counts as footage of its own: what a server's cache has of one does not help another.
      const footage =
        readable.bytes *
        (Math.ceil((settings.seconds * 1e6) / ((readable.packets?.length ?? 1) * readable.slotUs)) + 2);
      const actors = Array.from({ length: next }, (_, stream) =>
        frameActor(readable, stream, next, settings.seconds, stream * footage),
      );
      await this.perform(actors, shareModel(volume, next, footage * next), done.length);
      const { missed, behind } = rampVerdict(this.recorder.blocksOf(done.length), readable.slotUs);
      done.push({ streams: next, clean: missed === 0 && !behind });
    }
  }

  private async perform(actors: readonly Actor[], shared: SharedModel | null, step: number): Promise<void> {
    if (this.stopping) return;
    this.step = step;
    this.stepBytes = 0;
    this.run = new ActorRun(
      actors,
      shared,
      this.workerPath,
      (actor, record) => {
        this.recorder.add(actor, record);
        if (record.endUs === -Infinity) return;
        this.bytes += record.bytes;
        this.stepBytes += record.bytes;
      },
      (startUs) => {
        if (Number.isNaN(this.beganUs)) this.beganUs = startUs;
        this.recorder.beginRun(step, startUs, this.beganUs);
        this.stepBeganUs = startUs;
        this.phase = 'measuring';
      },
      () => this.started++,
    );
    await this.run.run();
    this.run = null;
    this.phase = 'preparing';
  }

  /** The same file, put out of the system's cache again. */
  private async reopened(readable: Readable, cache: CacheWay): Promise<Readable> {
    const file = await ColdFile.open(readable.path, 1, cache);
    await file.close();
    return { ...readable, proof: file.proof };
  }

  private async openSource(source: ReadSource, cache: CacheWay = 'past'): Promise<Readable> {
    const { path, rate, setup } = source;
    const packets = decodePacketTable(source.packets);
    const file = await openMedia({ path, setup, packets }, cache);
    await file.close();
    const joined = joinedFiles({ path, setup, packets });
    return {
      path: joined?.files[0] ?? path,
      bytes: file.size,
      packets,
      files: joined && packetFiles(joined, packets),
      slotUs: (1e6 * rate.den) / rate.num,
      proof: file.proof,
    };
  }

  /** Writes the file that will be read, as fast as it goes and without being measured. */
  private async makeTestFile(path: string, bytes: number, cache: CacheWay = 'past'): Promise<Readable> {
    await this.create(path);
    const block = alignedBuffer(preparationBlock);
    fillTestBlock(block);
    try {
      const handle = await openInPlace(path, constants.O_RDWR);
      try {
        for (let at = 0; at < bytes && !this.stopping; at += block.length) {
          await handle.write(block, 0, Math.min(block.length, bytes - at), at);
          // Piece by piece: all at the end would stand still for minutes on a slow volume, and could not be cancelled.
          await handle.datasync();
          this.preparedBytes = at + block.length;
          this.preparedShare = Math.min(1, this.preparedBytes / bytes);
        }
      } finally {
        await handle.close();
      }
      const file = await ColdFile.open(path, 1, cache);
      await file.close();
      return { path, bytes: file.size, packets: null, files: null, slotUs: 0, proof: file.proof };
    } catch (error) {
      throw error instanceof EngineError ? error : fileError(error, path);
    }
  }

  private async create(path: string): Promise<void> {
    await createTestFile(path);
    this.made.push(path); // from here on it is watched
  }

  private async writeActors(
    path: string,
    { test, blockBytes, bytes, seconds, underWay = 1 }: ThroughputSettings,
    stream: number,
    addressBase: number,
  ): Promise<Actor[]> {
    await this.create(path);
    const probe = await openDirect(path);
    await probe?.close();
    return together(test === 'sequential-write' ? underWay : 1, {
      path,
      direct: probe !== null,
      write: true,
      stream,
      addressBase,
      bytes,
      seconds,
      pattern: { kind: 'sequential', blockBytes, fileBytes: bytes, firstBlock: 0, taken: createTaken() },
    });
  }

  /** A volume that goes away or fills up ends the trial: an open file alone would not tell. */
  private watchVolume() {
    const { path } = this.spec.volume;
    let timer: NodeJS.Timeout | null = null;
    const failed = new Promise<never>((_, reject) => {
      const check = async () => {
        for (const file of [path, ...this.made]) {
          const why = await whyGone(file);
          if (why === null || (file !== path && !this.made.includes(file))) continue; // a file may have been removed meanwhile, by us
          const whyFolder = await whyGone(path); // when the folder went with its file, the folder is to be named
          throw fileError(whyFolder ?? why, whyFolder === null ? file : path);
        }
        if (this.made.length > 0) await assertRoom(path, 0);
      };
      timer = setInterval(() => {
        check().catch((error: unknown) => {
          this.stop();
          reject(error instanceof Error ? error : new Error(String(error)));
        });
      }, roomCheckMs);
    });
    failed.catch(() => undefined);
    return {
      failed,
      end: () => {
        if (timer) clearInterval(timer);
      },
    };
  }

  private report(): void {
    const batch = this.recorder.takeBatch();
    if (batch) this.tell({ type: 'blocks', ...batch });
    const now = monotonicUs();
    const began = !Number.isNaN(this.beganUs);
    this.tell({
      type: 'progress',
      progress: {
        phase: this.phase,
        step: this.step,
        steps: this.steps,
        share: began ? this.shareDone(now) : 0,
        bytes: this.bytes,
        moved: this.bytes + this.preparedBytes + this.started,
        ...this.recorder.takeRates(now),
        atMs: began ? (now - this.beganUs) / 1000 : 0,
        msLeft: null,
        note:
          this.phase === 'measuring'
            ? ''
            : began
              ? 'Making ready for the next repeat'
              : this.preparedShare > 0
                ? `Writing the test file, ${percent(this.preparedShare, 0)}`
                : 'Making ready',
      },
    });
  }

  private shareDone(nowUs: number): number {
    const { settings } = this.spec;
    if (this.phase === 'preparing') return (this.step + 1) / this.steps;
    const byTime = (nowUs - this.stepBeganUs) / (settings.seconds * 1e6);
    const parts = settings.kind === 'throughput' && settings.test === 'staircase' ? stairs.length : 1;
    const byBytes =
      settings.kind === 'throughput' ? (parts * this.stepBytes) / (settings.bytes * settings.streams) : 0;
    return (this.step + Math.min(1, Math.max(byTime, byBytes))) / this.steps;
  }
}

/** Why a file or folder can no longer be opened, or null when it can. */
async function whyGone(path: string): Promise<unknown> {
  return open(path, 'r').then(
    (handle) => handle.close().then(() => null),
    (error: unknown) => error,
  );
}

function shareModel({ standIn }: VolumeAccess, streams: number, addressBytes: number): SharedModel | null {
  return (
    standIn && {
      model: standIn,
      streams,
      state: new SharedArrayBuffer(Math.ceil(pacerStateBytes(standIn.drives, streams, addressBytes) / 8) * 8),
    }
  );
}

function readActors(settings: ThroughputSettings, readable: Readable, repeat: number): Actor[] {
  const { test, blockBytes, seconds, streams, underWay = 1, cache } = settings;
  if (test === 'frame-paced')
    return Array.from({ length: streams }, (_, stream) => frameActor(readable, stream, streams, seconds, 0));
  const { path, proof, bytes: fileBytes } = readable;
  // A staircase goes on where the step before ended: what a server holds of that in its memory is not read again.
  const bytes = test === 'staircase' ? settings.bytes / stairs.length : settings.bytes;
  const firstBlock = test === 'staircase' ? Math.floor((repeat * bytes) / blockBytes) : 0;
  const taken = createTaken();
  const pattern: Pattern =
    test === 'random-read'
      ? { kind: 'random', blockBytes, fileBytes, seed: 1_009 + repeat, taken }
      : { kind: 'sequential', blockBytes, fileBytes, firstBlock, taken };
  return together(test === 'staircase' ? (stairs[repeat] ?? 1) : underWay, {
    path,
    direct: proof.method === 'direct',
    write: false,
    stream: 0,
    addressBase: 0,
    // What was read once lies in the cache from then on.
    bytes: cache === 'through' ? Math.min(bytes, fileBytes) : bytes,
    seconds,
    pattern,
  });
}

/** So many actors that take blocks of one pattern by turns, each with one request under way. */
function together(underWay: number, actor: Actor): Actor[] {
  const { pattern } = actor;
  return Array.from({ length: underWay }, (_, at) =>
    pattern.kind === 'random'
      ? { ...actor, pattern: { ...pattern, seed: pattern.seed + 7_919 * at } }
      : actor,
  );
}

/** Where a clip's packets lie in its files. */
function packetFiles(joined: JoinedFiles, { offset }: PacketTable): PacketFiles {
  const fileOf = Uint32Array.from(offset, (at) => joined.indexAt(at));
  return {
    paths: joined.files,
    fileOf,
    from: offset.map((at, row) => at - joined.startOf(fileOf[row] as number)),
    opensEachRead: joined.opensEachRead,
  };
}

/** One stream of a clip; streams begin at places spread over it. */
function frameActor(
  { path, bytes: fileBytes, packets, files, slotUs, proof }: Readable,
  stream: number,
  streams: number,
  seconds: number,
  addressBase: number,
): Actor {
  if (!packets) throw new EngineError('frame-paced-needs-clip');
  return {
    path,
    direct: proof.method === 'direct',
    write: false,
    stream,
    addressBase,
    bytes: Infinity,
    seconds,
    pattern: {
      kind: 'frames',
      offsets: packets.offset,
      sizes: packets.size,
      files,
      fileBytes,
      slotUs,
      firstSlot: Math.floor((stream * packets.length) / streams),
      readAhead: defaultBufferDepths.readAhead,
    },
  };
}
