import { createHash } from 'node:crypto';
import { stat } from 'node:fs/promises';
import { join } from 'node:path';
import { encodePacketTable } from '@/core/media/packetTable';
import { listClipsOfVolume, markMissing, saveClip, type ClipRow } from '@/db/queries/clips';
import { getVolume, setScan, updateVolume } from '@/db/queries/volumes';
import { EngineError, fileErrorMessage } from '@/engine/errors';
import { probeClip } from '@/engine/media/probe';
import { removeTestFiles } from '@/engine/storage/testFile';
import { findMedia, inspectFolder } from '@/engine/volume';
import { publish } from '../events';
import { allowedRoots } from '../roots';

/**
 * Looks through a volume's folder and records each media file: what it is, and
 * where its packets lie. Files whose size and time are unchanged are not read again.
 */
export async function scanVolume(volumeId: string): Promise<void> {
  const volume = await getVolume(volumeId);
  if (!volume) return;
  const startedAt = new Date().toISOString();
  const report = async (done: number, total: number, finished = false) => {
    await setScan(volumeId, finished ? null : { done, total, startedAt, error: null }, finished);
    await publish({ type: 'volume', volumeId, done, total, finished });
  };
  try {
    const { facts } = await inspectFolder(volume.path, allowedRoots());
    await updateVolume(volumeId, { facts });
    await removeTestFiles(volume.path); // of a volume that was pulled while it was measured
    const paths = await findMedia(volume.path);
    const known = new Map((await listClipsOfVolume(volumeId)).map((clip) => [clip.path, clip]));
    await report(0, paths.length);
    for (const [index, path] of paths.entries()) {
      await scanFile(volumeId, volume.path, path, known.get(path));
      await report(index + 1, paths.length);
    }
    await markMissing(volumeId, paths);
    await report(paths.length, paths.length, true);
  } catch (error) {
    const message = error instanceof EngineError ? error.message : `The scan failed: ${error instanceof Error ? error.message : String(error)}`;
    await setScan(volumeId, { done: 0, total: 0, startedAt, error: message });
    await publish({ type: 'volume', volumeId, done: 0, total: 0, finished: true });
  }
}

async function scanFile(volumeId: string, folder: string, path: string, known: ClipRow | undefined): Promise<void> {
  const full = join(folder, path);
  const id = known?.id ?? `clip-${createHash('sha256').update(`${volumeId}/${path}`).digest('hex').slice(0, 16)}`;
  const { size, mtime } = await stat(full).catch((error: unknown) => { throw new EngineError(fileErrorMessage(error, full), { cause: error }); });
  const base = { id, volumeId, path, sizeBytes: size, modifiedAt: mtime };
  if (known && known.status !== 'missing' && known.sizeBytes === size && known.modifiedAt.getTime() === mtime.getTime()) return;
  try {
    const { packets, problem, ...probed } = await probeClip(full);
    await saveClip({ ...base, ...probed, status: problem ? 'unplayable' : 'ready', problem }, encodePacketTable(packets));
  } catch (error) {
    if (!(error instanceof EngineError)) throw error;
    await saveClip({ ...base, status: 'unplayable', problem: error.message, contentHash: null, format: null, structure: null, timeBase: null, setup: null, startTimecode: null, frames: null, meanBitsPerSecond: null, peakBitsPerSecond: null }, null);
  }
}
