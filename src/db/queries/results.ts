import { eq, sql, type SQL } from 'drizzle-orm';
import type { PgColumn } from 'drizzle-orm/pg-core';
import type { Rational } from '@/core/time/rational';
import type { PlaybackSummary } from '@/core/playback/summary';
import { database } from '../client';
import {
  annotations,
  decodeTrials,
  storageTrials,
  timelineTests,
  trials,
  type PlanTemplate,
} from '../schema';

export type ResultKind = PlanTemplate['kind'];
export interface ResultRef {
  readonly kind: ResultKind;
  readonly id: string;
}

const shared = <
  Table extends typeof trials | typeof storageTrials | typeof decodeTrials | typeof timelineTests,
>(
  table: Table,
) => ({
  id: table.id,
  rigId: table.rigId,
  status: table.status,
  outcome: table.outcome,
  load: table.load,
  createdAt: table.createdAt,
  startedAt: table.startedAt,
  endedAt: table.endedAt,
});

/** One parameter for all ids: thousands of them as single ones take longer to pass on than to look up. */
function isAnyOf(column: PgColumn, ids: readonly string[]): SQL {
  return sql`${column} = any(${sql.param([...ids])})`;
}

/** What tells the conditions of runs apart, so that those of many like runs are read once. */
const conditionKey = sql<string>`md5(${trials.subject}::text || ${trials.settings}::text || coalesce((${trials.conditions}->'rig')::text || (${trials.conditions}->>'softwareVersion') || coalesce(${trials.conditions}->'rigState'->>'power', '') || coalesce(${trials.conditions}->'run'->'cold'->>'method', '') || coalesce(${trials.conditions}->'run'->>'decoder', ''), ''))`;
/** A summary without what only its own page shows, and what may be long. */
const shortSummary = sql<ShortSummary | null>`${trials.summary} - '{cures,parts}'::text[]`;

/** Figures of a playback trial as lists and comparisons use them. */
export type ShortSummary = Omit<PlaybackSummary, 'cures' | 'parts'>;

const playbackFigures = {
  ...shared(trials),
  summary: shortSummary,
  clipId: trials.clipId,
  startLatencyMs: sql<number | null>`(${trials.conditions}->'run'->>'startLatencyMs')::float`,
  rate: sql<Rational>`coalesce(${trials.subject}->'timeline'->'rate', ${trials.subject}->'format'->'rate')`,
};

/** What playback trials found, without under what. */
async function playbackFindings(ids: readonly string[]) {
  const rows = await database().select(playbackFigures).from(trials).where(isAnyOf(trials.id, ids));
  return rows.map((row) => ({ kind: 'trial' as const, ...row }));
}

async function playbackResults(ids: readonly string[]) {
  const rows = await database()
    .select({ ...playbackFigures, key: conditionKey })
    .from(trials)
    .where(isAnyOf(trials.id, ids));
  const firsts = new Map(rows.map(({ key, id }) => [key, id]));
  const conditions =
    firsts.size === 0
      ? []
      : await database()
          .select({
            id: trials.id,
            subject: trials.subject,
            settings: trials.settings,
            conditions: trials.conditions,
          })
          .from(trials)
          .where(isAnyOf(trials.id, [...firsts.values()]));
  const byId = new Map(conditions.map((row) => [row.id, row]));
  return rows.flatMap(({ key, ...row }) => {
    const under = byId.get(firsts.get(key) ?? '');
    return under
      ? [
          {
            kind: 'trial' as const,
            ...row,
            subject: under.subject,
            settings: under.settings,
            conditions: under.conditions,
          },
        ]
      : [];
  });
}

async function storageResults(ids: readonly string[]) {
  const rows = await database()
    .select({
      ...shared(storageTrials),
      subject: storageTrials.subject,
      settings: storageTrials.settings,
      conditions: storageTrials.conditions,
      result: storageTrials.result,
      volumeId: storageTrials.volumeId,
    })
    .from(storageTrials)
    .where(isAnyOf(storageTrials.id, ids));
  return rows.map((row) => ({ kind: 'storage' as const, ...row }));
}

async function decodeResults(ids: readonly string[]) {
  const rows = await database()
    .select({
      ...shared(decodeTrials),
      subject: decodeTrials.subject,
      settings: decodeTrials.settings,
      conditions: decodeTrials.conditions,
      result: decodeTrials.result,
      clipId: decodeTrials.clipId,
    })
    .from(decodeTrials)
    .where(isAnyOf(decodeTrials.id, ids));
  return rows.map((row) => ({ kind: 'decode' as const, ...row }));
}

async function testResults(ids: readonly string[]) {
  const rows = await database()
    .select({
      ...shared(timelineTests),
      subject: timelineTests.subject,
      settings: timelineTests.settings,
      conditions: timelineTests.conditions,
      result: timelineTests.result,
    })
    .from(timelineTests)
    .where(isAnyOf(timelineTests.id, ids));
  return rows.map((row) => ({ kind: 'timelineTest' as const, ...row }));
}

type OtherRow =
  | Awaited<ReturnType<typeof storageResults>>[number]
  | Awaited<ReturnType<typeof decodeResults>>[number]
  | Awaited<ReturnType<typeof testResults>>[number];
export type ResultRow = Awaited<ReturnType<typeof playbackResults>>[number] | OtherRow;
/** A result of which playback trials do not say under what they were made. */
export type FindingRow = Awaited<ReturnType<typeof playbackFindings>>[number] | OtherRow;

async function byKind<Row>(
  refs: readonly ResultRef[],
  ofPlayback: (ids: readonly string[]) => Promise<Row[]>,
): Promise<(Row | OtherRow)[]> {
  const of = (kind: ResultKind) => refs.filter((ref) => ref.kind === kind).map(({ id }) => id);
  const load = async <Found>(ids: string[], query: (ids: readonly string[]) => Promise<Found[]>) =>
    ids.length === 0 ? [] : query(ids);
  return (
    await Promise.all([
      load(of('trial'), ofPlayback),
      load(of('storage'), storageResults),
      load(of('decode'), decodeResults),
      load(of('timelineTest'), testResults),
    ])
  ).flat();
}

/** What trials of any kind found and under what, without traces and records. Conditions are those of a run alike in all that is compared. In no certain order; ids that are gone are left out. */
export function getResults(refs: readonly ResultRef[]): Promise<ResultRow[]> {
  return byKind(refs, playbackResults);
}

/** What trials of any kind found: lighter than `getResults`, for long lists. */
export function getFindings(refs: readonly ResultRef[]): Promise<FindingRow[]> {
  return byKind(refs, playbackFindings);
}

const tables = {
  trial: trials,
  storage: storageTrials,
  decode: decodeTrials,
  timelineTest: timelineTests,
} as const;

/** Which of some results are still kept. */
export async function presentResults(refs: readonly ResultRef[]): Promise<ReadonlySet<string>> {
  const found = await Promise.all(
    (Object.keys(tables) as ResultKind[]).map(async (kind) => {
      const ids = refs.filter((ref) => ref.kind === kind).map(({ id }) => id);
      const table = tables[kind];
      return ids.length === 0
        ? []
        : database().select({ id: table.id }).from(table).where(isAnyOf(table.id, ids));
    }),
  );
  return new Set(found.flat().map(({ id }) => id));
}

/** The table that a trial's id stands in; null when it is gone. */
export async function kindOfTrial(id: string): Promise<ResultKind | null> {
  const found = await database().execute<{ kind: ResultKind }>(sql`
    select 'trial' as kind from trials where id = ${id} union all select 'storage' from storage_trials where id = ${id}
    union all select 'decode' from decode_trials where id = ${id} union all select 'timelineTest' from timeline_tests where id = ${id} limit 1`);
  return found.rows[0]?.kind ?? null;
}

export type AnnotationRow = typeof annotations.$inferSelect;

export async function getAnnotations(ids: readonly string[]): Promise<ReadonlyMap<string, AnnotationRow>> {
  const rows =
    ids.length === 0
      ? []
      : await database().select().from(annotations).where(isAnyOf(annotations.trialId, ids));
  return new Map(rows.map((row) => [row.trialId, row]));
}

/** Notes what a person says of a result; with nothing to say the note goes. */
export async function saveAnnotation(trialId: string, note: string, excluded: string | null): Promise<void> {
  if (note === '' && excluded === null)
    await database().delete(annotations).where(eq(annotations.trialId, trialId));
  else
    await database()
      .insert(annotations)
      .values({ trialId, note, excluded })
      .onConflictDoUpdate({ target: annotations.trialId, set: { note, excluded, at: new Date() } });
}
