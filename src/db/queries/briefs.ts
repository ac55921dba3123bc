import { and, desc, eq, inArray, lte, sql, type SQL } from 'drizzle-orm';
import { database } from '../client';
import type { LanesMeasured, RenditionSettings } from '@/core/kinds/renditions';
import {
  annotations,
  briefs,
  clips,
  planCells,
  plans,
  planSteps,
  records,
  renditionItems,
  trials,
  type PlayedTrial,
} from '../schema';

export type BriefRow = typeof briefs.$inferSelect;

export async function addBrief(row: typeof briefs.$inferInsert): Promise<void> {
  await database().insert(briefs).values(row);
}

export async function getBrief(id: string): Promise<BriefRow | null> {
  return (await database().select().from(briefs).where(eq(briefs.id, id)))[0] ?? null;
}

export async function listBriefs(rigId: string): Promise<BriefRow[]> {
  return database().select().from(briefs).where(eq(briefs.rigId, rigId)).orderBy(desc(briefs.updatedAt));
}

export async function countBriefs(rigId: string, { own = false } = {}): Promise<number> {
  return database().$count(briefs, and(eq(briefs.rigId, rigId), own ? eq(briefs.demo, 0) : undefined));
}

export async function updateBrief(id: string, change: Partial<typeof briefs.$inferInsert>): Promise<boolean> {
  return (
    (
      await database()
        .update(briefs)
        .set({ ...change, updatedAt: new Date() })
        .where(eq(briefs.id, id))
        .returning({ id: briefs.id })
    ).length > 0
  );
}

export async function removeBrief(id: string): Promise<void> {
  await database().delete(briefs).where(eq(briefs.id, id));
}

const scaleCosts = sql<Readonly<
  Record<'full' | 'half' | 'quarter', number>
> | null>`${trials.conditions}->'run'->'afterwards'->'scaleCosts'`;
/** Newest runs of one content from one volume of a rig at one scale that are judged, found among the newest of that content on the rig. */
const mostOfACell = 12;
const mostOfAContent = 300;
const volume = sql`coalesce(${trials.subject}->>'volumeId', ${clips.volumeId}, jsonb_path_query_first(${trials.subject}, '$.timeline.media.*.volumeId') #>> '{}')`;
/** Of playback trials. */
const playedSubject = sql<PlayedTrial['subject']>`${trials.subject}`;
const playedSettings = sql<PlayedTrial['settings']>`${trials.settings}`;
const isContent = (hash: string) => sql`(${trials.subject}->>'contentHash') = ${hash}`;
const isTimeline = (id: string) => eq(trials.timelineId, id);

/** Finished playback runs that count, the newest of each cell of some contents or timelines on some rigs: in time, cold, without injected faults. */
export async function playbackEvidence(
  rigIds: readonly string[],
  contentHashes: readonly string[],
  timelineIds: readonly string[],
) {
  const subjects = [...contentHashes.map(isContent), ...timelineIds.map(isTimeline)];
  return (
    await Promise.all(rigIds.flatMap((rigId) => subjects.map((subject) => evidenceOf(rigId, subject))))
  ).flat();
}

async function evidenceOf(rigId: string, subject: SQL) {
  const newest = database()
    .select({ id: trials.id })
    .from(trials)
    .where(and(eq(trials.rigId, rigId), eq(trials.kind, 'playback'), subject))
    .orderBy(desc(trials.createdAt))
    .limit(mostOfAContent);
  const numbered = database()
    .select({
      id: trials.id,
      clipVolumeId: sql<string | null>`${clips.volumeId}`.as('clip_volume_id'),
      place:
        sql<number>`row_number() over (partition by ${volume}, ${trials.settings}->>'scale' order by ${trials.createdAt} desc)`.as(
          'place',
        ),
    })
    .from(trials)
    .leftJoin(clips, eq(clips.id, trials.clipId))
    .leftJoin(annotations, eq(annotations.trialId, trials.id))
    .where(
      and(
        inArray(trials.id, newest),
        eq(trials.status, 'done'),
        sql`${annotations.excluded} is null`,
        sql`${trials.settings}->>'policy' = 'hold-time'`,
        sql`${trials.settings}->>'warm' = 'false'`,
        sql`${trials.settings}->'faults' = '[]'::jsonb`,
      ),
    )
    .as('numbered');
  return database()
    .select({
      id: trials.id,
      rigId: trials.rigId,
      subject: playedSubject,
      settings: playedSettings,
      load: trials.load,
      summary: sql<PlayedTrial['summary']>`${trials.summary}`,
      createdAt: trials.createdAt,
      scaleCosts,
      clipVolumeId: numbered.clipVolumeId,
    })
    .from(numbered)
    .innerJoin(trials, eq(trials.id, numbered.id))
    .where(lte(numbered.place, mostOfACell))
    .orderBy(desc(trials.createdAt));
}
export type EvidenceRow = Awaited<ReturnType<typeof playbackEvidence>>[number];

/** Cold playback runs that failed, of some contents or timelines on some rigs: newest first. */
export async function playbackFailures(
  rigIds: readonly string[],
  contentHashes: readonly string[],
  timelineIds: readonly string[],
) {
  const subjects = [...contentHashes.map(isContent), ...timelineIds.map(isTimeline)];
  return (
    await Promise.all(
      rigIds.flatMap((rigId) =>
        subjects.map((subject) =>
          database()
            .select({
              id: trials.id,
              rigId: trials.rigId,
              subject: playedSubject,
              settings: playedSettings,
              outcome: trials.outcome,
              createdAt: trials.createdAt,
              clipVolumeId: clips.volumeId,
            })
            .from(trials)
            .leftJoin(clips, eq(clips.id, trials.clipId))
            .where(
              and(eq(trials.rigId, rigId), subject, eq(trials.kind, 'playback'), eq(trials.status, 'failed')),
            )
            .orderBy(desc(trials.createdAt))
            .limit(mostOfAContent),
        ),
      ),
    )
  ).flat();
}

/** What plans of a question still have to run: the templates of cells with open steps. */
export async function openCellsOf(question: string) {
  return database()
    .selectDistinctOn([planCells.planId, planCells.cell], {
      planId: planCells.planId,
      template: planCells.template,
      status: plans.status,
      step: planSteps.status,
    })
    .from(planCells)
    .innerJoin(plans, eq(plans.id, planCells.planId))
    .innerJoin(planSteps, and(eq(planSteps.planId, planCells.planId), eq(planSteps.cell, planCells.cell)))
    .where(
      and(
        eq(plans.question, question),
        inArray(plans.status, ['queued', 'running', 'paused']),
        inArray(planSteps.status, ['waiting', 'running']),
      ),
    );
}

/** Renditions that were made on a rig, with what their making took: newest first. */
export async function madeRenditions(rigIds: readonly string[]) {
  if (rigIds.length === 0) return [];
  return database()
    .select({
      rigId: trials.rigId,
      sourceHash: renditionItems.sourceHash,
      sourceFormat: renditionItems.sourceFormat,
      work: renditionItems.work,
      lanes: sql<LanesMeasured | null>`${records.record}->'lanes'`,
      settings: sql<RenditionSettings>`${trials.settings}`,
      trialId: trials.id,
    })
    .from(renditionItems)
    .innerJoin(trials, eq(trials.id, renditionItems.trialId))
    .leftJoin(records, eq(records.trialId, trials.id))
    .where(and(inArray(trials.rigId, [...rigIds]), eq(renditionItems.status, 'made')))
    .orderBy(desc(trials.createdAt))
    .limit(1_000);
}
