import { and, desc, eq, gt, isNull, or, sql } from 'drizzle-orm';
import { database } from '../client';
import { rigs, runners, type BestPulse } from '../schema';
import type { RigIdentity } from '@/core/rig/identity';
import type { DeviceReport } from '@/core/decode/device';

export type RigRow = typeof rigs.$inferSelect;
export type RunnerRow = typeof runners.$inferSelect;

/** Makes or refreshes a rig; a name given before is kept. */
export async function saveRig(id: string, identity: RigIdentity, name: string): Promise<void> {
  await database()
    .insert(rigs)
    .values({ id, name, identity })
    .onConflictDoUpdate({ target: rigs.id, set: { identity } });
}

/** Changes what a person has said of a rig. */
export async function updateRig(id: string, change: { name?: string; currency?: string }): Promise<void> {
  await database().update(rigs).set(change).where(eq(rigs.id, id));
}

export async function getRig(id: string): Promise<RigRow | null> {
  return (await database().select().from(rigs).where(eq(rigs.id, id)))[0] ?? null;
}

/** Notes the decode devices of a rig as they were tried out. */
export async function saveDevices(id: string, devices: readonly DeviceReport[]): Promise<void> {
  await database().update(rigs).set({ devices }).where(eq(rigs.id, id));
}

/** Notes a rig's pulse where it is its best so far. */
export async function saveBestPulse(id: string, best: BestPulse): Promise<void> {
  await database()
    .update(rigs)
    .set({ bestPulse: best })
    .where(
      and(eq(rigs.id, id), or(isNull(rigs.bestPulse), gt(sql`(${rigs.bestPulse}->>'us')::float`, best.us))),
    );
}

/** Notes that a rig's runner is alive and where it serves pictures. */
export async function saveRunner(row: Omit<RunnerRow, 'seenAt'>): Promise<void> {
  const seen = { ...row, seenAt: sql`now()` };
  await database().insert(runners).values(seen).onConflictDoUpdate({ target: runners.rigId, set: seen });
}

/** The runner of a rig with the seconds since it was last heard of, or null when none ever ran. */
export async function getRunner(rigId: string): Promise<(RunnerRow & { silentSeconds: number }) | null> {
  const [row] = await database()
    .select({
      runner: runners,
      silentSeconds: sql<number>`extract(epoch from now() - ${runners.seenAt})::float`,
    })
    .from(runners)
    .where(eq(runners.rigId, rigId))
    .orderBy(desc(runners.seenAt));
  return row ? { ...row.runner, silentSeconds: row.silentSeconds } : null;
}

/** All rigs: this one, and those whose results came in as bundles. */
export type RigName = Pick<RigRow, 'id' | 'name'>;

/** Rigs by their names alone: lists need no more of them. */
export async function listRigNames(): Promise<RigName[]> {
  const { id, name } = rigs;
  return database().select({ id, name }).from(rigs).orderBy(rigs.createdAt);
}

export async function listRigs(): Promise<RigRow[]> {
  return database().select().from(rigs).orderBy(rigs.createdAt);
}
