import { desc, eq, getTableColumns, type SQL } from 'drizzle-orm';
import { database } from '../client';
import { clips, prerenders, timelines, volumes } from '../schema';

const { path, sizeBytes, volumeId } = getTableColumns(clips);
const withFile = {
  prerender: prerenders,
  path,
  sizeBytes,
  volumeId,
  volumeName: volumes.name,
  volumePath: volumes.path,
  volumeStandIn: volumes.standIn,
};

const filesWhere = async (which: SQL | undefined) => {
  const rows = await database()
    .select(withFile)
    .from(prerenders)
    .innerJoin(timelines, eq(prerenders.timelineId, timelines.id))
    .innerJoin(clips, eq(prerenders.clipId, clips.id))
    .innerJoin(volumes, eq(clips.volumeId, volumes.id))
    .where(which)
    .orderBy(desc(prerenders.createdAt));
  return rows.map(({ prerender, ...file }) => ({ ...prerender, ...file }));
};

/** Rendered parts of a timeline with where they lie, the newest first. */
export const listPrerenders = (timelineId: string) => filesWhere(eq(prerenders.timelineId, timelineId));

/** Those of the demo's timelines. */
export const listDemoPrerenders = () => filesWhere(eq(timelines.demo, 1));

export type PrerenderFile = Awaited<ReturnType<typeof listPrerenders>>[number];

/** Keeps of which part of a timeline a clip was rendered. */
export async function addPrerender(row: typeof prerenders.$inferInsert): Promise<void> {
  await database().insert(prerenders).values(row);
}

/** Forgets a rendered part. Trials that used it stay. */
export async function forgetPrerender(clipId: string): Promise<void> {
  await database().delete(clips).where(eq(clips.id, clipId));
}
