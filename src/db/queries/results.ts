import { eq, sql, type SQL } from 'drizzle-orm';
import type { PgColumn } from 'drizzle-orm/pg-core';
import type { Finding, TrialKind } from '@/core/kinds/kinds';
import type { Rational } from '@/core/time/rational';
import { database } from '../client';
import type { LoadSummary } from '@/core/rig/load';
import type { TrialRow, TrialStatus } from '../kinds';
import { annotations, trials } from '../schema';

/** One parameter for all ids: thousands of them as single ones take longer to pass on than to look up. */
function isAnyOf(column: PgColumn, ids: readonly string[]): SQL {
  return sql`${column} = any(${sql.param([...ids])})`;
}

interface FoundShared {
  readonly id: string;
  readonly rigId: string;
  readonly clipId: string | null;
  readonly volumeIds: readonly string[];
  readonly status: TrialStatus;
  readonly outcome: string | null;
  readonly load: LoadSummary | null;
  readonly simulated: boolean;
  readonly createdAt: Date;
  readonly startedAt: Date | null;
  readonly endedAt: Date | null;
}

/** What a trial found, without under what. */
export type FindingRow = {
  [Kind in TrialKind]: FoundShared &
    Omit<Finding<Kind>, 'summary'> & { readonly summary: Finding<Kind>['summary'] | null };
}[TrialKind];

const findings = {
  id: trials.id,
  kind: trials.kind,
  rigId: trials.rigId,
  clipId: trials.clipId,
  volumeIds: trials.volumeIds,
  status: trials.status,
  outcome: trials.outcome,
  load: trials.load,
  simulated: trials.simulated,
  createdAt: trials.createdAt,
  startedAt: trials.startedAt,
  endedAt: trials.endedAt,
  summary: sql`case when ${trials.kind} in ('playback', 'self-check') then ${trials.summary} - '{cures,parts}'::text[] else ${trials.summary} end`,
  startLatencyMs: sql<number | null>`(${trials.conditions}->'run'->>'startLatencyMs')::float`,
  processorShare: sql<number | null>`(${trials.load}->>'trialMean')::float`,
  rate: sql<Rational | null>`coalesce(${trials.subject}->'timeline'->'rate', ${trials.subject}->'format'->'rate', ${trials.subject}->'clip'->'format'->'rate')`,
  deviceName: sql<string | null>`${trials.subject}->'device'->>'name'`,
  framePacedStreams: sql<
    number | null
  >`case when ${trials.settings}->>'test' = 'frame-paced' then (${trials.settings}->>'streams')::float end`,
  verified: sql<boolean>`coalesce((${trials.settings}->>'verify')::boolean, false)`,
};

/** What trials of any kind found: light enough for long lists. In no certain order; ids that are gone are left out. */
export async function getFindings(ids: readonly string[]): Promise<FindingRow[]> {
  if (ids.length === 0) return [];
  return (await database().select(findings).from(trials).where(isAnyOf(trials.id, ids))) as FindingRow[];
}

/** What tells the conditions of runs apart, so that those of many like runs are read once. */
const conditionKey = sql<string>`md5(concat_ws('|',
  ${trials.kind},
  ${trials.subject}::text,
  ${trials.settings}::text,
  ${trials.conditions}->>'rig',
  ${trials.conditions}->>'softwareVersion',
  coalesce(${trials.conditions}->'rigState'->>'power', ''),
  coalesce(${trials.conditions}->'rigState'->>'processorGovernor', ''),
  coalesce(${trials.conditions}->'run'->'cold'->>'method', ''),
  coalesce(${trials.conditions}->'run'->>'decoder', '')
))`;

/** Under what a trial was made; that of a run alike in all that is compared. */
export type ResultUnder<Kind extends TrialKind = TrialKind> = {
  [One in Kind]: { readonly kind: One } & Pick<TrialRow<One>, 'subject' | 'settings' | 'conditions'>;
}[Kind];
export interface ResultRow {
  readonly found: FindingRow;
  readonly under: ResultUnder;
}

/** What trials of any kind found and under what, without traces and records. In no certain order; ids that are gone are left out. */
export async function getResults(ids: readonly string[]): Promise<ResultRow[]> {
  if (ids.length === 0) return [];
  const rows = await database()
    .select({ ...findings, key: conditionKey })
    .from(trials)
    .where(isAnyOf(trials.id, ids));
  const firsts = new Map(rows.map(({ key, id }) => [key, id]));
  const { id, kind, subject, settings, conditions } = trials;
  const unders = await database()
    .select({ id, kind, subject, settings, conditions })
    .from(trials)
    .where(isAnyOf(trials.id, [...firsts.values()]));
  const byId = new Map(unders.map((row) => [row.id, row as unknown as ResultUnder]));
  return rows.flatMap(({ key, ...found }) => {
    const under = byId.get(firsts.get(key) ?? '');
    return under ? [{ found: found as FindingRow, under }] : [];
  });
}

/** Which of some results are still kept. */
export async function presentResults(ids: readonly string[]): Promise<ReadonlySet<string>> {
  if (ids.length === 0) return new Set();
  const found = await database().select({ id: trials.id }).from(trials).where(isAnyOf(trials.id, ids));
  return new Set(found.map(({ id }) => id));
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
