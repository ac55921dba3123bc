import { and, asc, eq, inArray, sql } from 'drizzle-orm';
import { database } from '../client';
import type { NewTrial } from '../kinds';
import type { RenditionItemStatus } from '@/core/rendition/work';
import { clips, renditionItems, trials, volumes } from '../schema';
import { rowOf, type TrialIdentity } from './trials';
import type { RenditionSummary } from '@/core/kinds/renditions';

export type RenditionItemRow = typeof renditionItems.$inferSelect;

/** Writes a batch that is to be made with its items, or nothing of it. */
export async function addRenditions(
  trial: NewTrial<'renditions'> & TrialIdentity,
  items: readonly (typeof renditionItems.$inferInsert)[],
): Promise<void> {
  await database().transaction(async (transaction) => {
    await transaction.insert(trials).values(rowOf(trial));
    await transaction.insert(renditionItems).values([...items]);
  });
}

export async function listRenditionItems(trialId: string): Promise<RenditionItemRow[]> {
  return database()
    .select()
    .from(renditionItems)
    .where(eq(renditionItems.trialId, trialId))
    .orderBy(asc(renditionItems.position));
}

/** How many clips of batches came to what so far, by the batch. */
export async function countRenditionItems(
  trialIds: readonly string[],
): Promise<ReadonlyMap<string, RenditionSummary>> {
  if (trialIds.length === 0) return new Map();
  const of = (status: RenditionItemStatus) =>
    sql<number>`count(*) filter (where ${renditionItems.status} = ${status})::int`;
  const rows = await database()
    .select({
      trialId: renditionItems.trialId,
      items: sql<number>`count(*)::int`,
      made: of('made'),
      present: of('present'),
      failed: of('failed'),
    })
    .from(renditionItems)
    .where(inArray(renditionItems.trialId, [...trialIds]))
    .groupBy(renditionItems.trialId);
  return new Map(rows.map(({ trialId, ...counts }) => [trialId, counts]));
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
