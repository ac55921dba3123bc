import { and, asc, desc, eq, getTableColumns, inArray, sql } from 'drizzle-orm';
import { database } from '../client';
import { clips, renditionItems, renditionJobs, volumes, type RenditionStatus } from '../schema';

export type RenditionJobRow = typeof renditionJobs.$inferSelect;
export type RenditionItemRow = typeof renditionItems.$inferSelect;
export type RenditionJobListRow = RenditionJobRow & {
  readonly items: number;
  readonly finished: number;
  readonly failed: number;
};

export async function addRenditionJob(
  job: typeof renditionJobs.$inferInsert,
  items: readonly (typeof renditionItems.$inferInsert)[],
): Promise<void> {
  await database().transaction(async (transaction) => {
    await transaction.insert(renditionJobs).values(job);
    await transaction.insert(renditionItems).values([...items]);
  });
}

export async function getRenditionJob(id: string): Promise<RenditionJobRow | null> {
  return (await database().select().from(renditionJobs).where(eq(renditionJobs.id, id)))[0] ?? null;
}

export async function listRenditionItems(jobId: string): Promise<RenditionItemRow[]> {
  return database()
    .select()
    .from(renditionItems)
    .where(eq(renditionItems.jobId, jobId))
    .orderBy(asc(renditionItems.position));
}

/** Batches of a rig, newest first, with how many of their clips are done. */
export async function listRenditionJobs(rigId: string): Promise<RenditionJobListRow[]> {
  return database()
    .select({
      ...getTableColumns(renditionJobs),
      items: sql<number>`count(${renditionItems.id})::int`,
      finished: sql<number>`count(${renditionItems.id}) filter (where ${renditionItems.status} in ('made', 'present'))::int`,
      failed: sql<number>`count(${renditionItems.id}) filter (where ${renditionItems.status} = 'failed')::int`,
    })
    .from(renditionJobs)
    .leftJoin(renditionItems, eq(renditionItems.jobId, renditionJobs.id))
    .where(eq(renditionJobs.rigId, rigId))
    .groupBy(renditionJobs.id)
    .orderBy(desc(renditionJobs.createdAt))
    .limit(500);
}

export async function listRenditionJobsByStatus(
  rigId: string,
  statuses: readonly RenditionStatus[],
): Promise<RenditionJobRow[]> {
  return database()
    .select()
    .from(renditionJobs)
    .where(and(eq(renditionJobs.rigId, rigId), inArray(renditionJobs.status, [...statuses])))
    .orderBy(asc(renditionJobs.createdAt));
}

export async function updateRenditionJob(
  id: string,
  from: readonly RenditionStatus[],
  change: Partial<typeof renditionJobs.$inferInsert>,
): Promise<boolean> {
  return (
    (
      await database()
        .update(renditionJobs)
        .set(change)
        .where(and(eq(renditionJobs.id, id), inArray(renditionJobs.status, [...from])))
        .returning({ id: renditionJobs.id })
    ).length > 0
  );
}

export async function updateRenditionItem(
  id: string,
  change: Partial<typeof renditionItems.$inferInsert>,
): Promise<void> {
  await database().update(renditionItems).set(change).where(eq(renditionItems.id, id));
}

/** A rendition of this content with these settings whose file is there, as the last scan or its making saw it. */
export async function findMadeRendition(
  sourceHash: string,
  settingsKey: string,
): Promise<{
  readonly clipId: string;
  readonly clipPath: string;
  readonly volumeName: string;
  readonly volumePath: string;
} | null> {
  const [row] = await database()
    .select({ clipId: clips.id, clipPath: clips.path, volumeName: volumes.name, volumePath: volumes.path })
    .from(renditionItems)
    .innerJoin(clips, eq(renditionItems.outputClipId, clips.id))
    .innerJoin(volumes, eq(clips.volumeId, volumes.id))
    .where(
      and(
        eq(renditionItems.sourceHash, sourceHash),
        eq(renditionItems.settingsKey, settingsKey),
        eq(renditionItems.status, 'made'),
        eq(clips.status, 'ready'),
      ),
    )
    .limit(1);
  return row ?? null;
}

/** How a clip was made, if Navvy made it. */
export async function renditionOf(clipId: string): Promise<RenditionItemRow | null> {
  return (
    (
      await database()
        .select()
        .from(renditionItems)
        .where(and(eq(renditionItems.outputClipId, clipId), eq(renditionItems.status, 'made')))
        .limit(1)
    )[0] ?? null
  );
}

export async function removeRenditionJob(id: string): Promise<void> {
  await database().delete(renditionJobs).where(eq(renditionJobs.id, id));
}
