import { and, asc, desc, eq, inArray } from 'drizzle-orm';
import type { PgTable } from 'drizzle-orm/pg-core';
import { mostBundled } from '@/core/formats/bundle';
import { endedStatuses } from '@/core/kinds/ends';
import { database } from '../client';
import type { NewTrial } from '../kinds';
import {
  annotations,
  blockBatches,
  copyFiles,
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

type Fresh<Table extends RecordTable> = Omit<Insert<(typeof recordTables)[Table]>, 'trialId'>;
/** What was recorded of a trial that is to be added. */
export type NewRecords = { readonly [Table in RecordTable]: readonly Fresh<Table>[] };

/** Rows of one rig's results, as they are to be stored. */
export interface ResultRows {
  /** Null where the rig measures into this database: it is there, with its volumes. */
  readonly rig: Insert<typeof rigs> | null;
  readonly volumes: readonly Insert<typeof volumes>[];
  readonly trials: readonly (NewTrial & TrialIdentity)[];
  /** By the id of the trial. */
  readonly recorded: ReadonlyMap<string, NewRecords>;
  readonly notes: readonly Insert<typeof annotations>[];
}

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
export async function addResultRows(rows: ResultRows): Promise<number> {
  return database().transaction(async (transaction) => {
    const add = async <Table extends PgTable>(table: Table, fresh: readonly Insert<Table>[]) => {
      for (let at = 0; at < fresh.length; at += inPieces)
        await transaction
          .insert(table)
          .values(fresh.slice(at, at + inPieces))
          .onConflictDoNothing();
    };
    if (rows.rig) await add(rigs, [rows.rig]);
    await add(volumes, rows.volumes);
    const added = new Set<string>();
    for (let at = 0; at < rows.trials.length; at += inPieces) {
      const piece = await transaction
        .insert(trials)
        .values(rows.trials.slice(at, at + inPieces).map(rowOf))
        .onConflictDoNothing()
        .returning({ id: trials.id });
      for (const { id } of piece) added.add(id);
    }
    // What a trial that is here already recorded is here as well.
    for (const name of recordTableNames)
      await add<PgTable>(
        recordTables[name],
        [...added].flatMap((trialId) =>
          (rows.recorded.get(trialId)?.[name] ?? []).map((row) => ({ ...row, trialId })),
        ),
      );
    await add(
      annotations,
      rows.notes.filter(({ trialId }) => added.has(trialId)),
    );
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
