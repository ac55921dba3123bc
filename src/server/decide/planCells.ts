import {
  isOneOf,
  kindNames,
  kinds,
  namesOf,
  playedKinds,
  taskKinds,
  type TaskKind,
  type TrialKind,
} from '@/core/kinds/kinds';
import { deviceName } from '@/core/decode/standIns';
import { formatLabel } from '@/core/media/format';
import { expandMatrix, type CellAddress, type MatrixChoice } from '@/core/plan/matrix';
import { defaultBufferDepths } from '@/core/playback/slots';
import { formatsOf, nameOf, volumesOf, type Played } from '@/core/timeline/subject';
import { analysisInput } from '@/core/kinds/analysis';
import { exportInput } from '@/core/kinds/export';
import { openingInput } from '@/core/kinds/opening';
import { prerenderInput } from '@/core/kinds/prerender';
import { intermediateIds } from '@/core/tasks/prerender';
import { builtInGesture } from '@/core/scrub/gesture';
import { deliveries } from '@/core/tasks/exportCodecs';
import { courseLength } from '@/core/timeline/flatten';
import { rational, toNumber, type Rational } from '@/core/time/rational';
import { getClip, getClips, type ClipWithVolume } from '@/db/queries/clips';
import { getTimeline } from '@/db/queries/timelines';
import { getVolume } from '@/db/queries/volumes';
import type { NewTrial, TrialRow } from '@/db/kinds';
import type { CellLabels } from '@/core/plan/plan';
import { decodeTrial, decodingOf } from '../library/decode';
import { RequestError } from '../platform/errors';
import { neededByVolume, neededOf, readAs, type NeededUnderWay } from '../library/readAs';
import { storageTrial } from '../library/storage';
import { formOf } from '../timelines/timelineMedia';
import { subjectFor, timelineTrial } from '../timelines/trialSubjects';
import { timelineOfClip, trialOnTimeline } from '../timelines/timelineTrials';
import { clipTrial } from '../timelines/playedTrials';
import { analysisTrial } from '../kinds/analysis';
import { exportTrial } from '../kinds/export';
import { openingTrial } from '../kinds/opening';
import { prerenderTrial } from '../kinds/prerender';

/** A cell that can be run, as it is kept with its plan. */
export interface ReadyCell {
  readonly address: CellAddress;
  readonly labels: CellLabels;
  readonly template: NewTrial;
  readonly expectedMs: number;
}

/** A cell that cannot be run, with why. */
export interface LeftOut {
  readonly what: string;
  readonly reason: string;
}

/** How all cells of a plan are run. */
export interface CellSettings {
  readonly warm: boolean;
  readonly policy: 'hold-time' | 'every-frame';
  /** Times real time, of timelines. */ readonly speed?: number;
}

/** Lengths of runs that a matrix makes for itself, seconds. */
const rampSeconds = 4;
const mostRampSteps = 6;
const decodePassSeconds = 1;
const decodePasses = 3;
const throughputSeconds = 4;
/** A read test writes a file of so many bytes first, and removes it. */
export const throughputBytes = 256 * 2 ** 20;
const mostStreams = 16;
const scrubGesture = { kind: 'jump-play', seed: 1, speed: 4 } as const;

/** Works out every cell of a matrix: a trial ready to be made, or the reason why there is none. */
export function resolveCells(
  choice: MatrixChoice,
  settings: CellSettings,
): Promise<{ cells: ReadyCell[]; leftOut: LeftOut[] }> {
  // Warm is neither past the cache nor through it cold.
  return resolveAddresses(expandMatrix(settings.warm ? { ...choice, caches: ['past'] } : choice), settings);
}

/** Works out single conditions, each a trial ready to be made or the reason why there is none. */
export async function resolveAddresses(
  addresses: readonly CellAddress[],
  settings: CellSettings,
): Promise<{ cells: ReadyCell[]; leftOut: LeftOut[] }> {
  const cells: ReadyCell[] = [];
  const leftOut: LeftOut[] = [];
  const seen = new Set<string>();
  const how: HowCells = { ...settings, needed: await neededByVolume() };
  for (const address of addresses) {
    try {
      const cell = await resolveCell(address, how);
      // Two forms or volumes may come to the same file.
      const key = JSON.stringify([cell.template.kind, cell.template.settings, nameAndFiles(cell)]);
      if (!seen.has(key)) cells.push(cell);
      seen.add(key);
    } catch (error) {
      if (!(error instanceof RequestError)) throw error;
      leftOut.push({ what: await addressWords(address), reason: error.message });
    }
  }
  return { cells, leftOut };
}

function nameAndFiles({ template, address }: ReadyCell): unknown {
  const { subject, clipId } = template;
  const timeline = 'timeline' in subject ? subject.timeline : undefined;
  return [timeline?.id, timeline?.media, clipId, address.test === 'throughput' ? address.volumeId : null];
}

/** The same with what is looked up once for all cells. */
interface HowCells extends CellSettings {
  readonly needed: NeededUnderWay;
}

async function resolveCell(address: CellAddress, settings: HowCells): Promise<ReadyCell> {
  if (address.test === 'throughput') return throughputCell(address, settings);
  const { subject } = address;
  if (!subject) throw new RequestError('test-needs-clip');
  return subject.kind === 'timeline'
    ? timelineCell(address, subject.id, settings)
    : clipCell(address, await formClip(address, subject.id), settings);
}

/** The file of a clip's footage that a cell reads. @throws RequestError that says why there is none */
async function formClip({ form, volumeId }: CellAddress, clipId: string): Promise<ClipWithVolume> {
  const named = await getClip(clipId);
  if (!named) throw new RequestError('cell-clip-gone');
  if (named.status !== 'ready')
    throw new RequestError('cell-clip-unplayable', {
      problem: named.problem,
    });
  const use = await formOf(named, { read: form ?? 'originals', volumeId });
  if (form === 'proxies' && use?.role !== 'rendition') throw new RequestError('no-proxy');
  if (!use || (volumeId !== null && use.volumeId !== volumeId))
    throw new RequestError(form === 'proxies' ? 'proxy-not-on-volume' : 'not-on-volume');
  const [clip] = await getClips([use.clipId]);
  if (!clip?.format || clip.frames === null) throw new RequestError('cell-clip-unread');
  return clip;
}

/** What no matrix varies. */
const usual = { threads: 0, depth: 'kept', fields: 'woven' } as const;
/** The same of playbacks. */
const usualPlayed = { ...usual, sound: 'on' } as const;

async function clipCell(
  address: CellAddress,
  clip: ClipWithVolume,
  { warm, policy, needed }: HowCells,
): Promise<ReadyCell> {
  const scale = address.scale ?? 'full';
  const decoded = await decodedBy(address);
  const read = await readAs(
    { warm, cache: address.cache ?? 'past', underWay: null },
    [clip.volumeId],
    needed,
  );
  const media = {
    seconds: clip.format && clip.frames !== null ? clip.frames / toNumber(clip.format.rate) : 0,
  };
  switch (address.test) {
    case 'playback': {
      const row = await clipTrial('playback', clip, {
        scale,
        policy,
        warm,
        ...usualPlayed,
        processing: true,
        buffers: defaultBufferDepths,
        slotLimit: null,
        faults: [],
        ...decoded,
        ...read,
      });
      return ready(address, row, row.subject, media.seconds, decoded);
    }
    case 'scrub': {
      const row = await trialOnTimeline(
        await timelineOfClip(clip.id),
        { kind: 'scrub', scale, warm, ...usual, gesture: scrubGesture, ...decoded, ...read },
        { read: 'originals', volumeId: clip.volumeId },
      );
      return ready(
        address,
        row,
        row.subject,
        gestureSeconds(clip.frames ?? 0, clip.format?.rate ?? rational(25)),
        decoded,
      );
    }
    case 'opening':
      return openingCell(address, { clipId: clip.id, volumeId: clip.volumeId }, warm);
    case 'export':
    case 'pre-render':
    case 'analysis':
      return taskCell(address, { clipId: clip.id, volumeId: clip.volumeId }, warm);
    case 'streams-carried': {
      const volume = await getVolume(clip.volumeId);
      if (!volume) throw new RequestError('its-volume-gone');
      const row = storageTrial(
        volume,
        { kind: 'streams-carried', clipId: clip.id, clipPath: clip.path, seconds: rampSeconds, mostStreams },
        clip,
      );
      return ready(address, row, plainSubject(clip), rampSeconds * mostRampSteps);
    }
    case 'decode-rate': {
      const row = decodeTrial(
        clip,
        { kind: 'decode-rate', passSeconds: decodePassSeconds, passes: decodePasses },
        null,
      );
      if (!row) throw new RequestError('cell-clip-unread');
      return ready(address, row, plainSubject(clip), decodePassSeconds * decodePasses * 2);
    }
    case 'throughput':
      throw new RequestError('throughput-of-clip');
    default:
      throw new RequestError('not-in-a-matrix', { test: kindNames[address.test].toLowerCase() });
  }
}

/** Time of media that a task takes before one was measured. */
const taskTimes = 2;
/** What a matrix's analyses do. */
const tracking = { work: 'track', points: 200 } as const;

/** A task on a clip or timeline as matrices have it, written to the volume that is read from: the review copy, the usual intermediate, points followed. */
async function taskCell(
  address: CellAddress,
  from: { readonly volumeId: string; readonly clipId?: string; readonly timelineId?: string },
  warm: boolean,
): Promise<ReadyCell> {
  const asked = {
    ...from,
    // A clip is of the wanted form already.
    read: from.clipId === undefined ? (address.form ?? 'originals') : 'originals',
    targetVolumeId: from.volumeId,
    warm,
  };
  const row = await taskTrial(address.test, asked);
  const { course, rate } = row.subject.timeline;
  return ready(address, row, row.subject, (taskTimes * course.slots) / toNumber(rate));
}

/** Time that a clip's thumbnails and sound peaks take before any were made, s. */
const openingSeconds = 1;

async function openingCell(
  address: CellAddress,
  from: { readonly volumeId: string | null; readonly clipId?: string; readonly timelineId?: string },
  warm: boolean,
): Promise<ReadyCell> {
  const read = from.clipId === undefined ? (address.form ?? 'originals') : 'originals';
  const row = await openingTrial(await openingInput.validate({ ...from, read, warm }));
  return ready(address, row, row.subject, openingSeconds * Object.keys(row.subject.timeline.media).length);
}

async function taskTrial(test: TrialKind, asked: object): Promise<NewTrial<TaskKind>> {
  switch (test) {
    case 'pre-render':
      return prerenderTrial(await prerenderInput.validate({ ...asked, intermediate: intermediateIds[0] }));
    case 'analysis':
      return analysisTrial(await analysisInput.validate({ ...asked, ...tracking }));
    default:
      return exportTrial(await exportInput.validate({ ...deliveries[0]?.choice, ...asked }));
  }
}

const plainSubject = ({
  path,
  volumeName,
  volumeStandIn,
  format,
  startTimecode,
}: ClipWithVolume): Played => ({
  clipPath: path,
  volumeName,
  standIn: volumeStandIn,
  format: format as NonNullable<typeof format>,
  startTimecode,
});

function gestureSeconds(slots: number, rate: Rational): number {
  return (
    (builtInGesture(scrubGesture.kind, slots, rate, scrubGesture.seed, scrubGesture.speed).timesMs.at(-1) ??
      0) / 1000
  );
}

async function timelineCell(
  address: CellAddress,
  timelineId: string,
  { warm, policy, speed = 1, needed }: HowCells,
): Promise<ReadyCell> {
  const timeline = await getTimeline(timelineId);
  if (!timeline) throw new RequestError('cell-timeline-gone');
  const course = speed === 1 ? null : { from: 0, slots: courseLength(timeline.slots, 0, speed), speed };
  const decoded = await decodedBy(address);
  const subject = await subjectFor(timelineId, course, {
    read: address.form ?? 'originals',
    volumeId: address.volumeId,
  });
  const uses = Object.values(subject.timeline.media);
  const elsewhere = uses.filter(({ volumeId }) => address.volumeId !== null && volumeId !== address.volumeId);
  if (elsewhere.length > 0)
    throw new RequestError('media-not-on-volume', {
      elsewhere: elsewhere.length,
      media: uses.length,
      name: elsewhere[0]?.name ?? '',
    });
  if (address.form === 'proxies' && !uses.some(({ role }) => role === 'rendition'))
    throw new RequestError('no-proxies');
  if (address.test === 'opening')
    return openingCell(address, { timelineId, volumeId: address.volumeId }, warm);
  if (isOneOf(taskKinds, address.test))
    return taskCell(address, { timelineId, volumeId: address.volumeId ?? uses[0]?.volumeId ?? '' }, warm);
  const scale = address.scale ?? 'full';
  const read = await readAs(
    { warm, cache: address.cache ?? 'past', underWay: null },
    uses.map(({ volumeId }) => volumeId),
    needed,
  );
  if (address.test === 'scrub') {
    const row = await trialOnTimeline(
      timelineId,
      { kind: 'scrub', scale, warm, ...usual, gesture: scrubGesture, ...decoded, ...read },
      { read: address.form ?? 'originals', volumeId: address.volumeId },
    );
    const seconds = gestureSeconds(subject.timeline.slots, subject.timeline.rate);
    return ready(address, row, subject, seconds, decoded);
  }
  const row = timelineTrial(
    subject,
    { scale, policy, warm, ...usualPlayed, ...decoded, ...read },
    timeline.demo,
  );
  const seconds = subject.timeline.course.slots / toNumber(subject.timeline.rate);
  return ready(address, row, subject, seconds, decoded);
}

async function throughputCell(address: CellAddress, { needed }: HowCells): Promise<ReadyCell> {
  const volume = address.volumeId === null ? null : await getVolume(address.volumeId);
  if (!volume) throw new RequestError('cell-volume-gone');
  if (!volume.facts.writable) throw new RequestError('cell-volume-read-only');
  const row = storageTrial(
    volume,
    {
      kind: 'throughput',
      test: 'sequential-read',
      blockBytes: 4 * 2 ** 20,
      bytes: throughputBytes,
      seconds: throughputSeconds,
      repeats: 1,
      streams: 1,
      clipId: null,
      clipPath: null,
      underWay: neededOf([volume.id], needed),
      ...cacheOf(address),
    },
    null,
  );
  return {
    address,
    template: row,
    expectedMs: throughputSeconds * 2_000 + kinds.throughput.overheadMs,
    labels: {
      what: 'Sequential read',
      volume: volume.name,
      simulated: volume.standIn !== null,
      form: null,
      scale: null,
      format: null,
      ...cacheOf(address),
    },
  };
}

/** How a cell reads, where it is otherwise than past the system's cache. */
const cacheOf = ({ cache }: CellAddress) => (cache === undefined ? {} : { cache });

/** What decodes a cell. @throws RequestError when the device cannot be used here */
const decodedBy = ({ deviceId }: CellAddress) =>
  decodingOf(deviceId === undefined ? [] : [{ deviceId, share: 1 }]);

/** @param decoded absent where a test is decoded by software in any case */
function ready(
  address: CellAddress,
  template: NewTrial,
  subject: Played,
  seconds: number,
  decoded?: Awaited<ReturnType<typeof decodedBy>>,
): ReadyCell {
  const { names, simulated } = volumesOf(subject);
  const [device = { name: 'software', simulated: false }] = decoded?.decoding ?? [];
  return {
    address,
    template,
    expectedMs: seconds * 1000 + kinds[address.test].overheadMs,
    labels: {
      what: nameOf(subject),
      volume: address.test === 'decode-rate' ? null : names.join(', '),
      simulated,
      form: address.form,
      scale: address.scale,
      format: [...new Set(formatsOf(subject).map(formatLabel))].join('; ') || null,
      ...(decoded ? { device: { name: device.name, simulated: device.simulated } } : {}),
      ...cacheOf(address),
    },
  };
}

/** The only cell of a series: a trial made again just as it was. */
export function repeatCell(trial: TrialRow, expectedMs: number): ReadyCell {
  const { kind, clipId, volumeIds, timelineId, subject, settings, simulated, demo } = trial;
  const { progress } = isOneOf(playedKinds, kind) ? trial : { progress: null };
  const scale = 'scale' in settings ? settings.scale : null;
  const names = namesOf(trial);
  const media = 'timeline' in subject && subject.timeline ? Object.values(subject.timeline.media) : [subject];
  const formats = media.flatMap((one) => ('format' in one ? formatLabel(one.format) : []));
  return {
    address: { test: kind, subject: null, volumeId: null, form: null, scale },
    template: {
      kind,
      clipId,
      volumeIds,
      timelineId,
      subject,
      settings,
      progress,
      simulated,
      demo,
    } as NewTrial,
    expectedMs,
    labels: {
      what: names.subject,
      volume: names.volumes.join(', '),
      simulated,
      form: null,
      scale,
      format: [...new Set(formats)].join('; ') || null,
    },
  };
}

async function addressWords({
  test,
  subject,
  volumeId,
  form,
  scale,
  deviceId,
  cache,
}: CellAddress): Promise<string> {
  const what =
    subject?.kind === 'timeline'
      ? (await getTimeline(subject.id))?.name
      : subject
        ? (await getClip(subject.id))?.path.split('/').at(-1)
        : null;
  const volume = volumeId === null ? null : (await getVolume(volumeId))?.name;
  return [
    test,
    what,
    form,
    volume && `from ${volume}`,
    scale && `at ${scale} scale`,
    deviceId !== undefined && `on ${deviceName(deviceId)}`,
    cache !== undefined && 'through the cache',
  ]
    .filter(Boolean)
    .join(', ');
}
