import { eq, isNull, sql } from 'drizzle-orm';
import { drizzle, type NodePgDatabase } from 'drizzle-orm/node-postgres';
import { migrate } from 'drizzle-orm/node-postgres/migrator';
import pg from 'pg';
import type { Made } from '@/core/kinds/kinds';
import { endListed, namesListed } from './listed';
import { relistClips } from './relist';
import { clips, trials } from './schema';

/** Brings the database at `url` to the present schema. `folder` holds the migrations. */
export async function migrateDatabase(url: string, folder: string): Promise<void> {
  const client = new pg.Client({ connectionString: url });
  await client.connect();
  try {
    const database = drizzle(client);
    await migrate(database, { migrationsFolder: folder });
    await fillListed(database);
    await fillClips(database);
  } finally {
    await client.end();
  }
}

const inPieces = 500;

/** Makes what lists show of trials from before it was kept. */
async function fillListed(database: NodePgDatabase): Promise<void> {
  const { id, kind, subject, settings, load } = trials;
  for (;;) {
    const rows = await database
      .select({ id, kind, subject, settings, load, grade: sql`${trials.summary}->>'grade'` })
      .from(trials)
      .where(isNull(trials.name))
      .limit(inPieces);
    await database.transaction(async (transaction) => {
      for (const row of rows)
        await transaction
          .update(trials)
          .set({ ...namesListed(row as Made), ...endListed({ summary: row, load: row.load }) })
          .where(eq(trials.id, row.id));
    });
    if (rows.length < inPieces) return;
  }
}

/** The same of clips. */
async function fillClips(database: NodePgDatabase): Promise<void> {
  for (;;) {
    const rows = await database
      .select({ id: clips.id })
      .from(clips)
      .where(isNull(clips.words))
      .limit(inPieces);
    if (rows.length > 0)
      await relistClips(
        database,
        rows.map(({ id }) => id),
      );
    if (rows.length < inPieces) return;
  }
}
