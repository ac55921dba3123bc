import { together } from '@/core/together';
import type { rigInput } from '@/core/asked/library';
import type { InferType } from '@/core/edge/strict';
import { usualCurrency } from '@/core/format';
import { kindNames, namesOf, trialHref } from '@/core/kinds/kinds';
import type { TrialListRow, TrialStatus } from '@/db/kinds';
import { countBriefs } from '@/db/queries/briefs';
import { listPlansByStatus } from '@/db/queries/plans';
import { getRig, getRunner, listRigs, updateRig } from '@/db/queries/rigs';
import { countTimelines } from '@/db/queries/timelines';
import { countTrials, listTrials } from '@/db/queries/trials';
import { listVolumes } from '@/db/queries/volumes';
import { readPower, readRigState, thisRigId } from '@/engine/rig';
import type { RigState } from '@/core/rig/identity';

let rigId: Promise<string> | null = null;

/** The rig this server runs on. */
export function currentRigId(): Promise<string> {
  rigId ??= thisRigId();
  return rigId;
}

/** Names this rig, and says what money is counted in. */
export async function changeRig({ name, currency }: InferType<typeof rigInput>): Promise<void> {
  await updateRig(await currentRigId(), { name, ...(currency && { currency }) });
}

/** What the condition strip and the navigation show. */
export interface Status {
  readonly rigName: string;
  /** What money is counted in (ISO 4217). */
  readonly currency: string;
  readonly power: RigState['power'];
  readonly runner: 'ready' | 'silent';
  /** What runs, and the page that shows it. */
  readonly running: {
    readonly id: string;
    readonly name: string;
    readonly what: string;
    readonly href: string;
  } | null;
  readonly queued: number;
  readonly volumes: number;
  readonly clips: number;
  readonly timelines: number;
  /** Finished playback trials. */
  readonly results: number;
  readonly briefs: number;
  /** Those of them that are no demo data. */
  readonly ownBriefs: number;
  readonly selfCheck: 'never' | 'trusted' | 'not trusted';
}

const silentAfterSeconds = 8;

export async function readStatus(): Promise<Status> {
  const id = await currentRigId();
  const {
    rig,
    power,
    runner,
    running,
    queued,
    timelines,
    volumes,
    selfCheck,
    results,
    briefs,
    ownBriefs,
    plans,
  } = await together({
    rig: getRig(id),
    power: readPower(),
    runner: getRunner(id),
    running: listTrials({ rigId: id, statuses: ['running'] }, 1),
    queued: countTrials({ rigId: id, statuses: ['queued'] }),
    timelines: countTimelines(id),
    volumes: listVolumes(id),
    selfCheck: latestSelfCheck(id, ['done']),
    results: countTrials({ rigId: id, kinds: ['playback'], statuses: ['done'] }),
    briefs: countBriefs(id),
    ownBriefs: countBriefs(id, { own: true }),
    plans: listPlansByStatus(id, ['queued']),
  });
  const [now] = running;
  return {
    rigName: rig?.name ?? 'This rig',
    currency: rig?.currency ?? usualCurrency,
    power,
    runner: runner && runner.silentSeconds < silentAfterSeconds ? 'ready' : 'silent',
    running: now
      ? { id: now.id, name: namesOf(now).subject, what: kindNames[now.kind], href: trialHref(now) }
      : null,
    queued: queued + plans.length,
    volumes: volumes.length,
    clips: volumes.reduce((sum, volume) => sum + volume.clipCount, 0),
    timelines,
    results,
    briefs,
    ownBriefs,
    selfCheck: verdictOf(selfCheck),
  };
}

function verdictOf(check: TrialListRow<'self-check'> | null): Status['selfCheck'] {
  const found = check?.summary?.selfCheck;
  if (!found) return 'never';
  return found.trusted ? 'trusted' : 'not trusted';
}

/** The newest self-check of a rig, or the newest that ended with one of the given statuses; null when there is none. */
async function latestSelfCheck(
  rig: string,
  statuses?: readonly TrialStatus[],
): Promise<TrialListRow<'self-check'> | null> {
  const filter = { rigId: rig, kinds: ['self-check'] as const, ...(statuses ? { statuses } : {}) };
  return (await listTrials(filter, 1))[0] ?? null;
}

/** What the rig's page shows. */
export async function readRigPage() {
  const id = await currentRigId();
  const { rig, state, selfCheck, rigs } = await together({
    rig: getRig(id),
    state: readRigState(new Set([process.pid])),
    selfCheck: latestSelfCheck(id),
    rigs: listRigs(),
  });
  return { rig, state, selfCheck, others: rigs.filter((one) => one.imported !== null) };
}
