import { desc, inArray, sql } from 'drizzle-orm';
import type { TrialKind } from '@/core/kinds/kinds';
import { database } from '../client';
import type { Origin, TrialStatus } from '../kinds';
import { trials } from '../schema';
import { matching, type TrialFilter } from './trialFilter';

/** A trial in a line, without what it found. */
export interface ListedTrial {
  readonly id: string;
  readonly kind: TrialKind;
  readonly rigId: string;
  readonly name: string;
  readonly how: string;
  readonly volumeNames: readonly string[];
  readonly simulated: boolean;
  readonly origin: Origin;
  readonly status: TrialStatus;
  readonly createdAt: Date;
}

/** Trials of all kinds, newest first: `most` of them after the first `skip`. */
export async function listTrialLines(filter: TrialFilter, most: number, skip = 0): Promise<ListedTrial[]> {
  // Ids first, by the index alone: only the page's own rows are read whole.
  const ids = database()
    .select({ id: trials.id })
    .from(trials)
    .where(matching(filter))
    .orderBy(desc(trials.createdAt), desc(trials.id))
    .limit(most)
    .offset(skip);
  return database()
    .select({
      id: trials.id,
      kind: trials.kind,
      rigId: trials.rigId,
      name: sql<string>`coalesce(${trials.name}, '')`,
      how: trials.how,
      volumeNames: trials.volumeNames,
      simulated: trials.simulated,
      origin: trials.origin,
      status: trials.status,
      createdAt: trials.createdAt,
    })
    .from(trials)
    .where(inArray(trials.id, ids))
    .orderBy(desc(trials.createdAt), desc(trials.id));
}
