import { storageKinds, type StorageKind } from '@/core/kinds/kinds';
import { windowRates, windowUs } from '@/core/storage/throughput';
import { filterBlocks } from '@/core/storage/blocks';
import { noDecoder } from '@/core/media/identity';
import { getClip, listClips, listClipsOfVolume, type ClipRow, type ClipWithVolume } from '@/db/queries/clips';
import { latestThroughput, listTrials } from '@/db/queries/trials';
import type { VolumeRow } from '@/db/queries/volumes';
import type { NewTrial } from '@/db/kinds';
import { loadBlocks } from '../trials/blocks';
import { openingOfVolume } from './openings';
import { RequestError } from '../platform/errors';
import { requireVolume, volumesOfRig } from './library';
import { currentRigId } from '../platform/rig';
import type { StorageSettings, StorageSubject } from '@/core/kinds/shared/storage';
import { requireTrial } from '../platform/trialQueue';
import { greatest, least } from '@/core/stats/extremes';

/** Whether a clip's packets can be read: it plays, or nothing but a decoder for it is missing here. */
const servesStorage = ({
  status,
  setup,
  identity,
  frames,
}: Pick<ClipRow, 'status' | 'setup' | 'identity' | 'frames'>) =>
  status === 'ready' ||
  (status === 'unplayable' && setup !== null && frames !== null && identity?.decodeProblem === noDecoder);

export async function clipOf(id: string, volume: VolumeRow | null): Promise<ClipWithVolume> {
  const clip = await getClip(id);
  if (!clip || (volume && clip.volumeId !== volume.id))
    throw new RequestError('clip-not-on-volume', {}, 'clipId');
  if (!clip.format || !servesStorage(clip))
    throw clip.problem === null
      ? new RequestError('clip-not-read', {}, 'clipId')
      : new RequestError('clip-has-problem', { problem: clip.problem }, 'clipId');
  return clip;
}

/** A storage trial that is to be made. */
export function storageTrial(
  volume: VolumeRow,
  settings: StorageSettings,
  clip: ClipWithVolume | null,
): NewTrial<StorageKind> {
  const subject: StorageSubject = {
    volumeId: volume.id,
    volumeName: volume.name,
    volumeKind: volume.kind,
    volumePath: volume.path,
    volumeFacts: volume.facts,
    link: volume.link,
    standIn: volume.standIn,
    cacheBytes: volume.cacheBytes,
    clip: clip?.format
      ? {
          path: clip.path,
          format: clip.format,
          meanBitsPerSecond: clip.meanBitsPerSecond ?? 0,
          peakBitsPerSecond: clip.peakBitsPerSecond ?? 0,
        }
      : null,
  };
  const targets = settings.kind === 'copy' ? settings.destinations : [];
  return {
    kind: settings.kind,
    volumeIds: [...new Set([volume.id, ...targets.map(({ volumeId }) => volumeId)])],
    subject,
    settings,
    simulated: volume.standIn !== null || targets.some(({ simulated }) => simulated),
    demo: volume.demo,
  } as NewTrial<StorageKind>;
}

/** Rates of one direction of one repeat, window by window. */
export interface RateSeries {
  readonly repeat: number;
  readonly write: boolean;
  /** ms from the trial's first request. */
  readonly beganMs: number;
  /** Bytes per second in consecutive windows. */
  readonly rates: readonly number[];
}

/** Most repeats or steps whose curve a page draws. */
const mostSeries = 20;

/** What a trial's page draws: its windows, and the repeats one by one. */
export async function seriesOf(id: string): Promise<{ windowMs: number; series: RateSeries[] }> {
  await requireTrial(id, storageKinds);
  const blocks = await loadBlocks(id);
  const repeats = Math.min(mostSeries, greatest(blocks.repeat, -1) + 1);
  const series = Array.from({ length: repeats }, (_, repeat) =>
    [false, true].map((write) => {
      const part = filterBlocks(
        blocks,
        (row) =>
          blocks.repeat[row] === repeat && blocks.write[row] === (write ? 1 : 0) && blocks.skipped[row] === 0,
      );
      return {
        repeat,
        write,
        beganMs: least(part.startUs) / 1000,
        rates: [...windowRates(part)],
      };
    }),
  )
    .flat()
    .filter(({ rates }) => rates.length > 0);
  return { windowMs: windowUs / 1000, series };
}

/** What a volume's page shows: its notes, the trials made on it, and its clips. */
export async function readVolumePage(id: string) {
  const volume = await requireVolume(id);
  const [trials, clips, opening] = await Promise.all([
    listTrials({ kinds: ['throughput'], statuses: ['done'], volumeId: id }),
    listClipsOfVolume(id),
    openingOfVolume(id),
  ]);
  return {
    volume,
    trials,
    opening,
    clips: clips.filter(servesStorage).map(({ setup: _setup, ...clip }) => clip),
  };
}
export type VolumePage = Awaited<ReturnType<typeof readVolumePage>>;

/** Volumes with their newest measurement of each test. */
export async function readStoragePage() {
  const [volumes, latest] = await Promise.all([volumesOfRig(), latestThroughput(await currentRigId())]);
  return { volumes, latest };
}
export type StoragePage = Awaited<ReturnType<typeof readStoragePage>>;

/** Volumes with their newest measurement of each test, and the clips: what the ladder stands on. */
export async function readLadder() {
  const [page, clips] = await Promise.all([readStoragePage(), listClips(await currentRigId())]);
  return {
    ...page,
    clips: clips
      .filter(({ status }) => status === 'ready')
      .map(({ id, path, contentHash, format, meanBitsPerSecond, peakBitsPerSecond }) => ({
        id,
        path,
        contentHash,
        format,
        meanBitsPerSecond,
        peakBitsPerSecond,
      })),
  };
}

/** Newest copies that a day's times are taken from. */
const mostCopied = 50;

export async function readCopiesPage() {
  const rigId = await currentRigId();
  const [page, copied] = await Promise.all([
    readStoragePage(),
    listTrials({ rigId, kinds: ['copy'], statuses: ['done'] }, mostCopied),
  ]);
  return { ...page, copied };
}
export type CopiesPage = Awaited<ReturnType<typeof readCopiesPage>>;
