import { and, arrayOverlaps, asc, count, desc, eq, getTableColumns, inArray, or, sql } from 'drizzle-orm';
import type { TrialKind } from '@/core/kinds/kinds';
import type { TimelineSubject } from '@/core/timeline/subject';
import type { PlaybackSummary } from '@/core/playback/summary';
import { database } from '../client';
import { records, samples, slotCharges, traceBatches, trials, type TrialStatus } from '../schema';
import type { NewTrial, PlayedTrial, TrialChange, TrialListRow, TrialRow } from '../kinds';
import { endListed, namesListed } from '../listed';
import { matching, type TrialFilter } from './trialFilter';

const {
  name: _name,
  how: _how,
  volumeNames: _volumeNames,
  grade: _grade,
  doubt: _doubt,
  ...columns
} = getTableColumns(trials);
/** What a trial is, without what lists are made with. */
export const trialColumns = columns;

/** What a trial is made of besides its kind's own: who it is and where it stands in the queue. */
export type TrialIdentity = Pick<TrialRow, 'id' | 'rigId'> &
  Partial<
    Pick<
      TrialRow,
      | 'status'
      | 'planId'
      | 'planCell'
      | 'createdAt'
      | 'startedAt'
      | 'endedAt'
      | 'outcome'
      | 'detail'
      | 'load'
      | 'origin'
    >
  > & { readonly conditions?: unknown; readonly summary?: object | null };

/** A trial as it is written, with what lists show of it. */
export const rowOf = (trial: NewTrial & TrialIdentity) =>
  ({
    status: 'queued',
    ...trial,
    ...namesListed(trial),
    ...endListed(trial),
  }) as typeof trials.$inferInsert;

/** Writes trials that are to be made; they wait unless they say otherwise. */
export async function addTrials(rows: readonly (NewTrial & TrialIdentity)[]): Promise<void> {
  if (rows.length > 0) await database().insert(trials).values(rows.map(rowOf));
}

const withRecords = () =>
  database()
    .select({ ...columns, record: records.record })
    .from(trials)
    .leftJoin(records, eq(records.trialId, trials.id));

/** A trial with its record, where it is of one of some kinds. */
export async function getTrial<Kind extends TrialKind = TrialKind>(
  id: string,
  kinds: readonly Kind[] | null = null,
): Promise<TrialRow<Kind> | null> {
  const [row] = await withRecords().where(
    and(eq(trials.id, id), kinds ? inArray(trials.kind, [...kinds]) : undefined),
  );
  return (row as TrialRow<Kind> | undefined) ?? null;
}

/** Trials with their records, in no certain order. */
export async function getTrials<Kind extends TrialKind>(
  ids: readonly string[],
  kinds: readonly Kind[],
): Promise<TrialRow<Kind>[]> {
  if (ids.length === 0) return [];
  const rows = await withRecords().where(and(inArray(trials.id, [...ids]), inArray(trials.kind, [...kinds])));
  return rows as unknown as TrialRow<Kind>[];
}

/** Trials without their records, newest first. */
export async function listTrials<Kind extends TrialKind = TrialKind>(
  filter: TrialFilter<Kind>,
  most = 1_000,
): Promise<TrialListRow<Kind>[]> {
  const rows = await database()
    .select(columns)
    .from(trials)
    .where(matching(filter))
    .orderBy(desc(trials.createdAt))
    .limit(most);
  return rows as unknown as TrialListRow<Kind>[];
}

/** Ids of trials as they were asked for, the first first. */
export async function listTrialIds(
  filter: TrialFilter,
): Promise<{ id: string; kind: TrialKind; createdAt: Date }[]> {
  return database()
    .select({ id: trials.id, kind: trials.kind, createdAt: trials.createdAt })
    .from(trials)
    .where(matching(filter))
    .orderBy(asc(trials.createdAt));
}

/** One of several attempts at the same. */
export interface Attempt {
  readonly id: string;
  readonly kind: TrialKind;
  readonly status: TrialStatus;
}

/** All attempts at what a trial attempts, the first first; only itself where there was no other. */
export async function listAttempts({
  id,
  attemptOf = null,
}: Pick<TrialRow, 'id' | 'attemptOf'>): Promise<Attempt[]> {
  const first = attemptOf ?? id;
  return database()
    .select({ id: trials.id, kind: trials.kind, status: trials.status })
    .from(trials)
    .where(or(eq(trials.id, first), eq(trials.attemptOf, first)))
    .orderBy(asc(trials.createdAt));
}

export async function countTrials(filter: TrialFilter): Promise<number> {
  const [row] = await database().select({ value: count() }).from(trials).where(matching(filter));
  return row?.value ?? 0;
}

/** The newest finished throughput trial of each test on each volume of a rig. */
export async function latestThroughput(rigId: string): Promise<TrialListRow<'throughput'>[]> {
  const test = sql`${trials.settings}->>'test'`;
  const rows = await database()
    .selectDistinctOn([trials.volumeIds, test], columns)
    .from(trials)
    .where(
      and(
        matching({ rigId, kinds: ['throughput'], statuses: ['done'] }),
        // What a volume sustains is told past the system's cache.
        sql`${trials.settings}->>'cache' is distinct from 'through'`,
      ),
    )
    .orderBy(trials.volumeIds, test, desc(trials.createdAt));
  return rows as TrialListRow<'throughput'>[];
}

/**
 * Newest finished openings of clips to their first picture, cold, in which at least one was opened, with their records.
 * @param which of some volumes, or of one alone
 */
export async function openingsToPicture(
  rigId: string,
  which: { readonly someOf: readonly string[] } | { readonly alone: string },
  most: number,
): Promise<TrialRow<'opening'>[]> {
  const rows = await withRecords()
    .where(
      and(
        matching({ rigId, kinds: ['opening'], statuses: ['done'] }),
        sql`${trials.settings}->>'each' = 'picture'`,
        sql`${trials.settings}->>'warm' = 'false'`,
        sql`jsonb_typeof(${trials.summary}->'each') = 'object'`,
        'alone' in which
          ? eq(trials.volumeIds, [which.alone])
          : arrayOverlaps(trials.volumeIds, [...which.someOf]),
      ),
    )
    .orderBy(desc(trials.createdAt))
    .limit(most);
  return rows as unknown as TrialRow<'opening'>[];
}

/** The newest finished decode rates of a rig, newest first. */
export function finishedRates(rigId: string): Promise<TrialListRow<'decode-rate'>[]> {
  return listTrials({ rigId, kinds: ['decode-rate'], statuses: ['done'] });
}

/** A run of a timeline as its runs are laid over each other: without what only its own page needs. */
export type TimelineRun = Pick<
  PlayedTrial,
  'id' | 'createdAt' | 'status' | 'outcome' | 'settings' | 'load'
> & { readonly subject: TimelineSubject; readonly summary: RunSummary | null };
export type RunSummary = Pick<
  PlaybackSummary,
  'slots' | 'shown' | 'late' | 'dropped' | 'wrong' | 'grade' | 'achievedRate' | 'timesRealTime' | 'pacingMs'
> & { readonly attribution: { readonly countByCharge: Readonly<Record<number, number>> | null } | null };

const runSummary = sql<RunSummary | null>`(${trials.summary} - '{cures,parts,serviceMs,meanServiceMs,attribution,selfCheck}'::text[]) || jsonb_build_object('attribution', jsonb_build_object('countByCharge', ${trials.summary}->'attribution'->'countByCharge'))`;

/** Runs of a timeline, newest first. */
export async function listTimelineRuns(
  rigId: string,
  timelineId: string,
  most = 200,
): Promise<TimelineRun[]> {
  const { id, createdAt, status, outcome, subject, settings, load } = columns;
  return database()
    .select({
      id,
      createdAt,
      status,
      outcome,
      settings: sql<PlayedTrial['settings']>`${settings}`,
      load,
      subject: sql<TimelineSubject>`${subject}`,
      summary: runSummary,
    })
    .from(trials)
    .where(matching({ rigId, kinds: ['playback'], timelineId }))
    .orderBy(desc(createdAt))
    .limit(most);
}

/** Changes a trial if it still has one of the given statuses. Returns whether it did. */
export async function updateTrial(
  id: string,
  from: readonly TrialStatus[],
  change: TrialChange,
): Promise<boolean> {
  const changed = await database()
    .update(trials)
    .set({ ...change, ...endListed(change) } as Partial<typeof trials.$inferInsert>)
    .where(and(eq(trials.id, id), inArray(trials.status, [...from])))
    .returning({ id: trials.id });
  return changed.length > 0;
}

/** Takes all waiting trials of some kinds out of the queue. Returns their ids. */
export async function cancelQueued(rigId: string, kinds: readonly TrialKind[]): Promise<string[]> {
  const rows = await database()
    .update(trials)
    .set({ status: 'cancelled', outcome: 'Cancelled before it began.', endedAt: new Date() })
    .where(matching({ rigId, kinds, statuses: ['queued'] }))
    .returning({ id: trials.id });
  return rows.map(({ id }) => id);
}

/** Removes a trial with all that was recorded and noted of it. */
export async function removeTrial(id: string): Promise<void> {
  await database().delete(trials).where(eq(trials.id, id));
}

/** Keeps what a trial has measured so far, in place of what was kept before. */
export async function saveRecord(trialId: string, record: NonNullable<TrialRow['record']>): Promise<void> {
  await database()
    .insert(records)
    .values({ trialId, record })
    .onConflictDoUpdate({ target: records.trialId, set: { record } });
}

export async function saveCharges(trialId: string, charges: Buffer): Promise<void> {
  await database()
    .insert(slotCharges)
    .values({ trialId, charges })
    .onConflictDoUpdate({ target: slotCharges.trialId, set: { charges } });
}

/** Of each slot the bits of the stages to which its drop is charged; null where it was not judged. */
export async function getCharges(trialId: string): Promise<Buffer | null> {
  const [row] = await database().select().from(slotCharges).where(eq(slotCharges.trialId, trialId));
  return row?.charges ?? null;
}

/** Appends a piece of a trace. Saving the same piece twice changes nothing. */
export async function saveTraceBatch(
  trialId: string,
  fromSlot: number,
  slots: number,
  data: Buffer,
): Promise<void> {
  await database().insert(traceBatches).values({ trialId, fromSlot, slots, data }).onConflictDoNothing();
}

/** The pieces of a trace in order of slots, from `fromSlot` on. */
export async function listTraceBatches(trialId: string, fromSlot = 0) {
  return database()
    .select()
    .from(traceBatches)
    .where(
      and(
        eq(traceBatches.trialId, trialId),
        sql`${traceBatches.fromSlot} + ${traceBatches.slots} > ${fromSlot}`,
      ),
    )
    .orderBy(asc(traceBatches.fromSlot));
}

export async function saveSample(row: typeof samples.$inferInsert): Promise<void> {
  await database().insert(samples).values(row);
}

export type SampleRow = typeof samples.$inferSelect;

export async function listSamples(trialId: string): Promise<SampleRow[]> {
  return database().select().from(samples).where(eq(samples.trialId, trialId)).orderBy(asc(samples.at));
}
