import { and, asc, eq, notInArray } from 'drizzle-orm';
import type { StorageModel } from '@/core/storage/model';
import { database } from '../client';
import { clips, packetTables, volumes } from '../schema';

export type ClipRow = typeof clips.$inferSelect;
export interface ClipWithVolume extends ClipRow {
  readonly volumeName: string;
  readonly volumePath: string;
  readonly volumeStandIn: StorageModel | null;
}

const withVolume = { clip: clips, volumeName: volumes.name, volumePath: volumes.path, volumeStandIn: volumes.standIn };

export async function listClips(rigId: string): Promise<ClipWithVolume[]> {
  const rows = await database().select(withVolume).from(clips)
    .innerJoin(volumes, eq(clips.volumeId, volumes.id)).where(eq(volumes.rigId, rigId)).orderBy(asc(clips.path));
  return rows.map(({ clip, ...volume }) => ({ ...clip, ...volume }));
}

export async function listClipsOfVolume(volumeId: string): Promise<ClipRow[]> {
  return database().select().from(clips).where(eq(clips.volumeId, volumeId));
}

export async function getClip(id: string): Promise<ClipWithVolume | null> {
  const [row] = await database().select(withVolume).from(clips).innerJoin(volumes, eq(clips.volumeId, volumes.id)).where(eq(clips.id, id));
  return row ? { ...row.clip, volumeName: row.volumeName, volumePath: row.volumePath, volumeStandIn: row.volumeStandIn } : null;
}

export async function getPacketTable(clipId: string): Promise<Buffer | null> {
  return (await database().select().from(packetTables).where(eq(packetTables.clipId, clipId)))[0]?.data ?? null;
}

/** Saves what a scan found of a file together with its packet table, or neither. */
export async function saveClip(row: typeof clips.$inferInsert, packets: Uint8Array | null): Promise<void> {
  await database().transaction(async (transaction) => {
    const { id, ...change } = row;
    await transaction.insert(clips).values(row).onConflictDoUpdate({ target: clips.id, set: { ...change, scannedAt: new Date() } });
    await transaction.delete(packetTables).where(eq(packetTables.clipId, id));
    if (packets) await transaction.insert(packetTables).values({ clipId: id, data: Buffer.from(packets) });
  });
}

/** Marks the clips of a volume that a scan no longer found. */
export async function markMissing(volumeId: string, foundPaths: readonly string[]): Promise<void> {
  const here = eq(clips.volumeId, volumeId);
  await database().update(clips)
    .set({ status: 'missing', problem: 'The last scan did not find this file. Put it back or scan again after moving it.' })
    .where(foundPaths.length > 0 ? and(here, notInArray(clips.path, [...foundPaths])) : here);
}
