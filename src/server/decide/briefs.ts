import { mediaRefOf } from '@/core/timeline/mediaRef';
import { fileName } from '@/core/media/fileName';
import type { InferType } from '@/core/edge/strict';
import { briefProblem, type Brief, type BriefCamera } from '@/core/choose/brief';
import { sideBySide } from '@/core/timeline/loads';
import { lengthOf } from '@/core/timeline/model';
import type { CellAddress } from '@/core/plan/matrix';
import { addBrief, getBrief, listBriefs, removeBrief, updateBrief, type BriefRow } from '@/db/queries/briefs';
import { getClips, type ClipWithVolume } from '@/db/queries/clips';
import { listRigs } from '@/db/queries/rigs';
import { putTimeline } from '@/db/queries/timelines';
import { listVolumes } from '@/db/queries/volumes';
import type { PlanSettings } from '@/core/plan/plan';
import { listClipChoices } from '../library/clipChoices';
import { decisionOf, loadTimelineId, rowsOf } from './decision';
import { RequestError } from '../platform/errors';
import { newId } from '../platform/ids';
import { resolveAddresses } from './planCells';
import { queuePlan } from './plans';
import { currentRigId } from '../platform/rig';

import type { briefInput } from '@/core/asked/briefs';

/** Runs of each cell that a brief measures for itself. */
const runsPerCell = 3;

export async function requireBrief(id: string): Promise<BriefRow> {
  const brief = await getBrief(id);
  if (!brief) throw new RequestError('no-such-brief');
  return brief;
}

async function briefFrom(
  { name: _name, cardMegabytesPerSecond, cameras, ...rest }: InferType<typeof briefInput>,
  before: Brief | null,
): Promise<Brief> {
  const clips = new Map((await getClips(cameras.map(({ clipId }) => clipId))).map((clip) => [clip.id, clip]));
  const chosen = cameras.map(({ clipId, name, hoursPerDay }, index): BriefCamera => {
    const clip = clips.get(clipId);
    // A camera whose clip has left the library keeps what was written down of it.
    const kept = before?.cameras.find(({ contentHash }) => contentHash === clipId);
    if (!clip && kept) return { ...kept, id: `c${index + 1}`, name, hoursPerDay };
    if (!clip?.format || clip.contentHash === null || clip.meanBitsPerSecond === null)
      throw new RequestError('camera-clip-gone', { name }, `cameras[${index}].clipId`);
    return {
      id: `c${index + 1}`,
      name,
      hoursPerDay,
      contentHash: clip.contentHash,
      clipName: fileName(clip.path),
      format: clip.format,
      meanBitsPerSecond: clip.meanBitsPerSecond,
      peakBitsPerSecond: clip.peakBitsPerSecond ?? clip.meanBitsPerSecond,
    };
  });
  const brief: Brief = {
    ...rest,
    cameras: chosen,
    cardBytesPerSecond: cardMegabytesPerSecond === null ? null : cardMegabytesPerSecond * 1e6,
  };
  const problem = briefProblem(brief);
  if (problem) throw RequestError.of(problem);
  return brief;
}

export async function createBrief(input: InferType<typeof briefInput>, demo = 0): Promise<string> {
  const id = newId();
  await addBrief({
    id,
    rigId: await currentRigId(),
    name: input.name,
    document: await briefFrom(input, null),
    demo,
  });
  return id;
}

export async function changeBrief(id: string, input: InferType<typeof briefInput>): Promise<void> {
  const { document } = await requireBrief(id);
  await updateBrief(id, { name: input.name, document: await briefFrom(input, document) });
}

export async function deleteBrief(id: string): Promise<void> {
  await requireBrief(id);
  await removeBrief(id);
}

export async function briefsOfRig(): Promise<BriefRow[]> {
  return listBriefs(await currentRigId());
}

/** What the form of a brief offers: clips that stand for cameras, and volumes of every rig with their prices. */
export async function readBriefForm() {
  const rigId = await currentRigId();
  const [clips, rigs] = await Promise.all([listClipChoices(rigId), listRigs()]);
  const volumes = await Promise.all(
    rigs.map(async (rig) =>
      (await listVolumes(rig.id)).map(({ id, name, kind, price, standIn }) => ({
        rigId: rig.id,
        rigName: rig.name,
        imported: rig.imported,
        volumeId: id,
        name,
        kind,
        price,
        simulated: standIn !== null,
      })),
    ),
  );
  return {
    rigId,
    volumes: volumes.flat(),
    clips: clips.flatMap(
      ({
        clip: { id, path, contentHash, format, meanBitsPerSecond, peakBitsPerSecond, volumeName, footageId },
        also,
        proxy,
      }) =>
        contentHash === null
          ? []
          : [
              {
                id,
                path,
                also,
                proxy,
                contentHash,
                format,
                meanBitsPerSecond,
                peakBitsPerSecond,
                volumeName,
                footageId,
              },
            ],
    ),
  };
}
export type BriefForm = Awaited<ReturnType<typeof readBriefForm>>;

/** A brief with its map, its set-ups and what they rest on. */
export async function readBriefPage(id: string) {
  const brief = await requireBrief(id);
  return { brief, decision: await decisionOf(brief) };
}
export type BriefPage = Awaited<ReturnType<typeof readBriefPage>>;

/**
 * Queues the runs that fill cells of a brief's map on this rig. Returns the plan's id.
 * @param wanted rows and volumes; null takes every unknown cell
 */
export async function measureCells(
  id: string,
  wanted: readonly { readonly rowId: string; readonly volumeId: string }[] | null,
  repeats = runsPerCell,
): Promise<string> {
  const rigId = await currentRigId();
  const row = await requireBrief(id);
  const { document: brief } = row;
  const cells =
    wanted ??
    (await decisionOf(row)).cells
      .filter((cell) => cell.rigId === rigId && cell.judgement.basis === 'unknown' && cell.underWay === null)
      .map(({ rowId, volumeId }) => ({ rowId, volumeId }));
  if (cells.length === 0) throw new RequestError('no-cell-unknown');
  const rows = await rowsOf(brief);
  const addresses: CellAddress[] = [];
  const reasons: string[] = [];
  for (const { rowId, volumeId } of cells) {
    const format = rows.find((one) => one.id === rowId);
    const clip = format?.clips.find((one) => one.volumeId === volumeId);
    if (!format || !clip) {
      reasons.push(
        `${format?.name ?? 'The format'} does not lie on this volume. Copy its clip there and scan the volume.`,
      );
      continue;
    }
    addresses.push({
      test: 'playback',
      subject: await subjectOf(row, clip),
      volumeId,
      form: 'originals',
      scale: brief.scale,
    });
  }
  const settings: PlanSettings = {
    subjects: addresses.flatMap(({ subject }) => subject ?? []),
    volumeIds: [...new Set(cells.map(({ volumeId }) => volumeId))],
    forms: ['originals'],
    scales: [brief.scale],
    tests: ['playback'],
    repeats,
    order: 'interleaved',
    seed: 1,
    warm: false,
    policy: 'hold-time',
  };
  const { cells: ready, leftOut } = await resolveAddresses(addresses, { ...settings, speed: brief.speed });
  if (ready.length === 0)
    throw new RequestError('nothing-measured', {
      reasons: [...reasons, ...leftOut.map(({ what, reason }) => `${what}: ${reason}`)].join(' '),
    });
  return queuePlan(
    `${row.name}: ${ready.length} ${ready.length === 1 ? 'cell' : 'cells'}`,
    `brief:${id}`,
    settings,
    ready,
    row.demo,
  );
}

/** What plays for a cell: the clip itself, or a timeline of its streams and grades, or for a shuttle, that is in no list. */
async function subjectOf(
  { document: { streams, looks, speed }, demo }: BriefRow,
  clip: ClipWithVolume,
): Promise<{ kind: 'clip' | 'timeline'; id: string }> {
  if (streams === 1 && looks === 0 && speed === 1) return { kind: 'clip', id: clip.id };
  const ref = mediaRefOf(clip);
  if (!ref || clip.contentHash === null) throw new RequestError('brief-clip-not-read');
  const document = sideBySide({ id: 'm1', ref }, streams, null, looks);
  const id = loadTimelineId(clip.contentHash, streams, looks);
  await putTimeline({
    id,
    rigId: await currentRigId(),
    name: document.name,
    document,
    slots: lengthOf(document),
    demo,
  });
  return { kind: 'timeline', id };
}
