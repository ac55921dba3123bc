import { and, eq, inArray, notExists, sql } from 'drizzle-orm';
import { database } from '../client';
import { clips, footage } from '../schema';

export type FootageRow = typeof footage.$inferSelect;

export async function getFootage(id: string): Promise<FootageRow | null> {
  return (await database().select().from(footage).where(eq(footage.id, id)))[0] ?? null;
}

export async function listFootage(rigId: string): Promise<FootageRow[]> {
  return database().select().from(footage).where(eq(footage.rigId, rigId));
}

/** One group as it shall be. */
export interface GroupChange {
  readonly footageId: string;
  readonly name: string;
  /** Clips that are not in it yet. */
  readonly joining: readonly string[];
}

/** Puts clips into groups, making the groups that are not there, and removes groups without clips. All of it or nothing. */
export async function saveGroups(
  rigId: string,
  changes: readonly GroupChange[],
  byHand = false,
): Promise<void> {
  await database().transaction(async (transaction) => {
    for (const { footageId, name, joining } of changes) {
      await transaction
        .insert(footage)
        .values({ id: footageId, rigId, name, byHand })
        .onConflictDoUpdate({
          target: footage.id,
          set: byHand ? { byHand } : { name: sql`${footage.name}` },
        });
      if (joining.length > 0)
        await transaction
          .update(clips)
          .set({ footageId, ...(byHand ? { footageHand: 'grouped' as const } : {}) })
          .where(inArray(clips.id, [...joining]));
    }
    await transaction.delete(footage).where(
      and(
        eq(footage.rigId, rigId),
        notExists(
          transaction
            .select({ one: sql`1` })
            .from(clips)
            .where(eq(clips.footageId, footage.id)),
        ),
      ),
    );
  });
}
