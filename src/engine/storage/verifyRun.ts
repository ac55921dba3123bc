import { join } from 'node:path';
import ignore from 'ignore';
import { folderHashes, treeOf, type FolderHashes } from '@/core/formats/hashLists/folders';
import { isSame, type HashName } from '@/core/formats/hashLists/hashes';
import type { ListedFile, ListedFolder } from '@/core/formats/hashLists/read';
import { listFolder, listTool } from '@/core/formats/hashLists/write';
import type { CheckedFile } from '@/core/storage/copiedFile';
import { countOf, verdictOf, type FileHashes, type VerificationResult } from '@/core/storage/heldAgainst';
import { PhasedTimeLeft } from '@/core/tasks/phasedTimeLeft';
import { monotonicUs } from '../clock';
import { EngineError, fileError } from '../errors';
import { alignedBuffer } from '../media/coldFile';
import { listFiles, type SourceFile } from './copyFiles';
import { hasher, hashOfParts, type Hasher } from './hashers';
import { Missing } from './missing';
import { readCold } from './openCold';
import type { FromStorage, StorageSpec } from './spec';
import { StandInGate } from './standIn';

const chunkBytes = 4 * 2 ** 20;
const reportMs = 250;

type VerificationSpec = Extract<StorageSpec, { kind: 'verification' }>;

/** A name as file systems may write it: an accent as one sign or as two. */
const asOne = (path: string) => path.normalize('NFC');

/** Thrown to leave a file under way when the verification is paused or cancelled. */
class Stopped extends Error {}

/** Holds a folder against a hash list: reads past the system's cache what the list names, hashes it, and looks for what is not in it. */
export class VerifyRun {
  private stopping = false;
  private readonly work = { read: { bytes: 0, us: 0 }, hash: { bytes: 0, us: 0 } };
  private readonly buffer = alignedBuffer(chunkBytes);
  private readonly checked: CheckedFile[] = [];
  /** Of what was read, by the names that files have here. */
  private readonly hashes = new Map<string, FileHashes>();
  private readonly folderNames: readonly HashName[];
  private gate: StandInGate | null = null;
  private base = 0;
  private total = 0;
  /** How far it is in all bytes of the files that the list names, those that are not read included. */
  private reached = 0;
  private step = 0;
  private steps = 0;
  private note = 'Looking for files';
  private left: PhasedTimeLeft<'verify'> | null = null;
  private lastReport = { atUs: monotonicUs(), read: 0, reached: 0 };
  private readonly beganUs = monotonicUs();

  constructor(
    private readonly spec: VerificationSpec,
    private readonly tell: (message: FromStorage) => void,
  ) {
    this.folderNames = [
      ...new Set(
        spec.list.folders.flatMap(({ content, structure }) =>
          [...content, ...structure].map(({ name }) => name),
        ),
      ),
    ];
  }

  stop(): void {
    this.stopping = true;
  }

  get stopped(): boolean {
    return this.stopping;
  }

  /** @returns what was found, also when it was stopped. @throws EngineError where the folder cannot be read */
  async verify(): Promise<VerificationResult> {
    const { volume, list, listName, finished } = this.spec;
    const { files, ignored } = list;
    const { files: there, leftOut } = await listFiles(volume.path);
    const byPath = new Map(there.map((file) => [file.path, file]));
    const byName = new Map(there.map((file) => [asOne(file.path), file]));
    const pairs = files.map((listed) => ({
      listed,
      file: byPath.get(listed.path) ?? byName.get(asOne(listed.path)),
    }));
    this.total = pairs.reduce((sum, { file }) => sum + (file?.bytes ?? 0), 0);
    this.gate = volume.standIn && new StandInGate(volume.standIn, 1, this.total);
    this.left = new PhasedTimeLeft({ verify: this.total });
    this.steps = files.length;
    const had = new Map(finished.map((file) => [file.path, file]));
    this.tell({ type: 'prepared', cold: null, writes: null });
    const reporter = setInterval(() => this.report(), reportMs);
    try {
      for (const { listed, file } of pairs) {
        if (this.stopping) break;
        this.step++;
        this.note = listed.path;
        await this.check(listed, file ?? null, had.get(listed.path) ?? null);
      }
      const named = new Set(pairs.flatMap(({ file }) => file?.path ?? []));
      const left = ignore().add([...ignored]);
      const extra = there.filter(
        ({ path }) =>
          !named.has(path) && path.split('/').at(-1) !== listName && !isOfLists(path) && !left.ignores(path),
      );
      if (!this.stopping) await this.findMoved(files, extra);
      const folders = this.stopping ? { same: 0, changed: 0, unproved: 0 } : await this.checkFolders();
      return this.result(leftOut, folders);
    } finally {
      clearInterval(reporter);
      this.report();
    }
  }

  private keep(file: CheckedFile): void {
    this.checked.push(file);
    this.tell({ type: 'checked', file });
  }

  private async check(listed: ListedFile, file: SourceFile | null, had: CheckedFile | null): Promise<void> {
    const { hashes } = listed;
    if (!file) {
      this.keep({ ...rowOf(listed, null), outcome: 'missing', problem: null });
      return;
    }
    try {
      // What was found the same before this was stopped, and is as old and as large, is so still; folders need its hash again.
      if (had && had.outcome === 'same' && isAsThen(had, file) && this.folderNames.length === 0) {
        this.checked.push(had);
        return;
      }
      if (listed.bytes !== null && listed.bytes !== file.bytes) {
        // Its folder is worked out from what it is now.
        if (this.folderNames.length > 0) this.hashes.set(file.path, await this.hash(file, this.folderNames));
        this.keep({
          ...rowOf(listed, file),
          outcome: 'changed',
          problem: `It has ${file.bytes} bytes; the list has ${listed.bytes}.`,
        });
        return;
      }
      const computed = await this.hash(file, [
        ...new Set([...hashes.map(({ name }) => name), ...this.folderNames]),
      ]);
      this.hashes.set(file.path, computed);
      this.keep({ ...rowOf(listed, file, computed), ...verdictOf(hashes, computed) });
    } catch (error) {
      if (error instanceof Stopped) return;
      // One that cannot be read says nothing of the others.
      const { message } = error instanceof EngineError ? error : fileError(error, file.path);
      this.keep({ ...rowOf(listed, file), outcome: 'unreadable', problem: message });
    } finally {
      this.base += file.bytes;
      this.reached = this.base;
    }
  }

  /** Reads a file to its end, and hashes it in several ways at once. */
  private async hash({ path, bytes: size }: SourceFile, names: readonly HashName[]): Promise<FileHashes> {
    const hashers = new Map<HashName, Hasher>();
    for (const name of names) hashers.set(name, await hasher(name));
    if (names.length === 0) return new Map();
    await readCold(
      join(this.spec.volume.path, path),
      {
        buffer: this.buffer,
        gate: this.gate,
        address: this.base,
        bytes: size,
        assertGoing: () => {
          if (this.stopping) throw new Stopped();
        },
      },
      (part, begun) => {
        const hashing = monotonicUs();
        for (const one of hashers.values()) one.update(part);
        this.work.read.bytes += part.length;
        this.work.read.us += hashing - begun;
        this.work.hash.bytes += part.length;
        this.work.hash.us += monotonicUs() - hashing;
        this.reached += part.length;
      },
    );
    return new Map([...hashers].map(([name, one]) => [name, one.digest()]));
  }

  /** Files that lie elsewhere than the list has them, and those that it does not name. */
  private async findMoved(files: readonly ListedFile[], extra: readonly SourceFile[]): Promise<void> {
    const missing = new Missing(this.checked, files);
    for (const file of extra) {
      this.note = file.path;
      let moved: ListedFile | null = null;
      try {
        const computed = await this.hash(file, [
          ...new Set([...missing.hashesFor(file.bytes), ...this.folderNames]),
        ]);
        this.hashes.set(file.path, computed);
        moved = missing.takeSame(file.bytes, computed);
      } catch (error) {
        if (error instanceof Stopped) return;
        // It is told as extra all the same.
      }
      this.base += file.bytes;
      if (moved) {
        const at = missing.rowOf(moved);
        const row: CheckedFile = {
          ...(this.checked[at] as CheckedFile),
          outcome: 'moved',
          problem: `The same content lies at ${file.path}.`,
        };
        this.checked[at] = row;
        this.tell({ type: 'checked', file: row });
      } else
        this.keep({
          path: file.path,
          bytes: file.bytes,
          modifiedMs: file.modifiedMs,
          outcome: 'extra',
          hash: null,
          hashedMs: Date.now(),
          problem: null,
        });
    }
  }

  /**
   * Folders by their own hashes, of all that lies in them now. Where one comes out otherwise it has changed only if its list
   * composes them as it is done here: a list of ours, or one of which a folder with several entries came out the same.
   */
  private async checkFolders(): Promise<VerificationResult['folders']> {
    const { by, folders } = this.spec.list;
    const hashOf = await hashOfParts(this.folderNames);
    const now = new Map(
      this.folderNames.map((name) => {
        const tree = treeOf([...this.hashes].map(([path, found]) => [path, found.get(name) ?? null]));
        return [name, folderHashes(tree, name, hashOf)];
      }),
    );
    const verdicts = folders.map((folder) => folderVerdict(folder, now));
    const isOurWay =
      by?.startsWith(`${listTool} `) === true ||
      verdicts.some(({ verdict: one, entries }) => one === 'same' && entries > 1);
    const counts = { same: 0, changed: 0, unproved: 0 };
    for (const { verdict: one } of verdicts) counts[one === 'changed' && !isOurWay ? 'unproved' : one]++;
    return counts;
  }

  private result(leftOut: number, folders: VerificationResult['folders']): VerificationResult {
    const { checked } = this;
    return {
      files: this.spec.list.files.length,
      bytes: this.total,
      seconds: (monotonicUs() - this.beganUs) / 1e6,
      work: structuredClone(this.work),
      same: countOf(checked, 'same'),
      changed: countOf(checked, 'changed'),
      missing: countOf(checked, 'missing'),
      moved: countOf(checked, 'moved'),
      unreadable: countOf(checked, 'unreadable'),
      unproved: countOf(checked, 'unproved'),
      extra: countOf(checked, 'extra'),
      leftOut,
      folders,
    };
  }

  private report(): void {
    const atUs = monotonicUs();
    const { lastReport: last, reached, total } = this;
    const seconds = Math.max(1e-3, (atUs - last.atUs) / 1e6);
    this.left?.observe('verify', Math.max(0, reached - last.reached), atUs / 1000);
    this.tell({
      type: 'progress',
      progress: {
        phase: 'verifying',
        step: Math.max(0, this.step - 1),
        steps: this.steps,
        share: total > 0 ? Math.min(1, reached / total) : 1,
        bytes: this.work.read.bytes,
        moved: this.work.read.bytes + this.checked.length,
        readRate: (this.work.read.bytes - last.read) / seconds,
        writeRate: 0,
        atMs: (atUs - this.beganUs) / 1000,
        msLeft: this.left?.remainingMs ?? null,
        note: this.note,
      },
    });
    this.lastReport = { atUs, read: this.work.read.bytes, reached };
  }
}

interface FolderVerdict {
  readonly verdict: 'same' | 'changed' | 'unproved';
  /** What lies in it now. */
  readonly entries: number;
}

function folderVerdict(
  { path, content, structure }: ListedFolder,
  now: ReadonlyMap<HashName, ReadonlyMap<string, FolderHashes | null>>,
): FolderVerdict {
  let entries = 0;
  const came = [
    ...content.map((hash) => ({ hash, of: 'content' as const })),
    ...structure.map((hash) => ({ hash, of: 'structure' as const })),
  ].map(({ hash, of }) => {
    const found = now.get(hash.name)?.get(path);
    if (!found) return null;
    ({ entries } = found);
    return isSame(hash, found[of]);
  });
  if (came.length === 0 || came.includes(null)) return { verdict: 'unproved', entries };
  return { verdict: came.includes(false) ? 'changed' : 'same', entries };
}

/** Hash lists and their chain are no part of what they list. */
const isOfLists = (path: string) => path.split('/').includes(listFolder);

const isAsThen = (had: CheckedFile, { bytes, modifiedMs }: SourceFile) =>
  had.bytes === bytes && had.modifiedMs === modifiedMs;

function rowOf(listed: ListedFile, file: SourceFile | null, computed: FileHashes = new Map()) {
  const shown = listed.hashes.find(({ name }) => computed.has(name));
  return {
    path: listed.path,
    bytes: file?.bytes ?? listed.bytes,
    modifiedMs: file?.modifiedMs ?? null,
    hash: shown ? `${shown.name} ${computed.get(shown.name)}` : null,
    hashedMs: Date.now(),
  };
}
