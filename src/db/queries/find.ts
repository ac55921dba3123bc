import { and, asc, eq, ilike, sql } from 'drizzle-orm';
import { database } from '../client';
import { briefs, plans, timelines, volumes } from '../schema';
import { plain } from './pattern';

/** What is kept under a name of its own. */
const named = { volume: volumes, timeline: timelines, plan: plans, brief: briefs } as const;
export type NamedKind = keyof typeof named;

export interface NamedThing {
  readonly id: string;
  readonly name: string;
}

/** What a rig has of one kind whose name has all these words, in any case of letters: names that begin so first. */
export async function findNamed(
  kind: NamedKind,
  rigId: string,
  words: readonly string[],
  most: number,
): Promise<NamedThing[]> {
  const table = named[kind];
  return database()
    .select({ id: table.id, name: table.name })
    .from(table)
    .where(and(eq(table.rigId, rigId), ...words.map((word) => ilike(table.name, `%${plain(word)}%`))))
    .orderBy(sql`${ilike(table.name, `${plain(words[0] ?? '')}%`)} desc`, asc(table.name), asc(table.id))
    .limit(most);
}
