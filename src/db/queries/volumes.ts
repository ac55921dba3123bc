import { and, asc, eq, sql } from 'drizzle-orm';
import { database } from '../client';
import { clips, volumes, type ScanProgress } from '../schema';

export type VolumeRow = typeof volumes.$inferSelect;

export interface VolumeWithCounts extends VolumeRow {
  readonly clipCount: number;
  readonly problemCount: number;
}

export async function addVolume(row: typeof volumes.$inferInsert): Promise<void> {
  await database().insert(volumes).values(row);
}

export async function listVolumes(rigId: string): Promise<VolumeWithCounts[]> {
  const rows = await database()
    .select({
      volume: volumes,
      clipCount: sql<number>`count(${clips.id})::int`,
      problemCount: sql<number>`count(${clips.id}) filter (where ${clips.status} <> 'ready')::int`,
    })
    .from(volumes)
    .leftJoin(clips, eq(clips.volumeId, volumes.id))
    .where(eq(volumes.rigId, rigId))
    .groupBy(volumes.id)
    .orderBy(asc(volumes.createdAt));
  return rows.map(({ volume, ...counts }) => ({ ...volume, ...counts }));
}

export interface VolumeName {
  readonly id: string;
  readonly name: string;
  readonly simulated: boolean;
}

/** Volumes of all rigs by their names, in the order of these. */
export async function listVolumeNames(): Promise<VolumeName[]> {
  const { id, name, standIn } = volumes;
  return database()
    .select({
      id,
      name,
      simulated: sql<boolean>`${standIn} is not null and jsonb_typeof(${standIn}) = 'object'`,
    })
    .from(volumes)
    .orderBy(asc(name));
}

export async function getVolume(id: string): Promise<VolumeRow | null> {
  return (await database().select().from(volumes).where(eq(volumes.id, id)))[0] ?? null;
}

export async function findVolumeByPath(rigId: string, path: string): Promise<VolumeRow | null> {
  return (
    (
      await database()
        .select()
        .from(volumes)
        .where(and(eq(volumes.rigId, rigId), eq(volumes.path, path)))
    )[0] ?? null
  );
}

export async function updateVolume(id: string, change: Partial<typeof volumes.$inferInsert>): Promise<void> {
  await database().update(volumes).set(change).where(eq(volumes.id, id));
}

export async function setScan(id: string, scan: ScanProgress | null, finished = false): Promise<void> {
  await database()
    .update(volumes)
    .set({ scan, ...(finished ? { scannedAt: new Date() } : {}) })
    .where(eq(volumes.id, id));
}

/** Forgets a volume and its clips. Trials stay, with the conditions they recorded. */
export async function removeVolume(id: string): Promise<void> {
  await database().delete(volumes).where(eq(volumes.id, id));
}
