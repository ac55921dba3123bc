import { and, asc, eq, getTableColumns, inArray, isNotNull, isNull, ne, or, sql } from 'drizzle-orm';
import type { ClipFaults } from '@/core/media/faults';
import type { StorageModel } from '@/core/storage/model';
import { database } from '../client';
import { changesWords, relistClips } from '../relist';
import { clips, packetTables, previews, volumes } from '../schema';

export type ClipRow = typeof clips.$inferSelect;
export interface ClipWithVolume extends ClipRow {
  readonly volumeName: string;
  readonly volumePath: string;
  readonly volumeStandIn: StorageModel | null;
}

const withVolume = {
  clip: clips,
  volumeName: volumes.name,
  volumePath: volumes.path,
  volumeStandIn: volumes.standIn,
};

/** Clips of a rig by path; copies under one path by when their volumes were added. */
export async function listClips(rigId: string): Promise<ClipWithVolume[]> {
  const rows = await database()
    .select(withVolume)
    .from(clips)
    .innerJoin(volumes, eq(clips.volumeId, volumes.id))
    .where(and(eq(volumes.rigId, rigId), isNull(clips.made)))
    .orderBy(asc(clips.path), asc(volumes.createdAt), asc(clips.id));
  return rows.map(({ clip, ...volume }) => ({ ...clip, ...volume }));
}

export async function listClipsOfVolume(volumeId: string): Promise<ClipRow[]> {
  return database()
    .select()
    .from(clips)
    .where(and(eq(clips.volumeId, volumeId), isNull(clips.made)));
}

/** Clips by id, rendered parts of timelines too, in no certain order; ids that are gone are left out. */
export async function getClips(ids: readonly string[]): Promise<ClipWithVolume[]> {
  const rows = await database()
    .select(withVolume)
    .from(clips)
    .innerJoin(volumes, eq(clips.volumeId, volumes.id))
    .where(inArray(clips.id, [...ids]));
  return rows.map(({ clip, ...volume }) => ({ ...clip, ...volume }));
}

export async function getClip(id: string): Promise<ClipWithVolume | null> {
  return (await getClips([id]))[0] ?? null;
}

/** Clips of one footage or several. */
export async function listClipsOfFootage(...footageIds: string[]): Promise<ClipWithVolume[]> {
  const rows = await database()
    .select(withVolume)
    .from(clips)
    .innerJoin(volumes, eq(clips.volumeId, volumes.id))
    .where(inArray(clips.footageId, footageIds))
    .orderBy(asc(clips.path));
  return rows.map(({ clip, ...volume }) => ({ ...clip, ...volume }));
}

export async function getPacketTable(clipId: string): Promise<Buffer | null> {
  const { data } = packetTables;
  const [row] = await database().select({ data }).from(packetTables).where(eq(packetTables.clipId, clipId));
  return row?.data ?? null;
}

/** The packed table of a clip's sound; null where it has none that runs play. */
export async function getSoundTable(clipId: string): Promise<Buffer | null> {
  const { sound } = packetTables;
  const [row] = await database().select({ sound }).from(packetTables).where(eq(packetTables.clipId, clipId));
  return row?.sound ?? null;
}

/** Changes what is known of a clip's frames that are not whole. Does nothing where the clip is gone. */
export async function changeFaults(
  id: string,
  change: (known: ClipFaults | null) => ClipFaults,
): Promise<void> {
  await database().transaction(async (transaction) => {
    const [row] = await transaction
      .select({ faults: clips.faults })
      .from(clips)
      .where(eq(clips.id, id))
      .for('update');
    if (!row) return;
    await transaction
      .update(clips)
      .set({ faults: change(row.faults) })
      .where(eq(clips.id, id));
    await relistClips(transaction, [id]);
  });
}

/** Saves what a scan found of a file together with its packed tables, or none of it. It was read anew: what was known of its frames holds no more. */
export async function saveClip(
  row: typeof clips.$inferInsert,
  packets: Uint8Array | null,
  sound: Uint8Array | null = null,
): Promise<void> {
  await database().transaction(async (transaction) => {
    const { id, ...change } = row;
    await transaction
      .insert(clips)
      .values(row)
      .onConflictDoUpdate({
        target: clips.id,
        set: {
          ...change,
          scannedAt: new Date(),
          faults: null,
        },
      });
    await relistClips(transaction, [id]);
    await transaction.delete(packetTables).where(eq(packetTables.clipId, id));
    if (packets)
      await transaction
        .insert(packetTables)
        .values({ clipId: id, data: Buffer.from(packets), sound: sound && Buffer.from(sound) });
  });
}

export async function updateClips(
  ids: readonly string[],
  change: Partial<typeof clips.$inferInsert>,
): Promise<void> {
  if (ids.length === 0) return;
  await database().transaction(async (transaction) => {
    await transaction
      .update(clips)
      .set(change)
      .where(inArray(clips.id, [...ids]));
    if (changesWords(change)) await relistClips(transaction, ids);
  });
}

/** Marks clips that a scan no longer found. */
export async function markMissing(ids: readonly string[]): Promise<void> {
  await updateClips(ids, {
    status: 'missing',
    problem: 'The last scan did not find this file. Put it back or scan again after moving it.',
  });
}

/** Forgets clips whose files are missing. Trials stay, with the conditions they recorded. Returns how many went. */
export async function removeMissingClips(ids: readonly string[]): Promise<number> {
  return (
    await database()
      .delete(clips)
      .where(and(inArray(clips.id, [...ids]), eq(clips.status, 'missing')))
      .returning({ id: clips.id })
  ).length;
}

/** Clips of a rig of which no preview was made yet, or one of other content. */
export async function clipsWithoutPreview(rigId: string, limit: number): Promise<ClipWithVolume[]> {
  const rows = await database()
    .select(withVolume)
    .from(clips)
    .innerJoin(volumes, eq(clips.volumeId, volumes.id))
    .leftJoin(previews, eq(previews.clipId, clips.id))
    .where(
      and(
        eq(volumes.rigId, rigId),
        eq(clips.status, 'ready'),
        isNull(clips.made),
        or(isNull(previews.clipId), ne(previews.contentHash, sql`coalesce(${clips.contentHash}, '')`)),
      ),
    )
    .orderBy(asc(clips.scannedAt))
    .limit(limit);
  return rows.map(({ clip, ...volume }) => ({ ...clip, ...volume }));
}

export type PreviewRow = typeof previews.$inferSelect;

export async function savePreview(row: typeof previews.$inferInsert): Promise<void> {
  const { clipId: _clipId, ...set } = row;
  await database().insert(previews).values(row).onConflictDoUpdate({ target: previews.clipId, set });
}

export async function getPreview(clipId: string): Promise<PreviewRow | null> {
  return (await database().select().from(previews).where(eq(previews.clipId, clipId)))[0] ?? null;
}

/** How long decoding a clip's sound took when its peaks were made, ms; only of clips that have sound. */
export async function soundCosts(rigId: string): Promise<ReadonlyMap<string, number>> {
  const rows = await database()
    .select({ clipId: previews.clipId, audioMs: previews.audioMs })
    .from(previews)
    .innerJoin(clips, eq(previews.clipId, clips.id))
    .innerJoin(volumes, eq(clips.volumeId, volumes.id))
    .where(and(eq(volumes.rigId, rigId), isNotNull(previews.peaks)));
  return new Map(rows.map(({ clipId, audioMs }) => [clipId, audioMs]));
}

/** A finished preview of the same content, whichever clip it was made of. */
export async function previewOfContent(contentHash: string): Promise<PreviewRow | null> {
  return (
    (
      await database()
        .select()
        .from(previews)
        .where(and(eq(previews.contentHash, contentHash), isNull(previews.problem)))
        .limit(1)
    )[0] ?? null
  );
}

/** What the automatic grouping looks at, of every clip of a rig. */
export async function clipsForGrouping(rigId: string) {
  const { id, path, contentHash, startTimecode, frames, format, meanBitsPerSecond, footageId, footageHand } =
    getTableColumns(clips);
  return database()
    .select({
      id,
      path,
      contentHash,
      startTimecode,
      frames,
      format,
      meanBitsPerSecond,
      footageId,
      footageHand,
      fingerprint: previews.fingerprint,
    })
    .from(clips)
    .innerJoin(volumes, eq(clips.volumeId, volumes.id))
    .leftJoin(previews, eq(previews.clipId, clips.id))
    .where(and(eq(volumes.rigId, rigId), isNull(clips.made)))
    .orderBy(asc(clips.id));
}
