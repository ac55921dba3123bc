import { fileName } from '@/core/media/fileName';
import { presetOf } from '@/core/rendition/presets';
import { listDecodeTrialsByStatus, type DecodeTrialListRow } from '@/db/queries/decodeTrials';
import { listRenditionJobsByStatus, type RenditionJobRow } from '@/db/queries/renditions';
import { getRig, getRunner, listRigs, renameRig } from '@/db/queries/rigs';
import {
  countFinished,
  latestTrial,
  listTrialsByStatus,
  queueLength,
  type TrialListRow,
} from '@/db/queries/trials';
import { listStorageTrialsByStatus, type StorageTrialRow } from '@/db/queries/storageTrials';
import { countBriefs } from '@/db/queries/briefs';
import { listPlansByStatus } from '@/db/queries/plans';
import { listVolumes } from '@/db/queries/volumes';
import { nameOf } from '@/core/playback/subject';
import { countTimelines, listTimelineTestsByStatus, type TimelineTestListRow } from '@/db/queries/timelines';
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
  readonly selfCheck: 'never' | 'trusted' | 'not trusted';
}

const silentAfterSeconds = 8;

export async function readStatus(): Promise<Status> {
  const id = await currentRigId();
  const [
    rig,
    power,
    runner,
    running,
    queued,
    storage,
    decode,
    renditions,
    tests,
    timelines,
    volumes,
    selfCheck,
    results,
    briefs,
    plans,
  ] = await Promise.all([
    getRig(id),
    readPower(),
    getRunner(id),
    listTrialsByStatus(id, ['running']),
    queueLength(id),
    listStorageTrialsByStatus(id, ['running', 'queued']),
    listDecodeTrialsByStatus(id, ['running', 'queued']),
    listRenditionJobsByStatus(id, ['running', 'queued']),
    listTimelineTestsByStatus(id, ['running', 'queued']),
    countTimelines(id),
    listVolumes(id),
    latestTrial(id, 'self-check', ['done']),
    countFinished(id),
    countBriefs(id),
    listPlansByStatus(id, ['running', 'queued']),
  ]);
  const others = [...storage, ...decode, ...renditions, ...tests];
  return {
    rigName: rig?.name ?? 'This rig',
    power,
    runner: runner && runner.silentSeconds < silentAfterSeconds ? 'ready' : 'silent',
    running: runningNow(
      running[0],
      storage.find(isRunning),
      decode.find(isRunning),
      renditions.find(isRunning),
      tests.find(isRunning),
    ),
    queued: queued + [...others, ...plans].filter(({ status }) => status === 'queued').length,
    volumes: volumes.length,
    clips: volumes.reduce((sum, volume) => sum + volume.clipCount, 0),
    timelines,
    results,
    briefs,
    selfCheck: !selfCheck?.selfCheck ? 'never' : selfCheck.selfCheck.trusted ? 'trusted' : 'not trusted',
  };
}

const isRunning = ({ status }: { readonly status: string }) => status === 'running';

function runningNow(
  trial: TrialListRow | undefined,
  storage: StorageTrialRow | undefined,
  decode: DecodeTrialListRow | undefined,
  renditions: RenditionJobRow | undefined,
  test: TimelineTestListRow | undefined,
): Status['running'] {
  if (trial)
    return {
      id: trial.id,
      name: nameOf(trial.subject),
      what: trial.kind === 'self-check' ? 'Self-check' : 'Trial',
      href: `/trials/${trial.id}`,
    };
  if (storage)
    return {
      id: storage.id,
      name: storage.subject.volumeName,
      what: storage.kind === 'copy' ? 'Copy' : 'Trial',
      href: `/storage/trials/${storage.id}`,
    };
  if (decode)
    return {
      id: decode.id,
      name: fileName(decode.subject.clipPath),
      what: 'Decode',
      href: `/media/decode/${decode.id}`,
    };
  if (test)
    return {
      id: test.id,
      name: nameOf(test.subject),
      what: testWords[test.kind],
      href: `/timelines/tests/${test.id}`,
    };
  return renditions
    ? {
        id: renditions.id,
        name: presetOf(renditions.settings.presetId).name,
        what: 'Renditions',
        href: `/media/renditions/${renditions.id}`,
      }
    : null;
}

const testWords = { scrub: 'Scrub', ramp: 'Load ramp', costs: 'Calibration' } as const;

export async function readRigPage() {
  const id = await currentRigId();
  const [rig, state, selfCheck, rigs] = await Promise.all([
    getRig(id),
    readRigState(new Set([process.pid])),
    latestTrial(id, 'self-check'),
    listRigs(),
  ]);
  return { rig, state, selfCheck, others: rigs.filter((one) => one.imported !== null) };
}
