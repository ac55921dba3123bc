import { and, eq, inArray, isNotNull, notExists, or, sql } from 'drizzle-orm';
import { timelineKinds } from '@/core/kinds/kinds';
import { database } from '../client';
import { briefs, clips, footage, plans, rigs, timelines, timelineVersions, trials, volumes } from '../schema';

/** Removes demo volumes, their clips, and the trials made from them. Returns how many went. */
export async function removeDemoData(): Promise<{ volumes: number; trials: number }> {
  return database().transaction(async (transaction) => {
    const demoClips = transaction
      .select({ id: clips.id })
      .from(clips)
      .innerJoin(volumes, eq(clips.volumeId, volumes.id))
      .where(eq(volumes.demo, 1));
    const demoTimelines = transaction
      .select({ id: timelines.id })
      .from(timelines)
      .where(eq(timelines.demo, 1));
    const goneTrials = await transaction
      .delete(trials)
      .where(
        or(
          eq(trials.demo, 1),
          inArray(trials.clipId, demoClips),
          and(inArray(trials.kind, timelineKinds), inArray(trials.timelineId, demoTimelines)),
        ),
      )
      .returning({ id: trials.id });
    await transaction.delete(timelineVersions).where(inArray(timelineVersions.timelineId, demoTimelines));
    await transaction.delete(timelines).where(eq(timelines.demo, 1));
    await transaction.delete(briefs).where(eq(briefs.demo, 1));
    await transaction.delete(plans).where(eq(plans.demo, 1));
    const goneVolumes = await transaction
      .delete(volumes)
      .where(eq(volumes.demo, 1))
      .returning({ id: volumes.id });
    await transaction.delete(footage).where(
      notExists(
        transaction
          .select({ one: sql`1` })
          .from(clips)
          .where(eq(clips.footageId, footage.id)),
      ),
    );
    await transaction.delete(rigs).where(
      and(
        isNotNull(rigs.imported),
        notExists(
          transaction
            .select({ one: sql`1` })
            .from(trials)
            .where(eq(trials.rigId, rigs.id)),
        ),
        notExists(
          transaction
            .select({ one: sql`1` })
            .from(volumes)
            .where(eq(volumes.rigId, rigs.id)),
        ),
      ),
    );
    return { volumes: goneVolumes.length, trials: goneTrials.length };
  });
}
