import { and, asc, desc, eq, inArray } from 'drizzle-orm';
import { database } from '../client';
import {
  annotations,
  decodeTrials,
  rigs,
  storageTrials,
  timelineTests,
  traceBatches,
  trials,
  volumes,
} from '../schema';

type Insert<Table extends { $inferInsert: object }> = Table['$inferInsert'];

/** Rows of one rig's results, as they are stored. */
export interface ResultRows {
  readonly rig: Insert<typeof rigs>;
  readonly volumes: readonly Insert<typeof volumes>[];
  readonly playback: readonly Insert<typeof trials>[];
  readonly traces: readonly Insert<typeof traceBatches>[];
  readonly storage: readonly Insert<typeof storageTrials>[];
  readonly decode: readonly Insert<typeof decodeTrials>[];
  readonly timelineTests: readonly Insert<typeof timelineTests>[];
}

/** Most trials of a kind that one bundle holds. */
export const mostBundled = 5_000;
const inPieces = 200;

/** All ended results of a rig, newest first within their kind. */
export async function resultRows(rigId: string) {
  const ended = ['done', 'cancelled', 'failed', 'crashed', 'hung', 'interrupted'] as const;
  const [playback, storage, decode, tests, places] = await Promise.all([
    database()
      .select()
      .from(trials)
      .where(and(eq(trials.rigId, rigId), inArray(trials.status, [...ended])))
      .orderBy(desc(trials.createdAt))
      .limit(mostBundled),
    database()
      .select()
      .from(storageTrials)
      .where(and(eq(storageTrials.rigId, rigId), inArray(storageTrials.status, [...ended])))
      .orderBy(desc(storageTrials.createdAt))
      .limit(mostBundled),
    database()
      .select()
      .from(decodeTrials)
      .where(and(eq(decodeTrials.rigId, rigId), inArray(decodeTrials.status, [...ended])))
      .orderBy(desc(decodeTrials.createdAt))
      .limit(mostBundled),
    database()
      .select()
      .from(timelineTests)
      .where(and(eq(timelineTests.rigId, rigId), inArray(timelineTests.status, [...ended])))
      .orderBy(desc(timelineTests.createdAt))
      .limit(mostBundled),
    database().select().from(volumes).where(eq(volumes.rigId, rigId)),
  ]);
  const notes = await database().select().from(annotations);
  const traces: (typeof traceBatches.$inferSelect)[] = [];
  for (let at = 0; at < playback.length; at += inPieces)
    traces.push(
      ...(await database()
        .select()
        .from(traceBatches)
        .where(
          inArray(
            traceBatches.trialId,
            playback.slice(at, at + inPieces).map(({ id }) => id),
          ),
        )
        .orderBy(asc(traceBatches.trialId), asc(traceBatches.fromSlot))),
    );
  return { playback, storage, decode, timelineTests: tests, volumes: places, traces, notes };
}

async function insertAll<Row>(
  rows: readonly Row[],
  insert: (piece: Row[]) => Promise<unknown[]>,
): Promise<number> {
  let added = 0;
  for (let at = 0; at < rows.length; at += inPieces)
    added += (await insert(rows.slice(at, at + inPieces))).length;
  return added;
}

/** Adds what is not there yet, all of it or nothing; what is there stays as it is. Returns how many trials were added. */
export async function addResultRows(rows: ResultRows, isThisRig: boolean): Promise<number> {
  return database().transaction(async (transaction) => {
    const { rig } = rows;
    if (!isThisRig)
      await transaction
        .insert(rigs)
        .values(rig)
        .onConflictDoUpdate({
          target: rigs.id,
          set: { name: rig.name, identity: rig.identity, imported: rig.imported },
        });
    if (!isThisRig)
      await insertAll(rows.volumes, (piece) =>
        transaction.insert(volumes).values(piece).onConflictDoNothing().returning({ id: volumes.id }),
      );
    const playback = await insertAll(rows.playback, (piece) =>
      transaction.insert(trials).values(piece).onConflictDoNothing().returning({ id: trials.id }),
    );
    await insertAll(rows.traces, (piece) =>
      transaction
        .insert(traceBatches)
        .values(piece)
        .onConflictDoNothing()
        .returning({ id: traceBatches.trialId }),
    );
    const storage = await insertAll(rows.storage, (piece) =>
      transaction
        .insert(storageTrials)
        .values(piece)
        .onConflictDoNothing()
        .returning({ id: storageTrials.id }),
    );
    const decode = await insertAll(rows.decode, (piece) =>
      transaction.insert(decodeTrials).values(piece).onConflictDoNothing().returning({ id: decodeTrials.id }),
    );
    const tests = await insertAll(rows.timelineTests, (piece) =>
      transaction
        .insert(timelineTests)
        .values(piece)
        .onConflictDoNothing()
        .returning({ id: timelineTests.id }),
    );
    return playback + storage + decode + tests;
  });
}

/** Removes an imported rig with its volumes and results. */
export async function removeRig(rigId: string): Promise<void> {
  await database().transaction(async (transaction) => {
    await transaction.delete(trials).where(eq(trials.rigId, rigId));
    await transaction.delete(storageTrials).where(eq(storageTrials.rigId, rigId));
    await transaction.delete(decodeTrials).where(eq(decodeTrials.rigId, rigId));
    await transaction.delete(timelineTests).where(eq(timelineTests.rigId, rigId));
    await transaction.delete(volumes).where(eq(volumes.rigId, rigId));
    await transaction.delete(rigs).where(eq(rigs.id, rigId));
  });
}
