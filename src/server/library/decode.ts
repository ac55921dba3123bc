import {
  isSimulatedDecoding,
  isSoftwareAlone,
  softwareId,
  type Decoding,
  type DeviceUse,
  type FrameWay,
} from '@/core/decode/decoding';
import { decodeKinds, type DecodeKind } from '@/core/kinds/kinds';
import { formatClass } from '@/core/media/format';
import { doubtOf } from '@/core/rig/doubt';
import { getClips, listClips, type ClipWithVolume } from '@/db/queries/clips';
import { countTrials, finishedRates, listTrials } from '@/db/queries/trials';
import { getRig } from '@/db/queries/rigs';
import type { NewTrial, TrialListRow } from '@/db/kinds';
import { RequestError } from '../platform/errors';
import { sendJob } from '../platform/queue';
import { currentRigId } from '../platform/rig';
import type { DeviceReport } from '@/core/decode/device';
import { standInReports } from '@/core/tasks/encodeDevices';
import type { DecodeSettings } from '@/core/kinds/shared/decode';
import { queueTrials } from '../platform/trialQueue';

export async function playable(ids: readonly string[]): Promise<ClipWithVolume[]> {
  const found = await getClips(ids);
  const ordered = ids.map((id) => found.find((clip) => clip.id === id));
  return ordered.map((clip) => {
    if (!clip) throw new RequestError('some-clips-gone', {}, 'clipIds');
    if (clip.status !== 'ready' || !clip.format)
      throw new RequestError('clip-unread', { path: clip.path, problem: clip.problem }, 'clipIds');
    return clip;
  });
}

/** A decode trial that is to be made; null when the clip was not read fully. */
export function decodeTrial(
  clip: ClipWithVolume,
  settings: DecodeSettings,
  device: DeviceReport | null,
): NewTrial<DecodeKind> | null {
  const { format, structure } = clip;
  if (!format || !structure) return null;
  return {
    kind: settings.kind,
    clipId: clip.id,
    volumeIds: [clip.volumeId],
    simulated:
      (device?.simulated ?? false) || ('decoding' in settings && isSimulatedDecoding(settings.decoding)),
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
  } as NewTrial<DecodeKind>;
}

export async function queueAll(
  wanted: readonly {
    readonly clip: ClipWithVolume;
    readonly settings: DecodeSettings;
    readonly device: DeviceReport | null;
  }[],
): Promise<string[]> {
  return queueTrials(
    wanted.flatMap(({ clip, settings, device }) => decodeTrial(clip, settings, device) ?? []),
  );
}

export async function devicesOfRig(): Promise<readonly DeviceReport[]> {
  return (await getRig(await currentRigId()))?.devices ?? [];
}

/** Devices that a run may be decoded by, as forms offer them. */
export async function usableDevices(): Promise<
  { readonly id: string; readonly name: string; readonly simulated: boolean }[]
> {
  return (await devicesOfRig())
    .filter(({ usable }) => usable)
    .map(({ id, name, simulated }) => ({ id, name, simulated }));
}

/**
 * What a run is to be decoded by, with the devices as they are now; nothing where it is software alone.
 * @throws RequestError when a device cannot be used here, or is named twice
 */
export async function decodingOf(
  decodeOn: readonly {
    readonly deviceId: string;
    readonly share: number;
    readonly frames?: FrameWay | undefined;
  }[],
): Promise<{ readonly decoding?: Decoding }> {
  const devices = decodeOn.length > 0 ? await devicesOfRig() : [];
  const decoding = decodeOn.map(({ deviceId, share, frames }): DeviceUse => {
    if (decodeOn.filter((other) => other.deviceId === deviceId).length > 1)
      throw new RequestError('decode-device-twice', {}, 'decodeOn');
    if (deviceId === softwareId) return { deviceId, name: 'software', simulated: false, share };
    const device = devices.find(({ id, usable }) => usable && id === deviceId);
    if (!device) throw new RequestError('decode-device-unusable', {}, 'decodeOn');
    const { name, simulated } = device;
    return { deviceId, name, simulated, share, ...(frames === 'scaled' ? { frames } : {}) };
  });
  return isSoftwareAlone(decoding) ? {} : { decoding };
}

/** Devices that encode something: those of the rig that were tried out, and the stand-ins. */
export async function encodeDevicesOfRig(): Promise<readonly DeviceReport[]> {
  const real = (await devicesOfRig()).filter(({ simulated }) => !simulated);
  return [...real, ...standInReports()].filter(({ encodes = [] }) => encodes.length > 0);
}

/** Asks the runner to try the decode devices out again. */
export async function lookAtDevices(): Promise<void> {
  await sendJob(await currentRigId(), { kind: 'devices' });
}

/** Formats by devices: the newest verdict of each, and what is under way. */
export async function readSupportPage() {
  const rigId = await currentRigId();
  const [clips, trials, devices] = await Promise.all([
    listClips(rigId),
    listTrials({ rigId, kinds: ['decode-support'] }, 2_000),
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
        const of = trials.filter(
          ({ subject, settings }) => formatClass(subject.format) === name && settings.deviceId === id,
        );
        return {
          deviceId: id,
          trial: cellOf(of.find(({ status, summary }) => status === 'done' && summary !== null)),
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

function cellOf(trial: TrialListRow<'decode-support'> | undefined) {
  if (!trial?.summary) return null;
  const { verdict, parts, check, onDevice } = trial.summary;
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

export type SupportPage = Awaited<ReturnType<typeof readSupportPage>>;

/** Finished decode rates, newest first, and how many decode trials are to come. */
export async function readDecodePage() {
  const rigId = await currentRigId();
  const [rates, waiting] = await Promise.all([
    finishedRates(rigId),
    countTrials({ rigId, kinds: decodeKinds, statuses: ['queued', 'running'] }),
  ]);
  return { rates, waiting };
}
export type DecodePage = Awaited<ReturnType<typeof readDecodePage>>;
