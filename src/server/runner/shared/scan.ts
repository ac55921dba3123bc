import { createHash } from 'node:crypto';
import { stat } from 'node:fs/promises';
import { join } from 'node:path';
import { atRate } from '@/core/media/clipRate';
import type { Rational } from '@/core/time/rational';
import { encodeSoundTable } from '@/core/media/soundTable';
import { encodePacketTable } from '@/core/media/packetTable';
import {
  getClip,
  listClipsOfVolume,
  markMissing,
  saveClip,
  updateClips,
  type ClipRow,
} from '@/db/queries/clips';
import { getVolume, setScan, updateVolume } from '@/db/queries/volumes';
import type { ScanFindings } from '@/db/schema';
import { EngineError, fileError } from '@/engine/errors';
import { contentHash } from '@/engine/media/contentHash';
import { sequenceAt, sequenceHash } from '@/engine/media/sequence';
import { removeTestFiles } from '@/engine/storage/testFile';
import { findMedia, inspectVolume } from '@/engine/volume';
import { publish } from '../../platform/events';
import { regroup } from '../../library/footage';
import { allowedRoots } from '../../library/roots';
import type { MediaReader } from './mediaReader';
import { recordTakes } from './takes';

const leastReportMs = 100;

/**
 * Looks through a volume's folder and records each media file: what it is, and
 * where its packets lie. Files whose size and time are unchanged are not read
 * again; a file found elsewhere with the content of a missing one has moved.
 */
export async function scanVolume(volumeId: string, reader: MediaReader): Promise<void> {
  const volume = await getVolume(volumeId);
  if (!volume) return;
  const begun = Date.now();
  const startedAt = new Date(begun).toISOString();
  let reported = 0;
  const report = async (done: number, total: number) => {
    if (done > 0 && done < total && Date.now() - reported < leastReportMs) return;
    reported = Date.now();
    await setScan(volumeId, { done, total, startedAt, error: null });
    await publish({ type: 'volume', volumeId, done, total, finished: false });
  };
  try {
    const { facts } = await inspectVolume(volume.path, allowedRoots());
    await updateVolume(volumeId, { facts });
    await removeTestFiles(volume.path); // of a volume that was pulled while it was measured
    const paths = await findMedia(volume.path);
    // Takes are found out of their parts, once these are known.
    const rows = (await listClipsOfVolume(volumeId)).filter(({ setup }) => !setup?.parts);
    const scan = new Scan(volumeId, volume.path, reader, rows, new Set(paths));
    await report(0, paths.length);
    for (const [index, path] of paths.entries()) {
      await scan.file(path);
      await report(index + 1, paths.length);
    }
    const found = await scan.finish();
    const { added, changed, moved, missing } = found;
    if (added + changed + moved + missing > 0) await recordTakes(volumeId, (path) => clipId(volumeId, path));
    const lastScan = { ...found, seconds: (Date.now() - begun) / 1000 };
    await updateVolume(volumeId, { lastScan });
    await regroup(volume.rigId);
    await setScan(volumeId, null, true);
    await publish({ type: 'volume', volumeId, done: paths.length, total: paths.length, finished: true });
  } catch (error) {
    const message =
      error instanceof EngineError
        ? error.message
        : `The scan failed: ${error instanceof Error ? error.message : String(error)}`;
    await setScan(volumeId, { done: 0, total: 0, startedAt, error: message });
    await publish({ type: 'volume', volumeId, done: 0, total: 0, finished: true });
  }
}

/** When a clip is said to have been changed that is to be read again whatever it holds: more is noted of it than before. Migrations set it. */
const lookedAtAgain = 0;

/** One look through a volume: what it knew before, and what became of it. */
class Scan {
  private readonly known: Map<string, ClipRow>;
  /** Clips whose path was not found, by content: they may have moved. */
  private readonly lost = new Map<string, ClipRow>();
  private readonly gone: Map<string, ClipRow>;
  private readonly counts: Omit<{ -readonly [Key in keyof ScanFindings]: ScanFindings[Key] }, 'seconds'> = {
    added: 0,
    changed: 0,
    moved: 0,
    missing: 0,
    same: 0,
  };

  constructor(
    private readonly volumeId: string,
    private readonly folder: string,
    private readonly reader: MediaReader,
    rows: readonly ClipRow[],
    found: ReadonlySet<string>,
  ) {
    this.known = new Map(rows.map((row) => [row.path, row]));
    this.gone = new Map(rows.filter(({ path }) => !found.has(path)).map((row) => [row.id, row]));
    for (const row of this.gone.values()) if (row.contentHash !== null) this.lost.set(row.contentHash, row);
  }

  async file(path: string): Promise<void> {
    const full = join(this.folder, path);
    const { size, mtime, hashed } = await onVolume(full);
    const known = this.known.get(path);
    const isAsBefore =
      known &&
      known.status !== 'missing' &&
      known.sizeBytes === size &&
      (known.identity !== null || known.format === null);
    if (isAsBefore && known.modifiedAt.getTime() === mtime.getTime()) {
      this.counts.same++;
      return;
    }
    const hash = size > 0 ? await hashed() : null;
    if (
      known &&
      known.sizeBytes === size &&
      known.contentHash !== null &&
      known.contentHash === hash &&
      known.modifiedAt.getTime() !== lookedAtAgain &&
      known.identity !== null &&
      known.problem === null &&
      known.faults === null
    ) {
      await updateClips([known.id], { modifiedAt: mtime });
      this.counts.same++;
      return;
    }
    const moved = known || hash === null ? undefined : this.lost.get(hash);
    if (moved) {
      this.lost.delete(moved.contentHash ?? '');
      this.gone.delete(moved.id);
      this.counts.moved++;
      const wasMissing = moved.status === 'missing';
      await updateClips([moved.id], {
        path,
        modifiedAt: mtime,
        ...(wasMissing ? { status: 'ready' as const, problem: null } : {}),
      });
      if (!wasMissing) return;
    }
    if (known) this.counts.changed++;
    else if (!moved) this.counts.added++;
    await recordFile(
      {
        id: (known ?? moved)?.id ?? clipId(this.volumeId, path),
        volumeId: this.volumeId,
        folder: this.folder,
        path,
      },
      this.reader,
      hash,
    );
  }

  async finish(): Promise<Omit<ScanFindings, 'seconds'>> {
    await markMissing([...this.gone.keys()]);
    return { ...this.counts, missing: this.gone.size };
  }
}

/** What the file system tells of a clip, in one file or in a file for each frame. @throws EngineError where it is not there */
async function onVolume(
  full: string,
): Promise<{ readonly size: number; readonly mtime: Date; readonly hashed: () => Promise<string> }> {
  const placed = await sequenceAt(full);
  if (placed)
    return {
      size: placed.bytes,
      mtime: new Date(placed.modifiedMs),
      hashed: () => sequenceHash(placed),
    };
  const { size, mtime } = await stat(full).catch((error: unknown) => {
    throw fileError(error, full);
  });
  return { size, mtime, hashed: () => contentHash(full) };
}

/** A clip's id: of its volume and the path it was first found under. */
export function clipId(volumeId: string, path: string): string {
  return `clip-${createHash('sha256').update(`${volumeId}/${path}`).digest('hex').slice(0, 16)}`;
}

/** The rate that somebody gave a clip whose files state none; null where nobody did. */
async function chosenRate(id: string): Promise<Rational | null> {
  const before = await getClip(id);
  return before?.identity?.rateChosen ? (before.format?.rate ?? null) : null;
}

/** Reads one file and saves what it is; a file that cannot be read is saved with why. */
export async function recordFile(
  {
    folder,
    ...place
  }: {
    readonly id: string;
    readonly volumeId: string;
    readonly folder: string;
    readonly path: string;
    readonly made?: 'pre-render';
  },
  reader: MediaReader,
  hash: string | null = null,
): Promise<void> {
  const full = join(folder, place.path);
  const { size, mtime } = await onVolume(full);
  const base = { ...place, sizeBytes: size, modifiedAt: mtime };
  const begun = performance.now();
  try {
    const { packets, sound, problem, ...probed } = await reader.ask({ kind: 'probe', path: full });
    const chosen = probed.identity.rateAssumed ? await chosenRate(place.id) : null;
    await saveClip(
      {
        ...base,
        ...probed,
        sound: sound?.setup ?? null,
        ...(chosen && atRate(probed, packets, chosen)),
        indexMs: performance.now() - begun,
        status: problem ? 'unplayable' : 'ready',
        problem,
      },
      encodePacketTable(packets),
      sound && encodeSoundTable(sound.packets),
    );
  } catch (error) {
    if (!(error instanceof EngineError)) throw error;
    await saveClip(
      {
        ...base,
        status: 'unplayable',
        problem: error.message,
        contentHash: hash,
        indexMs: performance.now() - begun,
        format: null,
        structure: null,
        identity: null,
        timeBase: null,
        setup: null,
        sound: null,
        startTimecode: null,
        frames: null,
        meanBitsPerSecond: null,
        peakBitsPerSecond: null,
      },
      null,
    );
  }
}
