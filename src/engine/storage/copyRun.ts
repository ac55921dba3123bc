import { mkdir, open, stat, utimes, type FileHandle } from 'node:fs/promises';
import { basename, dirname, join } from 'node:path';
import xxhash, { type XXHashAPI } from 'xxhash-wasm';
import type { CopyStage } from '@/core/storage/copyRates';
import { PhasedTimeLeft } from '@/core/tasks/phasedTimeLeft';
import { monotonicUs } from '../clock';
import { EngineError, errorCode, fileError } from '../errors';
import { alignedBuffer } from '../media/coldFile';
import { settle } from '../settle';
import { listFiles, partialPath, removePartials, type SourceFile } from './copyFiles';
import { openCold, readCold } from './openCold';
import { assertOwnLists, writeHashList, type WrittenList } from './hashLists';
import type { CopyResult, FromStorage, StorageSpec, VolumeAccess } from './spec';
import { StandInGate } from './standIn';
import { assertInside } from '../volume';
import { HeldFolder } from '../inPlace';
import { assertRoom } from './testFile';
import type { CopiedFile } from '@/core/storage/copiedFile';
import type { StorageProgress } from '@/core/kinds/shared/storage';

const chunkBytes = 4 * 2 ** 20;
/** Written bytes are brought to the device this often, so that progress is the drive's and not the memory's. */
const syncBytes = 64 * 2 ** 20;
const reportMs = 250;

type CopySpec = Extract<StorageSpec, { kind: 'copy' }>;

/** A volume's side of a copy: its folder, and its model where it is a stand-in. Files lie end to end in the model's address space. */
interface Side {
  readonly path: string;
  readonly gate: StandInGate | null;
  base: number;
}

/** A file that is written. */
interface Target {
  readonly side: Side;
  /** As it is told. */
  readonly target: string;
  readonly folder: HeldFolder;
  /** Where it is written until it is whole, and then, both by the folder in hand. */
  readonly partial: string;
  readonly whole: string;
}

/** Copies a folder to one or more others, file by file: read once, written to all, read back and compared. */
export class CopyRun {
  private stopping = false;
  private readonly work: Record<CopyStage, { bytes: number; us: number }> = {
    read: { bytes: 0, us: 0 },
    hash: { bytes: 0, us: 0 },
    write: { bytes: 0, us: 0 },
    verify: { bytes: 0, us: 0 },
  };
  private readonly buffers = [alignedBuffer(chunkBytes), alignedBuffer(chunkBytes)] as const;
  private readonly done: CopiedFile[] = [];
  private hasher: XXHashAPI | null = null;
  private phase: StorageProgress['phase'] = 'preparing';
  private fileNumber = 0;
  private files: SourceFile[] = [];
  private note = 'Looking for files';
  private units = { copy: 0, verify: 0 };
  private left: PhasedTimeLeft<'copy' | 'verify'> | null = null;
  private lastReport = { atUs: monotonicUs(), read: 0, write: 0, copy: 0, verify: 0 };
  private readonly beganUs = monotonicUs();

  constructor(
    private readonly spec: CopySpec,
    private readonly tell: (message: FromStorage) => void,
  ) {}

  stop(): void {
    this.stopping = true;
  }

  get stopped(): boolean {
    return this.stopping;
  }

  /** @returns what was done, also when it was stopped. @throws EngineError naming the file at which it failed */
  async copy(): Promise<CopyResult> {
    this.hasher = await xxhash();
    const { source, destinations, trialId, finished } = this.spec;
    const { files, leftOut } = await listFiles(source.path);
    if (files.length === 0) throw new EngineError('no-files', { path: source.path });
    this.files = files;
    const total = files.reduce((sum, { bytes }) => sum + bytes, 0);
    this.left = new PhasedTimeLeft({ copy: total, verify: this.spec.verify ? total : 0 });
    const folders: HeldFolder[] = [];
    for (const { path } of destinations) {
      await make(path);
      folders.push(await HeldFolder.open(path));
      await removePartials(path, trialId);
      await assertOwnLists(path);
      await this.refuseConflicts(path, finished);
      await assertRoom(
        path,
        files
          .filter((file) => !finished.some((had) => had.path === file.path))
          .reduce((sum, { bytes }) => sum + bytes, 0),
      );
    }
    const from = side(source, total);
    const to = destinations.map((destination) => side(destination, total));
    this.tell({ type: 'prepared', cold: null, writes: null });
    const reporter = setInterval(() => this.report(), reportMs);
    try {
      for (const file of files) {
        if (this.stopping) break;
        await this.takeFile(file, from, to, finished.find((had) => had.path === file.path) ?? null);
      }
      return await this.result(leftOut, total);
    } finally {
      clearInterval(reporter);
      this.report();
      for (const folder of folders) {
        await removePartials(folder.path, trialId);
        await folder.close();
      }
    }
  }

  /** Files of the same name and another size are someone else's: nothing is begun. */
  private async refuseConflicts(folder: string, finished: readonly CopiedFile[]): Promise<void> {
    const conflicts: string[] = [];
    for (const { path, bytes } of this.files) {
      if (finished.some((had) => had.path === path)) continue;
      const there = await stat(join(folder, path)).catch(() => null);
      if (there && (!there.isFile() || there.size !== bytes)) conflicts.push(path);
    }
    if (conflicts.length > 0) {
      throw new EngineError('other-files-there', { folder, conflicts, files: this.files.length });
    }
  }

  private async takeFile(
    file: SourceFile,
    from: Side,
    to: readonly Side[],
    had: CopiedFile | null,
  ): Promise<void> {
    this.fileNumber++;
    this.note = file.path;
    try {
      const whole =
        had &&
        had.bytes === file.bytes &&
        (await Promise.all(to.map((side) => sizeOf(join(side.path, file.path))))).every(
          (size) => size === file.bytes,
        );
      if (whole) {
        this.done.push(had);
        this.units.copy += file.bytes;
        if (this.spec.verify) this.units.verify += file.bytes;
      } else await this.copyFile(file, from, to);
    } catch (error) {
      if (error instanceof Stopped) return;
      throw error instanceof EngineError ? error : fileError(error, file.path);
    } finally {
      from.base += file.bytes;
      for (const side of to) side.base += file.bytes;
    }
  }

  private async copyFile(file: SourceFile, from: Side, to: readonly Side[]): Promise<void> {
    this.phase = 'copying';
    const targets = to.map((side) => ({ side, target: join(side.path, file.path) }));
    const there = await Promise.all(targets.map(async ({ target }) => (await sizeOf(target)) !== null));
    const open: Target[] = [];
    let hash: string;
    try {
      for (const [index, { side, target }] of targets.entries())
        if (!there[index]) open.push(await this.hold(side, target));
      hash = await this.transfer(file, from, open);
      for (const { partial, whole } of open) {
        await utimes(partial, new Date(file.modifiedMs), new Date(file.modifiedMs));
        await settle(partial, whole);
      }
    } finally {
      for (const { folder } of open) await folder.close();
    }
    this.phase = 'verifying';
    const problems: string[] = [];
    const before = this.units.verify;
    for (const [index, { target, side }] of targets.entries()) {
      if (!this.spec.verify && !there[index]) continue;
      const back = await this.hashBack(target, file.bytes, side, targets.length);
      if (back !== hash)
        problems.push(
          there[index]
            ? `${target} was there with other content and was left as it is`
            : `${target} differs when read back`,
        );
    }
    if (this.spec.verify) this.units.verify = before + file.bytes;
    const outcome =
      problems.length === 0
        ? there.every(Boolean)
          ? 'present'
          : 'copied'
        : there.some(Boolean)
          ? 'conflict'
          : 'damaged';
    const result: CopiedFile = {
      ...file,
      outcome,
      xxh64: hash,
      hashedMs: Date.now(),
      problem: problems.length === 0 ? null : `${problems.join('; ')}.`,
    };
    this.done.push(result);
    this.tell({ type: 'copied', file: result });
  }

  /** A file that is to be written, with its folder in hand: it goes there, whatever its path leads to meanwhile. */
  private async hold(side: Side, target: string): Promise<Target> {
    await assertInside(side.path, dirname(target));
    await make(dirname(target));
    const folder = await HeldFolder.open(dirname(target));
    const whole = folder.at(basename(target));
    return { side, target, folder, whole, partial: partialPath(whole, this.spec.trialId) };
  }

  /** Reads a file once, hashes it, and writes it to all targets; the next chunk is read while one is written. */
  private async transfer(file: SourceFile, from: Side, targets: readonly Target[]): Promise<string> {
    const reader = await openCold(join(from.path, file.path));
    const writers: FileHandle[] = [];
    let next: Promise<Buffer> | null = null;
    try {
      for (const { partial } of targets) writers.push(await open(partial, 'wx'));
      const hash = this.requireHasher().create64();
      next = this.readChunk(reader, from, file, 0);
      for (let at = 0, unsynced = 0, turn = 0; at < file.bytes; turn++) {
        const chunk: Buffer = await next;
        this.assertGoing();
        const length = Math.min(chunk.length, file.bytes - at);
        const following = at + length;
        next =
          following < file.bytes
            ? this.readChunk(reader, from, file, following, turn + 1)
            : Promise.resolve(chunk);
        next.catch(() => undefined);
        const data = chunk.subarray(0, length);
        this.timed('hash', length, () => {
          hash.update(data);
        });
        unsynced += length;
        const sync = unsynced >= syncBytes || following >= file.bytes;
        const begun = monotonicUs();
        await Promise.all(
          writers.map((writer, index) =>
            writeChunk(writer, (targets[index] as { side: Side }).side, data, at, sync),
          ),
        );
        if (writers.length > 0) this.noteWork('write', length, begun); // destinations are written side by side: the slowest counts
        if (sync) unsynced = 0;
        at = following;
        this.units.copy += length;
      }
      return hash.digest().toString(16).padStart(16, '0');
    } catch (error) {
      throw errorCode(error) === null || error instanceof EngineError
        ? error
        : fileError(error, targets.length > 0 ? (targets[0]?.target ?? file.path) : file.path);
    } finally {
      await next?.catch(() => undefined); // its memory is used again
      await Promise.all([reader, ...writers].map((handle) => handle.close()));
    }
  }

  private async readChunk(
    reader: FileHandle,
    { gate, base, path }: Side,
    file: SourceFile,
    at: number,
    turn = 0,
  ): Promise<Buffer> {
    const buffer = this.buffers[turn % 2] as Buffer;
    const begun = monotonicUs();
    const read = async () => {
      const { bytesRead } = await reader.read(buffer, 0, buffer.length, at);
      if (bytesRead < Math.min(buffer.length, file.bytes - at))
        throw new EngineError('file-ended-early', { path: join(path, file.path), bytes: file.bytes });
      return bytesRead;
    };
    const bytes = Math.min(buffer.length, file.bytes - at);
    await (gate ? gate.pace(0, base + at, bytes, false, read) : read()).catch((error: unknown) => {
      throw error instanceof EngineError ? error : fileError(error, join(path, file.path));
    });
    this.noteWork('read', bytes, begun);
    return buffer.subarray(0, bytes);
  }

  /** Reads a written file back from its device, to its end, and hashes it. */
  private async hashBack(
    path: string,
    expectedBytes: number,
    { gate, base }: Side,
    sides: number,
  ): Promise<string> {
    const hash = this.requireHasher().create64();
    await readCold(
      path,
      {
        buffer: this.buffers[0],
        gate,
        address: base,
        bytes: expectedBytes,
        assertGoing: () => this.assertGoing(),
      },
      (part, begun) => {
        hash.update(part);
        this.noteWork('verify', part.length, begun);
        if (this.spec.verify) this.units.verify += part.length / sides;
      },
    );
    return hash.digest().toString(16).padStart(16, '0');
  }

  private timed(stage: CopyStage, bytes: number, work: () => void): void {
    const begun = monotonicUs();
    work();
    this.noteWork(stage, bytes, begun);
  }

  private noteWork(stage: CopyStage, bytes: number, begunUs: number): void {
    const entry = this.work[stage];
    entry.bytes += bytes;
    entry.us += monotonicUs() - begunUs;
  }

  private assertGoing(): void {
    if (this.stopping) throw new Stopped();
  }

  private requireHasher(): XXHashAPI {
    if (!this.hasher) throw new Error('The hash function has not been loaded.');
    return this.hasher;
  }

  private async result(leftOut: number, total: number): Promise<CopyResult> {
    const good = this.done.filter(({ outcome }) => outcome === 'copied' || outcome === 'present');
    const complete = !this.stopping && good.length > 0;
    const lists: WrittenList[] = [];
    if (complete) {
      const files = good.map(({ path, bytes, modifiedMs, xxh64, hashedMs }) => ({
        path,
        bytes,
        modifiedAt: new Date(modifiedMs),
        xxh64: xxh64 ?? '',
        hashedAt: new Date(hashedMs),
      }));
      for (const { path } of this.spec.destinations)
        lists.push(
          await writeHashList(path, this.spec.source.path, files, this.spec.softwareVersion, new Date()),
        );
    }
    const count = (outcome: CopiedFile['outcome']) =>
      this.done.filter((file) => file.outcome === outcome).length;
    return {
      work: structuredClone(this.work),
      files: this.files.length,
      bytes: total,
      seconds: (monotonicUs() - this.beganUs) / 1e6,
      copied: count('copied'),
      present: count('present'),
      conflicts: count('conflict'),
      damaged: count('damaged'),
      leftOut,
      hashLists: lists.map(({ path }) => path),
      remarks: lists.flatMap(({ remark }) => remark ?? []),
    };
  }

  private report(): void {
    const atUs = monotonicUs();
    const { lastReport: last, work, units, left } = this;
    const seconds = Math.max(1e-3, (atUs - last.atUs) / 1e6);
    const total = this.files.reduce((sum, { bytes }) => sum + bytes, 0) * (this.spec.verify ? 2 : 1);
    const copied = Math.max(0, units.copy - last.copy);
    const verified = Math.max(0, units.verify - last.verify);
    left?.observe(verified > copied ? 'verify' : 'copy', verified > copied ? verified : copied, atUs / 1000);
    const readBytes = work.read.bytes + work.verify.bytes;
    this.tell({
      type: 'progress',
      progress: {
        phase: this.phase,
        step: Math.max(0, this.fileNumber - 1),
        steps: this.files.length,
        share: total > 0 ? (units.copy + units.verify) / total : 1,
        bytes: work.read.bytes,
        moved: readBytes + work.write.bytes,
        readRate: (readBytes - last.read) / seconds,
        writeRate: (work.write.bytes - last.write) / seconds,
        atMs: (atUs - this.beganUs) / 1000,
        msLeft: left?.remainingMs ?? null,
        note: this.note,
      },
    });
    this.lastReport = { atUs, read: readBytes, write: work.write.bytes, ...units };
  }
}

/** Thrown to leave a file under way when the copy is paused or cancelled. */
class Stopped extends Error {}

async function writeChunk(
  writer: FileHandle,
  { gate, base }: Side,
  data: Buffer,
  at: number,
  sync: boolean,
): Promise<void> {
  const write = async () => {
    for (let done = 0; done < data.length;)
      done += (await writer.write(data, done, data.length - done, at + done)).bytesWritten;
    if (sync) await writer.datasync();
  };
  await (gate ? gate.pace(1, base + at, data.length, true, write) : write());
}

async function make(folder: string): Promise<void> {
  await mkdir(folder, { recursive: true }).catch((error: unknown) => {
    throw fileError(error, folder);
  });
}

function side({ path, standIn }: VolumeAccess, bytes: number): Side {
  return { path, gate: standIn && new StandInGate(standIn, 2, bytes), base: 0 };
}

async function sizeOf(path: string): Promise<number | null> {
  return stat(path).then(
    ({ size }) => size,
    () => null,
  );
}
