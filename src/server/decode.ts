import type { InferType } from 'yup';
import { formatClass } from '@/core/media/format';
import { doubtOf } from '@/core/rig/doubt';
import { getClips, listClips, type ClipWithVolume } from '@/db/queries/clips';
import {
  addDecodeTrials,
  cancelQueuedDecodeTrials,
  getDecodeTrial,
  listDecodeTrials,
  removeDecodeTrial,
  updateDecodeTrial,
  type DecodeTrialListRow,
  type DecodeTrialRow,
} from '@/db/queries/decodeTrials';
import { getRig } from '@/db/queries/rigs';
import type { DeviceReport } from '@/engine/decode/devices';
import type { PlanTemplate } from '@/db/schema';
import type { DecodeSettings } from '@/engine/decode/spec';
import { RequestError } from './errors';
import { publish } from './events';
import { newTrialId } from './ids';
import { sendJob } from './queue';
import { currentRigId } from './rig';
import type { decodeRateInput, decodeStreamsInput, decodeSupportInput } from './validation';

/** Queues a decode rate for each clip. Returns the trials' ids in the clips' order. */
export async function startDecodeRates({
  clipIds,
  passSeconds,
  passes,
}: InferType<typeof decodeRateInput>): Promise<string[]> {
  return queueAll(
    (await playable(clipIds)).map((clip) => ({
      clip,
      settings: { kind: 'rate', passSeconds, passes },
      device: null,
    })),
  );
}

/** Queues a decode-support trial for each clip and device. Without clips: one clip of every format class that has no verdict yet on a device. */
export async function startDecodeSupport({
  clipIds,
  deviceIds,
  passSeconds,
  mostPairs,
}: InferType<typeof decodeSupportInput>): Promise<string[]> {
  const usable = (await devicesOfRig()).filter(({ usable: works }) => works);
  const devices =
    deviceIds.length > 0 ? deviceIds.map((id) => usable.find((device) => device.id === id)) : usable;
  if (devices.length === 0)
    throw new RequestError(
      'No decode device can be used here. Decode support names what is missing.',
      409,
      'deviceIds',
    );
  const pairs: { clip: ClipWithVolume; device: DeviceReport }[] = [];
  const cells = clipIds.length > 0 ? null : await readMatrix();
  const clips =
    clipIds.length > 0
      ? await playable(clipIds)
      : await playable(cells?.rows.map(({ clipId }) => clipId) ?? []);
  for (const clip of clips) {
    for (const device of devices) {
      if (!device)
        throw new RequestError(
          'This decode device cannot be used here. Load the page again.',
          409,
          'deviceIds',
        );
      const row = cells?.rows.find(({ clipId }) => clipId === clip.id);
      if (
        !row ||
        !row.cells.some(
          (cell) => cell.deviceId === device.id && (cell.trial !== null || cell.underWay !== null),
        )
      )
        pairs.push({ clip, device });
    }
  }
  return queueAll(
    pairs.map(({ clip, device }) => ({
      clip,
      device,
      settings: { kind: 'support', deviceId: device.id, passSeconds, mostPairs },
    })),
  );
}

/** Queues a ramp of decoded streams. Returns its id. */
export async function startDecodeStreams({
  clipId,
  rate,
  ...figures
}: InferType<typeof decodeStreamsInput>): Promise<string> {
  const [clip] = await playable([clipId]);
  if (!clip?.format)
    throw new RequestError('This clip is no longer in the library. Choose another.', 404, 'clipId');
  const [id = ''] = await queueAll([
    { clip, device: null, settings: { kind: 'streams', rate: rate ?? clip.format.rate, ...figures } },
  ]);
  return id;
}

async function playable(ids: readonly string[]): Promise<ClipWithVolume[]> {
  const found = await getClips(ids);
  const ordered = ids.map((id) => found.find((clip) => clip.id === id));
  return ordered.map((clip) => {
    if (!clip)
      throw new RequestError(
        'Some of these clips are no longer in the library. Load the page again.',
        404,
        'clipIds',
      );
    if (clip.status !== 'ready' || !clip.format)
      throw new RequestError(
        `${clip.path}: ${clip.problem ?? 'it was not read fully. Scan its volume again.'}`,
        409,
        'clipIds',
      );
    return clip;
  });
}

/** A decode trial as a row without identity; null when the clip was not read fully. */
export function decodeTrial(
  clip: ClipWithVolume,
  settings: DecodeSettings,
  device: DeviceReport | null,
): Extract<PlanTemplate, { kind: 'decode' }>['row'] | null {
  const { format, structure } = clip;
  if (!format || !structure) return null;
  return {
    clipId: clip.id,
    kind: settings.kind,
    formatClass: formatClass(format),
    deviceId: device?.id ?? null,
    settings,
    subject: {
      clipPath: clip.path,
      volumeName: clip.volumeName,
      contentHash: clip.contentHash,
      format,
      structure,
      frames: clip.frames ?? 0,
      meanBitsPerSecond: clip.meanBitsPerSecond ?? 0,
      device,
    },
  };
}

async function queueAll(
  wanted: readonly {
    readonly clip: ClipWithVolume;
    readonly settings: DecodeSettings;
    readonly device: DeviceReport | null;
  }[],
): Promise<string[]> {
  const rigId = await currentRigId();
  const rows = wanted.flatMap(({ clip, settings, device }) => {
    const row = decodeTrial(clip, settings, device);
    return row ? [{ ...row, id: newTrialId(), rigId, status: 'queued' as const }] : [];
  });
  await addDecodeTrials(rows);
  for (const { id } of rows) {
    await sendJob(rigId, { kind: 'decode', trialId: id });
    await publish({ type: 'decode-status', trialId: id, status: 'queued' });
  }
  return rows.map(({ id }) => id);
}

/** Takes a waiting trial out of the queue, or stops a running one. */
export async function cancelDecodeTrial(id: string): Promise<void> {
  await requireDecodeTrial(id);
  if (
    await updateDecodeTrial(id, ['queued'], {
      status: 'cancelled',
      outcome: 'Cancelled before it began.',
      endedAt: new Date(),
    })
  ) {
    await publish({ type: 'decode-status', trialId: id, status: 'cancelled' });
    return;
  }
  // Asked anew: it may have begun since.
  if ((await requireDecodeTrial(id)).status !== 'running')
    throw new RequestError('This trial has ended already.', 409);
  await publish({ type: 'cancel', trialId: id });
}

/** Takes every waiting decode trial out of the queue; the one that runs goes on. */
export async function cancelWaitingDecodeTrials(): Promise<{ done: number }> {
  const ids = await cancelQueuedDecodeTrials(await currentRigId());
  for (const trialId of ids) await publish({ type: 'decode-status', trialId, status: 'cancelled' });
  return { done: ids.length };
}

export async function deleteDecodeTrial(id: string): Promise<void> {
  const trial = await requireDecodeTrial(id);
  if (trial.status === 'running' || trial.status === 'queued')
    throw new RequestError('Cancel the trial first, then remove it.', 409);
  await removeDecodeTrial(id);
}

export async function requireDecodeTrial(id: string): Promise<DecodeTrialRow> {
  const trial = await getDecodeTrial(id);
  if (!trial)
    throw new RequestError('There is no decode trial with this address. It may have been removed.', 404);
  return trial;
}

export async function devicesOfRig(): Promise<readonly DeviceReport[]> {
  return (await getRig(await currentRigId()))?.devices ?? [];
}

/** Asks the runner to try the decode devices out again. */
export async function lookAtDevices(): Promise<void> {
  await sendJob(await currentRigId(), { kind: 'devices' });
}

/** Formats by devices: the newest verdict of each, and what is under way. */
async function readMatrix() {
  const rigId = await currentRigId();
  const [clips, trials, devices] = await Promise.all([
    listClips(rigId),
    listDecodeTrials(rigId, ['support']),
    devicesOfRig(),
  ]);
  const columns = devices.filter(({ usable }) => usable);
  const classes = new Map<string, ClipWithVolume>();
  for (const clip of clips) {
    if (clip.status !== 'ready' || !clip.format) continue;
    const name = formatClass(clip.format);
    // Real volumes first: their files are there as long as the host is.
    const known = classes.get(name);
    if (!known || (known.volumeStandIn !== null && clip.volumeStandIn === null)) classes.set(name, clip);
  }
  const rows = [...classes]
    .map(([name, clip]) => ({
      formatClass: name,
      clipId: clip.id,
      clipPath: clip.path,
      cells: columns.map(({ id }) => {
        const of = trials.filter((trial) => trial.formatClass === name && trial.deviceId === id);
        return {
          deviceId: id,
          trial: cellOf(of.find(({ status, result }) => status === 'done' && result?.kind === 'support')),
          underWay: of.find(({ status }) => status === 'queued' || status === 'running')?.status ?? null,
        };
      }),
    }))
    .sort((a, b) => a.formatClass.localeCompare(b.formatClass));
  return {
    devices,
    columns,
    rows,
    waiting: trials.filter(({ status }) => status === 'queued' || status === 'running').length,
  };
}

function cellOf(trial: DecodeTrialListRow | undefined) {
  if (trial?.result?.kind !== 'support') return null;
  const { verdict, parts, check, onDevice } = trial.result;
  return {
    id: trial.id,
    verdict,
    check,
    onDevice,
    ratio: parts[0]?.ratio ?? null,
    pairs: parts[0]?.pairs.length ?? 0,
    allRatio: parts.find(({ cores }) => cores === 'all')?.ratio ?? null,
    doubt: doubtOf(trial.load)?.word ?? null,
  };
}

export const readSupportPage = readMatrix;
export type SupportPage = Awaited<ReturnType<typeof readMatrix>>;

/** Decode trials, newest first, and the clips that may be tried. */
export async function readDecodePage() {
  const rigId = await currentRigId();
  return { trials: await listDecodeTrials(rigId, ['rate', 'streams']) };
}
export type DecodePage = Awaited<ReturnType<typeof readDecodePage>>;

export async function readDecodeTrialPage(id: string) {
  return { trial: await requireDecodeTrial(id) };
}
export type DecodeTrialPage = Awaited<ReturnType<typeof readDecodeTrialPage>>;
