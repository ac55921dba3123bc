import PgBoss from 'pg-boss';
import { databaseUrl } from '@/db/client';

/** Work that must not run beside other work on the same rig, because two measurements measure each other. */
export type RigJob =
  | { readonly kind: 'trial' | 'plan'; readonly trialId: string }
  | { readonly kind: 'scan'; readonly volumeId: string }
  /** Thumbnails and peaks of clips that have none; gives way to everything else. */
  | { readonly kind: 'previews' }
  | { readonly kind: 'devices' };

export function queueName(rigId: string): string {
  return `rig-work-${rigId}`;
}

const longestJobSeconds = 23 * 3600;

/** Connects to the job queue kept in the database. The runner also looks after it; the server only sends. */
export async function openQueue(rigId: string, role: 'server' | 'runner'): Promise<PgBoss> {
  const isRunner = role === 'runner';
  const boss = new PgBoss({ connectionString: databaseUrl(), supervise: isRunner, schedule: false, max: 3 });
  boss.on('error', () => undefined); // the database is away; the next call tells
  await boss.start();
  await boss.createQueue(queueName(rigId));
  return boss;
}

const holder = globalThis as typeof globalThis & { navvyQueue?: Promise<PgBoss> | undefined };

/** Sends a job from the server. */
export async function sendJob(rigId: string, job: RigJob): Promise<void> {
  holder.navvyQueue ??= openQueue(rigId, 'server').catch((error: unknown) => {
    holder.navvyQueue = undefined;
    throw error;
  });
  await sendTo(await holder.navvyQueue, rigId, job);
}

/** Leaves the queue; the next job opens it again. */
export async function closeQueue(): Promise<void> {
  const { navvyQueue } = holder;
  holder.navvyQueue = undefined;
  await (await navvyQueue)?.stop({ graceful: false, wait: true });
}

export async function sendTo(boss: PgBoss, rigId: string, job: RigJob): Promise<void> {
  await boss.send(queueName(rigId), job, {
    retryLimit: 0,
    expireInSeconds: longestJobSeconds,
    priority: job.kind === 'previews' ? 0 : 1,
  });
}
