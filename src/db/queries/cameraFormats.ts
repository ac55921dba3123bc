import { asc, eq } from 'drizzle-orm';
import { database } from '../client';
import { cameraFormats } from '../schema';

export type CameraFormatRow = typeof cameraFormats.$inferSelect;

export async function listCameraFormats(): Promise<CameraFormatRow[]> {
  return database().select().from(cameraFormats).orderBy(asc(cameraFormats.position));
}

/** Adds a format, or changes the one with its id. */
export async function saveCameraFormat(row: typeof cameraFormats.$inferInsert): Promise<void> {
  const { id: _id, ...change } = row;
  await database()
    .insert(cameraFormats)
    .values(row)
    .onConflictDoUpdate({ target: cameraFormats.id, set: change });
}

/** Returns whether there was one. */
export async function removeCameraFormat(id: string): Promise<boolean> {
  const gone = await database()
    .delete(cameraFormats)
    .where(eq(cameraFormats.id, id))
    .returning({ id: cameraFormats.id });
  return gone.length > 0;
}

/** Puts a whole table in the place of what is there, or nothing of it. */
export async function replaceCameraFormats(
  rows: readonly (typeof cameraFormats.$inferInsert)[],
): Promise<void> {
  await database().transaction(async (transaction) => {
    await transaction.delete(cameraFormats);
    if (rows.length > 0) await transaction.insert(cameraFormats).values([...rows]);
  });
}
