import canonicalize from 'canonicalize';
import { and, asc, desc, eq, getTableColumns, inArray, isNull, notLike, sql } from 'drizzle-orm';
import type { Timeline } from '@/core/timeline/model';
import { database } from '../client';
import { gestures, looks, timelineVersions, timelines } from '../schema';

export type TimelineRow = typeof timelines.$inferSelect;
const { document: _document, ...listColumns } = getTableColumns(timelines);
/** A timeline without its document. */
export type TimelineListRow = Omit<TimelineRow, 'document'>;
export type TimelineVersionRow = typeof timelineVersions.$inferSelect;
export type LookRow = typeof looks.$inferSelect;
export type GestureRow = typeof gestures.$inferSelect;

export async function addTimeline(row: typeof timelines.$inferInsert): Promise<void> {
  await database().insert(timelines).values(row);
}

/** Ids of timelines that hold one clip for its tests begin so; they are in no list. */
export const clipTimelinePrefix = 'clip-';

/** Puts a timeline in under its id, whatever was there. */
export async function putTimeline(row: typeof timelines.$inferInsert): Promise<void> {
  const { name, document, slots } = row;
  await database()
    .insert(timelines)
    .values(row)
    .onConflictDoUpdate({ target: timelines.id, set: { name, document, slots, removedAt: null } });
}

function listed(rigId: string) {
  return and(
    eq(timelines.rigId, rigId),
    isNull(timelines.removedAt),
    notLike(timelines.id, `${clipTimelinePrefix}%`),
  );
}

/** Timelines of a rig that were not removed, last edited first. */
export async function listTimelines(rigId: string): Promise<TimelineListRow[]> {
  return database()
    .select(listColumns)
    .from(timelines)
    .where(listed(rigId))
    .orderBy(desc(timelines.updatedAt));
}

/** How many timelines the list would show. */
export async function countTimelines(rigId: string): Promise<number> {
  return database().$count(timelines, listed(rigId));
}

export async function getTimeline(id: string): Promise<TimelineRow | null> {
  return (
    (
      await database()
        .select()
        .from(timelines)
        .where(and(eq(timelines.id, id), isNull(timelines.removedAt)))
    )[0] ?? null
  );
}

/** Whether a timeline was ever made, removed ones included. */
export async function timelineExists(id: string): Promise<boolean> {
  return (
    (await database().select({ id: timelines.id }).from(timelines).where(eq(timelines.id, id))).length > 0
  );
}

/** Saves a document over the given revision. Returns the new revision; null when another one was saved meanwhile. */
export async function saveTimeline(
  id: string,
  revision: number,
  document: Timeline,
  slots: number,
): Promise<number | null> {
  const rows = await database()
    .update(timelines)
    .set({ document, slots, name: document.name, revision: revision + 1, updatedAt: new Date() })
    .where(and(eq(timelines.id, id), eq(timelines.revision, revision), isNull(timelines.removedAt)))
    .returning({ revision: timelines.revision });
  return rows[0]?.revision ?? null;
}

export async function removeTimeline(id: string): Promise<void> {
  await database().update(timelines).set({ removedAt: new Date() }).where(eq(timelines.id, id));
}

/** Keeps a document as a version; the newest version is given back when it is the same. Returns its number. */
export async function keepVersion(
  timelineId: string,
  document: Timeline,
  name: string | null,
): Promise<number> {
  return database().transaction(async (transaction) => {
    // One writer at a time per timeline, so that numbers follow each other.
    await transaction.execute(sql`select 1 from timelines where id = ${timelineId} for update`);
    const [newest] = await transaction
      .select()
      .from(timelineVersions)
      .where(eq(timelineVersions.timelineId, timelineId))
      .orderBy(desc(timelineVersions.number))
      .limit(1);
    // The database keeps an object's keys in an order of its own.
    if (newest && canonicalize(newest.document) === canonicalize(document)) {
      if (name !== null)
        await transaction
          .update(timelineVersions)
          .set({ name })
          .where(
            and(eq(timelineVersions.timelineId, timelineId), eq(timelineVersions.number, newest.number)),
          );
      return newest.number;
    }
    const number = (newest?.number ?? 0) + 1;
    await transaction.insert(timelineVersions).values({ timelineId, number, name, document });
    return number;
  });
}

export async function listVersions(timelineId: string): Promise<Omit<TimelineVersionRow, 'document'>[]> {
  const { timelineId: id, number, name, createdAt } = timelineVersions;
  return database()
    .select({ timelineId: id, number, name, createdAt })
    .from(timelineVersions)
    .where(eq(id, timelineId))
    .orderBy(desc(number));
}

export async function getVersion(timelineId: string, number: number): Promise<TimelineVersionRow | null> {
  return (
    (
      await database()
        .select()
        .from(timelineVersions)
        .where(and(eq(timelineVersions.timelineId, timelineId), eq(timelineVersions.number, number)))
    )[0] ?? null
  );
}

export async function addLook(row: typeof looks.$inferInsert): Promise<void> {
  await database().insert(looks).values(row).onConflictDoNothing();
}

export async function listLooks(): Promise<Omit<LookRow, 'cube'>[]> {
  const { cube: _cube, ...columns } = getTableColumns(looks);
  return database().select(columns).from(looks).orderBy(asc(looks.name));
}

export async function getLooks(ids: readonly string[]): Promise<LookRow[]> {
  return ids.length === 0
    ? []
    : database()
        .select()
        .from(looks)
        .where(inArray(looks.id, [...ids]));
}

export async function addGesture(row: typeof gestures.$inferInsert): Promise<void> {
  await database().insert(gestures).values(row);
}

export async function listGestures(): Promise<GestureRow[]> {
  return database().select().from(gestures).orderBy(desc(gestures.createdAt));
}

export async function getGesture(id: string): Promise<GestureRow | null> {
  return (await database().select().from(gestures).where(eq(gestures.id, id)))[0] ?? null;
}

/** Returns whether there was one. */
export async function removeGesture(id: string): Promise<boolean> {
  const gone = await database().delete(gestures).where(eq(gestures.id, id)).returning({ id: gestures.id });
  return gone.length > 0;
}
