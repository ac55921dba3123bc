import { and, asc, desc, eq, inArray } from 'drizzle-orm';
import { database } from '../client';
import type { NewTrial } from '../kinds';
import {
  annotations,
  blockBatches,
  copyFiles,
  endedStatuses,
  records,
  renditionItems,
  rigs,
  samples,
  slotCharges,
  traceBatches,
  trials,
  volumes,
} from '../schema';
import { rowOf, trialColumns, type TrialIdentity } from './trials';

type Insert<Table extends { $inferInsert: object }> = Table['$inferInsert'];

/** What was recorded of trials, by the table that holds it. Each row says its trial. */
export const recordTables = {
  traces: traceBatches,
  charges: slotCharges,
  blocks: blockBatches,
  files: copyFiles,
  records,
  items: renditionItems,
  samples,
} as const;
export type RecordTable = keyof typeof recordTables;
export const recordTableNames = Object.keys(recordTables) as RecordTable[];
export type RecordRow = Readonly<Record<string, unknown>> & { readonly trialId: string };

/** Rows of one rig's results, as they are stored. */
export interface ResultRows {
  readonly rig: Insert<typeof rigs>;
  readonly volumes: readonly Insert<typeof volumes>[];
  readonly trials: readonly Insert<typeof trials>[];
  readonly recorded: Readonly<Partial<Record<RecordTable, readonly RecordRow[]>>>;
  readonly notes: readonly Insert<typeof annotations>[];
}

/** Most trials that one bundle holds. */
export const mostBundled = 20_000;
const inPieces = 200;

/** All ended trials of a rig, newest first, with its volumes and what people noted. */
export async function resultRows(rigId: string) {
  const [rows, places] = await Promise.all([
    database()
      .select(trialColumns)
      .from(trials)
      .where(and(eq(trials.rigId, rigId), inArray(trials.status, [...endedStatuses])))
      .orderBy(desc(trials.createdAt))
      .limit(mostBundled),
    database().select().from(volumes).where(eq(volumes.rigId, rigId)),
  ]);
  const notes = await database().select().from(annotations);
  return { trials: rows, volumes: places, notes };
}

/** What one table holds of some trials, in the order in which it was recorded. */
export async function recordedOf(name: RecordTable, trialIds: readonly string[]): Promise<RecordRow[]> {
  const table = recordTables[name];
  const order = { traces: 'fromSlot', blocks: 'fromBlock', files: 'path', items: 'position', samples: 'at' };
  const by = (table as unknown as Record<string, typeof table.trialId | undefined>)[
    (order as Partial<Record<RecordTable, string>>)[name] ?? 'trialId'
  ];
  const found: RecordRow[] = [];
  for (let at = 0; at < trialIds.length; at += inPieces)
    found.push(
      ...((await database()
        .select()
        .from(table)
        .where(inArray(table.trialId, trialIds.slice(at, at + inPieces)))
        .orderBy(asc(table.trialId), asc(by ?? table.trialId))) as unknown as RecordRow[]),
    );
  return found;
}

/** Adds what is not there yet, all of it or nothing; what is there stays as it is. Returns how many trials were added. */
export async function addResultRows(rows: ResultRows, isThisRig: boolean): Promise<number> {
  return database().transaction(async (transaction) => {
    const { rig } = rows;
    if (!isThisRig) {
      await transaction
        .insert(rigs)
        .values(rig)
        .onConflictDoUpdate({
          target: rigs.id,
          set: { name: rig.name, identity: rig.identity, imported: rig.imported },
        });
      for (let at = 0; at < rows.volumes.length; at += inPieces)
        await transaction
          .insert(volumes)
          .values(rows.volumes.slice(at, at + inPieces))
          .onConflictDoNothing();
    }
    const added = new Set<string>();
    for (let at = 0; at < rows.trials.length; at += inPieces) {
      const piece = await transaction
        .insert(trials)
        .values(rows.trials.slice(at, at + inPieces).map((row) => rowOf(row as NewTrial & TrialIdentity)))
        .onConflictDoNothing()
        .returning({ id: trials.id });
      for (const { id } of piece) added.add(id);
    }
    for (const name of recordTableNames) {
      // What a trial that is here already recorded is here as well.
      const fresh = (rows.recorded[name] ?? []).filter(({ trialId }) => added.has(trialId));
      for (let at = 0; at < fresh.length; at += inPieces)
        await transaction
          .insert(recordTables[name])
          .values(fresh.slice(at, at + inPieces))
          .onConflictDoNothing();
    }
    const notes = rows.notes.filter(({ trialId }) => added.has(trialId));
    for (let at = 0; at < notes.length; at += inPieces)
      await transaction
        .insert(annotations)
        .values(notes.slice(at, at + inPieces))
        .onConflictDoNothing();
    return added.size;
  });
}

/** Removes an imported rig with its volumes and results. */
export async function removeRig(rigId: string): Promise<void> {
  await database().transaction(async (transaction) => {
    await transaction.delete(trials).where(eq(trials.rigId, rigId));
    await transaction.delete(volumes).where(eq(volumes.rigId, rigId));
    await transaction.delete(rigs).where(eq(rigs.id, rigId));
  });
}
