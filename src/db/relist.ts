import { inArray, sql } from 'drizzle-orm';
import type { NodePgDatabase } from 'drizzle-orm/node-postgres';
import { clipListed } from './listed';
import { clips } from './schema';

/** Columns that the words of a clip are made of. */
const sources = {
  path: clips.path,
  problem: clips.problem,
  format: clips.format,
  structure: clips.structure,
  frames: clips.frames,
  identity: clips.identity,
  faults: clips.faults,
  startTimecode: clips.startTimecode,
};

/** Whether words of clips rest on something in this change. */
export const changesWords = (change: object): boolean =>
  Object.keys(change).some((column) => column in sources);

/** Makes anew what the library shows of some clips and is searched by. */
export async function relistClips(
  database: Pick<NodePgDatabase, 'select' | 'execute'>,
  ids: readonly string[],
): Promise<void> {
  const rows = await database
    .select({ id: clips.id, ...sources })
    .from(clips)
    .where(inArray(clips.id, [...ids]));
  const made = rows.map((row) => ({ id: row.id, ...clipListed(row) }));
  await database.execute(sql`
    update clips set words = made.words, warnings = made.warnings
    from jsonb_to_recordset(${JSON.stringify(made)}::jsonb) as made(id text, words text, warnings text[])
    where clips.id = made.id`);
}
