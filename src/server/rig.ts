import { getRig, getRunner, renameRig } from '@/db/queries/rigs';
import { latestTrial, listTrialsByStatus, queueLength } from '@/db/queries/trials';
import { listVolumes } from '@/db/queries/volumes';
import { readPower, readRigState, thisRigId, type RigState } from '@/engine/rig';

let rigId: Promise<string> | null = null;

/** The rig this server runs on. */
export function currentRigId(): Promise<string> {
  rigId ??= thisRigId();
  return rigId;
}

export async function nameRig(name: string): Promise<void> {
  await renameRig(await currentRigId(), name);
}

/** What the condition strip and the navigation show. */
export interface Status {
  readonly rigName: string;
  readonly power: RigState['power'];
  readonly runner: 'ready' | 'silent';
  readonly running: { readonly id: string; readonly clipPath: string; readonly kind: string } | null;
  readonly queued: number;
  readonly volumes: number;
  readonly clips: number;
  readonly selfCheck: 'never' | 'trusted' | 'not trusted';
}

const silentAfterSeconds = 8;

export async function readStatus(): Promise<Status> {
  const id = await currentRigId();
  const [rig, power, runner, running, queued, volumes, selfCheck] = await Promise.all([
    getRig(id), readPower(), getRunner(id), listTrialsByStatus(id, ['running']), queueLength(id), listVolumes(id), latestTrial(id, 'self-check', ['done']),
  ]);
  const trial = running[0];
  return {
    rigName: rig?.name ?? 'This rig',
    power,
    runner: runner && runner.silentSeconds < silentAfterSeconds ? 'ready' : 'silent',
    running: trial ? { id: trial.id, clipPath: trial.subject.clipPath, kind: trial.kind } : null,
    queued,
    volumes: volumes.length,
    clips: volumes.reduce((sum, volume) => sum + volume.clipCount, 0),
    selfCheck: !selfCheck?.selfCheck ? 'never' : selfCheck.selfCheck.trusted ? 'trusted' : 'not trusted',
  };
}

export async function readRigPage() {
  const id = await currentRigId();
  const [rig, state, selfCheck] = await Promise.all([getRig(id), readRigState(new Set([process.pid])), latestTrial(id, 'self-check')]);
  return { rig, state, selfCheck };
}
