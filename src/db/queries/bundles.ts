import { and, asc, desc, eq, getTableColumns, inArray, isNull, or } from 'drizzle-orm';
import type { PgTable } from 'drizzle-orm/pg-core';
import { mostBundled } from '@/core/formats/bundle';
import { endedStatuses } from '@/core/kinds/ends';
import { database } from '../client';
import type { NewTrial } from '../kinds';
import {
  annotations,
  blockBatches,
  checkedFiles,
  copyFiles,
  looks,
  planCells,
  plans,
  planSteps,
  records,
  renditionItems,
  rigs,
  samples,
  slotCharges,
  timelineVersions,
  timelines,
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
  checked: checkedFiles,
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
  readonly looks: readonly Insert<typeof looks>[];
  readonly timelines: readonly Insert<typeof timelines>[];
  /** Of timelines that are new and of those that are here. */
  readonly versions: readonly Insert<typeof timelineVersions>[];
  readonly plans: readonly Insert<typeof plans>[];
  /** Of all its plans. */
  readonly cells: readonly Insert<typeof planCells>[];
  readonly steps: readonly Insert<typeof planSteps>[];
  readonly trials: readonly (NewTrial & TrialIdentity)[];
  /** By the id of the trial. */
  readonly recorded: ReadonlyMap<string, NewRecords>;
  readonly notes: readonly Insert<typeof annotations>[];
}

const inPieces = 200;

/** The lists of a bundle whose entries are known by their ids wherever they are. */
const listed = { trials, timelines, plans, looks } as const;
export type ListedName = keyof typeof listed;

/** Those of some ids that are here already. */
export async function knownOf(name: ListedName, ids: readonly string[]): Promise<ReadonlySet<string>> {
  const { id } = listed[name];
  const known = new Set<string>();
  for (let at = 0; at < ids.length; at += inPieces)
    for (const row of await database()
      .select({ id })
      .from(listed[name])
      .where(inArray(id, ids.slice(at, at + inPieces))))
      known.add(row.id);
  return known;
}

/** Timelines with their versions, by what they are for: of a rig those that were not removed, and those with the given ids. */
export async function timelineRows(rigId: string | null, ids: readonly string[]) {
  const found = await database()
    .select()
    .from(timelines)
    .where(
      or(
        rigId === null ? undefined : and(eq(timelines.rigId, rigId), isNull(timelines.removedAt)),
        inArray(timelines.id, [...ids]),
      ),
    )
    .orderBy(desc(timelines.updatedAt), asc(timelines.id));
  const versions = await database()
    .select()
    .from(timelineVersions)
    .where(
      inArray(
        timelineVersions.timelineId,
        found.map(({ id }) => id),
      ),
    )
    .orderBy(asc(timelineVersions.timelineId), asc(timelineVersions.number));
  return { timelines: found, versions };
}

/** All plans of a rig, newest first, with their cells and runs. */
export async function planRows(rigId: string) {
  const found = await database()
    .select()
    .from(plans)
    .where(eq(plans.rigId, rigId))
    .orderBy(desc(plans.createdAt), asc(plans.id));
  const ids = found.map(({ id }) => id);
  const { template: _template, ...cellColumns } = getTableColumns(planCells);
  const [cells, steps] = await Promise.all([
    database()
      .select(cellColumns)
      .from(planCells)
      .where(inArray(planCells.planId, ids))
      .orderBy(asc(planCells.planId), asc(planCells.cell)),
    database()
      .select()
      .from(planSteps)
      .where(inArray(planSteps.planId, ids))
      .orderBy(asc(planSteps.planId), asc(planSteps.position)),
  ]);
  return { plans: found, cells, steps };
}

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
  const order = {
    traces: 'fromSlot',
    blocks: 'fromBlock',
    files: 'path',
    checked: 'path',
    items: 'position',
    samples: 'at',
  };
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

/** How many of each list were added. */
export type Added = Readonly<Record<ListedName, number>>;

/** Adds what is not there yet, all of it or nothing; what is there stays as it is. */
export async function addResultRows(rows: ResultRows): Promise<Added> {
  return database().transaction(async (transaction) => {
    const add = async <Table extends PgTable>(table: Table, fresh: readonly Insert<Table>[]) => {
      for (let at = 0; at < fresh.length; at += inPieces)
        await transaction
          .insert(table)
          .values(fresh.slice(at, at + inPieces))
          .onConflictDoNothing();
    };
    /** Adds rows and tells which are new. */
    const addKnown = async <Name extends ListedName>(
      name: Name,
      fresh: readonly Insert<(typeof listed)[Name]>[],
    ): Promise<ReadonlySet<string>> => {
      const added = new Set<string>();
      for (let at = 0; at < fresh.length; at += inPieces)
        for (const { id } of await transaction
          .insert(listed[name] as PgTable)
          .values(fresh.slice(at, at + inPieces))
          .onConflictDoNothing()
          .returning({ id: listed[name].id }))
          added.add(id);
      return added;
    };
    if (rows.rig) await add(rigs, [rows.rig]);
    await add(volumes, rows.volumes);
    const newLooks = await addKnown('looks', rows.looks);
    const newTimelines = await addKnown('timelines', rows.timelines);
    await add(timelineVersions, rows.versions);
    const newPlans = await addKnown('plans', rows.plans);
    const isNew = ({ planId }: { readonly planId: string }) => newPlans.has(planId);
    await add(planCells, rows.cells.filter(isNew));
    await add(planSteps, rows.steps.filter(isNew));
    const newTrials = await addKnown('trials', rows.trials.map(rowOf));
    // What a trial that is here already recorded is here as well.
    for (const name of recordTableNames)
      await add<PgTable>(
        recordTables[name],
        [...newTrials].flatMap((trialId) =>
          (rows.recorded.get(trialId)?.[name] ?? []).map((row) => ({ ...row, trialId })),
        ),
      );
    await add(
      annotations,
      rows.notes.filter(({ trialId }) => newTrials.has(trialId)),
    );
    return {
      trials: newTrials.size,
      timelines: newTimelines.size,
      plans: newPlans.size,
      looks: newLooks.size,
    };
  });
}

/** Removes an imported rig with its volumes, plans and results. Timelines stay: they may be edited and played here. */
export async function removeRig(rigId: string): Promise<void> {
  await database().transaction(async (transaction) => {
    await transaction.delete(trials).where(eq(trials.rigId, rigId));
    await transaction.delete(plans).where(eq(plans.rigId, rigId));
    await transaction.delete(volumes).where(eq(volumes.rigId, rigId));
    await transaction.delete(rigs).where(eq(rigs.id, rigId));
  });
}
