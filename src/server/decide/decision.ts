import { cureSentence } from '@/core/sentences/playback';
import { slotTimecode } from '@/core/timeline/subject';
import { doubtOf } from '@/core/rig/doubt';
import type { Brief } from '@/core/choose/brief';
import {
  camerasWithProxy,
  judgeCell,
  type CellRun,
  type FormatRow,
  type Judgement,
  type KnownRate,
} from '@/core/choose/judge';
import { rankSetUps, type PlaceFacts, type ProxySpeeds, type SetUp } from '@/core/choose/setups';
import { groupBy } from '@/core/groups';
import { formatClass, formatLabel } from '@/core/media/format';
import { plainName } from '@/core/simulated';
import { arrayFigures } from '@/core/storage/array';
import { toNumber } from '@/core/time/rational';
import { together } from '@/core/together';
import {
  madeRenditions,
  openCellsOf,
  playbackEvidence,
  playbackFailures,
  type BriefRow,
  type EvidenceRow,
} from '@/db/queries/briefs';
import { listClips, type ClipWithVolume } from '@/db/queries/clips';
import { getRig, listRigs, type RigRow } from '@/db/queries/rigs';
import { finishedRates, latestThroughput } from '@/db/queries/trials';
import { clipTimelinePrefix } from '@/db/queries/timelines';
import { listVolumes, type VolumeRow } from '@/db/queries/volumes';
import type { TrialListRow } from '@/db/kinds';
import { rankOf } from '../library/footage';
import { originalFirst } from '@/core/media/footage';
import { currentRigId } from '../platform/rig';
import { decodeRate } from '../timelines/timelineForecast';
import { sustainedRate } from '../library/volumeRates';
import type { PlayedSubject } from '@/core/kinds/shared/played';
import { least } from '@/core/stats/extremes';
import { choiceSentence } from '@/core/sentences/choose';
import { usualCurrency } from '@/core/format';

/** A row of the map with the clips that hold it, one for each volume. */
export interface MapRow extends FormatRow {
  readonly clips: readonly ClipWithVolume[];
  readonly formatLabel: string;
}

/** A column of the map. */
export interface MapPlace {
  readonly rigId: string;
  readonly rigName: string;
  /** Results came in as a bundle; `simulated` ones were computed. */
  readonly imported: RigRow['imported'];
  readonly volumeId: string;
  readonly name: string;
  readonly kind: VolumeRow['kind'];
  readonly simulated: boolean;
  readonly price: number | null;
  /** Where its rate comes from. */
  readonly rate: KnownRate | null;
}

export interface MapCell {
  readonly rowId: string;
  readonly rigId: string;
  readonly volumeId: string;
  readonly judgement: Judgement;
  /** Trials behind it, newest first. */
  readonly runs: readonly CellRun[];
  readonly decodeTrialId: string | null;
  readonly volumeTrialId: string | null;
  /** A run that is to fill it, by its plan. */
  readonly underWay: string | null;
  /** The newest run, where it failed. */
  readonly failed: { readonly trialId: string; readonly outcome: string } | null;
  /** Why it cannot be measured here; null where it can. */
  readonly cannot: string | null;
}

/** All that a brief's page shows of its answer. */
export interface Decision {
  readonly sentence: string;
  readonly rows: readonly Omit<MapRow, 'clips'>[];
  readonly places: readonly MapPlace[];
  readonly cells: readonly MapCell[];
  readonly setUps: readonly SetUp[];
  /** Cameras of which the library has no proxy, with a clip on this rig to make one of. */
  readonly withoutProxy: readonly { readonly name: string; readonly clipId: string }[];
  readonly cardBytesPerSecond: number | null;
}

/** The timeline that stands for several streams or grades of a content; the same on every rig. */
export function loadTimelineId(contentHash: string, streams: number, looks: number): string {
  return `${clipTimelinePrefix}load-${contentHash.slice(0, 16)}-${streams}-${looks}`;
}

/** Rows of a brief's map: each camera's original and the proxies that the library has of it. */
export async function rowsOf(brief: Brief): Promise<MapRow[]> {
  const library = (await listClips(await currentRigId())).filter(
    (clip) => clip.status === 'ready' && clip.format && clip.contentHash !== null,
  );
  return brief.cameras.flatMap((camera): MapRow[] => {
    const named = library.filter(({ contentHash }) => contentHash === camera.contentHash);
    const footage = new Set(named.flatMap(({ footageId }) => footageId ?? []));
    const frames = named[0]?.frames ?? null;
    const others = library.filter(
      (clip) =>
        clip.footageId !== null &&
        footage.has(clip.footageId) &&
        clip.contentHash !== camera.contentHash &&
        Math.abs((clip.frames ?? 0) - (frames ?? 0)) <= 1,
    );
    const own: MapRow = {
      id: camera.contentHash,
      cameraId: camera.id,
      role: 'original',
      name: camera.name,
      format: camera.format,
      formatLabel: formatLabel(camera.format),
      meanBitsPerSecond: camera.meanBitsPerSecond,
      peakBitsPerSecond: camera.peakBitsPerSecond,
      clips: named,
    };
    const hashes = [
      ...new Set(
        others
          .toSorted((a, b) => originalFirst(rankOf(a), rankOf(b)))
          .map(({ contentHash }) => contentHash as string),
      ),
    ];
    return [
      own,
      ...hashes.map((hash, at): MapRow => {
        const clips = others.filter(({ contentHash }) => contentHash === hash);
        const { format, meanBitsPerSecond, peakBitsPerSecond } = clips[0] as ClipWithVolume;
        const stands = format as NonNullable<typeof format>;
        return {
          id: hash,
          cameraId: camera.id,
          role: 'proxy',
          name: `${camera.name} proxy${hashes.length > 1 ? ` ${at + 1}` : ''}`,
          format: stands,
          formatLabel: formatLabel(stands),
          meanBitsPerSecond: meanBitsPerSecond ?? 0,
          peakBitsPerSecond: peakBitsPerSecond ?? 0,
          clips,
        };
      }),
    ];
  });
}

/** What a trial played, as cells name it: content, volume, streams and grades, speed; null for what is no cell. */
function cellKey(subject: PlayedSubject, clipVolumeId: string | null): string | null {
  if (!subject.timeline) return `${subject.contentHash}|${subject.volumeId ?? clipVolumeId}`;
  const volumes = new Set(Object.values(subject.timeline.media).map(({ volumeId }) => volumeId));
  return volumes.size === 1
    ? `${subject.timeline.id}@${subject.timeline.course.speed}|${[...volumes][0]}`
    : null;
}

/** How the rows of a brief's map are found among what was measured. */
function namingOf({ streams, looks, speed }: Brief) {
  const isPlain = streams === 1 && looks === 0 && speed === 1;
  const loadOf = (row: FormatRow) => loadTimelineId(row.id, streams, looks);
  return {
    /** Contents and loads that runs of the rows played. */
    subjectsOf: (rows: readonly FormatRow[]) =>
      [rows.map(({ id }) => id), isPlain ? [] : rows.map(loadOf)] as const,
    keyOf: (row: FormatRow) => (isPlain ? row.id : `${loadOf(row)}@${speed}`),
  };
}

/** All that was measured on a brief's rigs. */
async function readMeasured(id: string, brief: Brief, rows: readonly MapRow[]) {
  const here = await currentRigId();
  const rigIds = [...new Set(brief.places.map(({ rigId }) => rigId))];
  const subjects = namingOf(brief).subjectsOf(rows);
  const read = await together({
    own: getRig(here),
    rigs: listRigs(),
    evidence: playbackEvidence(rigIds, ...subjects),
    failures: playbackFailures(rigIds, ...subjects),
    open: openCellsOf(`brief:${id}`),
    made: madeRenditions(rigIds),
    perRig: Promise.all(
      rigIds.map(async (rigId) => ({
        rigId,
        volumes: await listVolumes(rigId),
        throughput: await latestThroughput(rigId),
        rates: await finishedRates(rigId),
      })),
    ),
  });
  return {
    ...read,
    here,
    rigIds,
    currency: read.own?.currency ?? usualCurrency,
    byRig: new Map(read.perRig.map((one) => [one.rigId, one])),
    ended: byCell(read.evidence, brief),
    failed: byCell(read.failures, brief),
    /** Plans under way by the cell that they are to fill. */
    waiting: new Map(
      read.open.flatMap(({ template, planId }) => {
        const key = template.kind === 'playback' ? cellKey(template.subject, null) : null;
        return key === null ? [] : [[key, planId] as const];
      }),
    ),
  };
}
type Measured = Awaited<ReturnType<typeof readMeasured>>;

/** A column of the map, with its rig and its volume. */
interface Column {
  readonly place: Brief['places'][number];
  readonly rig: RigRow;
  readonly volume: VolumeRow;
  readonly rate: ReturnType<typeof sustainedRate>;
}

/** A cell of the map, judged by what was measured. */
function cellOf(
  row: MapRow,
  { place, rig, volume, rate }: Column,
  brief: Brief,
  measured: Measured,
): MapCell {
  const { here, byRig, evidence, ended, failed, waiting } = measured;
  const { rigId, volumeId } = place;
  const key = namingOf(brief).keyOf(row);
  const cell = `${rigId}|${key}|${volumeId}`;
  const endedHere = ended.get(cell) ?? [];
  const runs = endedHere.flatMap(judgedRun);
  const decode = decodeRate({ contentHash: row.id, format: row.format }, byRig.get(rigId)?.rates ?? []);
  const lies = row.clips.some((clip) => clip.volumeId === volumeId);
  return {
    rowId: row.id,
    rigId,
    volumeId,
    judgement: judgeCell(row, brief, {
      runs,
      volume: rate,
      decode: decode && { value: decode.framesPerSecond, from: 'measured', trialId: decode.trialId },
      processMs: processMs(evidence, rigId, row.id, brief),
    }),
    runs,
    decodeTrialId: decode?.trialId ?? null,
    volumeTrialId: rate?.trialId ?? null,
    failed: openFailure(failed.get(cell) ?? [], endedHere),
    underWay: rigId === here ? (waiting.get(`${key}|${volumeId}`) ?? null) : null,
    cannot:
      rigId !== here
        ? `It can be measured only on ${rig.name}.`
        : lies
          ? null
          : `${row.name} does not lie on ${volume.name}. Copy its clip there and scan the volume.`,
  };
}

/** A place as the map shows it, with its cells and what set-ups on it rest on. Null where its rig or volume is gone. */
function placeOf(
  place: Brief['places'][number],
  rows: readonly MapRow[],
  brief: Brief,
  measured: Measured,
): { shown: MapPlace; cells: readonly MapCell[]; facts: PlaceFacts } | null {
  const { rigs, rigIds, byRig, currency } = measured;
  const rig = rigs.find((one) => one.id === place.rigId);
  const { volumes = [], throughput = [] } = byRig.get(place.rigId) ?? {};
  const volume = volumes.find((one) => one.id === place.volumeId);
  if (!rig || !volume) return null;
  const rate = sustainedRate(volume.id, volume.standIn, throughput, 'read', brief.streams);
  const rigName = plainName(rig.name, rig.imported?.simulated ?? false);
  const cells = rows.map((row) => cellOf(row, { place, rig, volume, rate }, brief, measured));
  return {
    cells,
    shown: {
      rigId: rig.id,
      rigName,
      imported: rig.imported,
      volumeId: volume.id,
      name: volume.name,
      kind: volume.kind,
      simulated: volume.standIn !== null,
      price: place.price,
      rate,
    },
    facts: {
      place,
      name: rigIds.length > 1 ? `${volume.name} at ${rigName}` : volume.name,
      modelled: rig.imported?.simulated ?? false,
      freeBytes: freeBytes(volume),
      currency,
      writeBytesPerSecond: sustainedRate(volume.id, volume.standIn, throughput, 'write')?.value ?? null,
      cells: new Map(cells.map(({ rowId, judgement }) => [rowId, judgement])),
    },
  };
}

/** Works out a brief's map and its set-ups from all that is known of its rigs. */
export async function decisionOf({
  id,
  document: brief,
}: Pick<BriefRow, 'id' | 'document'>): Promise<Decision> {
  const rows = await rowsOf(brief);
  const measured = await readMeasured(id, brief, rows);
  const { here, made, byRig, perRig } = measured;
  const places = brief.places.flatMap((place) => placeOf(place, rows, brief, measured) ?? []);
  const cells = places.flatMap((place) => place.cells);
  const cards = brief.cardBytesPerSecond ?? slowestCard(byRig.get(here) ?? perRig[0]);
  const speedsOn = ({ rigId }: Brief['places'][number]) =>
    proxySpeeds(
      brief,
      made.filter((batch) => batch.rigId === rigId),
    );
  const setUps = rankSetUps(
    brief,
    rows,
    places.map(({ facts }) => facts),
    speedsOn,
    cards,
  );
  const unknown = cells.filter(({ judgement }) => judgement.basis === 'unknown').length;
  return {
    sentence: choiceSentence(brief, setUps, unknown),
    rows: rows.map(({ clips: _clips, ...row }) => row),
    places: places.map(({ shown }) => shown),
    cells,
    setUps,
    withoutProxy: withoutProxy(rows),
    cardBytesPerSecond: cards,
  };
}

function withoutProxy(rows: readonly MapRow[]): Decision['withoutProxy'] {
  const having = camerasWithProxy(rows);
  return rows.flatMap(({ cameraId, name, clips: [clip] }) =>
    clip && !having.has(cameraId) ? [{ name, clipId: clip.id }] : [],
  );
}

/** Runs at the brief's scale by the cell they are of: rig, content or load, and volume. Those of no cell are left out. */
function byCell<Run extends Pick<EvidenceRow, 'rigId' | 'subject' | 'settings' | 'clipVolumeId'>>(
  runs: readonly Run[],
  { scale }: Brief,
): ReadonlyMap<string | null, readonly Run[]> {
  return groupBy(
    runs.filter(({ settings }) => settings.scale === scale),
    ({ rigId, subject, clipVolumeId }) => {
      const key = cellKey(subject, clipVolumeId);
      return key === null ? null : `${rigId}|${key}`;
    },
  );
}

/** A run as a cell is judged by it; nothing for one that was not graded. */
function judgedRun({ id, load, summary, subject }: EvidenceRow): CellRun[] {
  if (!summary?.grade) return [];
  const placeOf = slotTimecode(subject);
  return [
    {
      trialId: id,
      grade: summary.grade,
      dropped: summary.dropped,
      slots: summary.slots,
      cures: summary.cures.map((cure) => cureSentence(cure, placeOf)),
      doubt: doubtOf(load)?.word ?? null,
      slowestMs: slowestStage(summary.meanServiceMs ?? summary.serviceMs),
    },
  ];
}

/** A cell's newest failure, where no finished run has followed it. @param failures of the cell, newest first */
function openFailure(
  [failure]: readonly Awaited<ReturnType<typeof playbackFailures>>[number][],
  ended: readonly EvidenceRow[],
): MapCell['failed'] {
  if (!failure || ended.some(({ createdAt }) => createdAt > failure.createdAt)) return null;
  return { trialId: failure.id, outcome: failure.outcome ?? 'It left no result.' };
}

const slowestStage = ({
  read,
  decode,
  process,
}: {
  readonly read: number;
  readonly decode: number;
  readonly process: number;
}) => Math.max(read, decode, process);

/** Time of the process stage for a content at the brief's scale, as measured in the newest run on any volume of the rig, ms. */
function processMs(
  evidence: readonly EvidenceRow[],
  rigId: string,
  contentHash: string,
  { scale }: Brief,
): number | null {
  const found = evidence.find(
    (row) =>
      row.rigId === rigId &&
      !row.subject.timeline &&
      row.subject.contentHash === contentHash &&
      row.scaleCosts,
  );
  return found?.scaleCosts ? found.scaleCosts[scale] / 1000 : null;
}

/** What is free on a volume; all of a modelled one. */
function freeBytes({ standIn, facts }: VolumeRow): number | null {
  if (standIn) return arrayFigures(standIn, standIn.drive).usableBytes;
  return facts.sizeBytes > 0 ? facts.freeBytes : null;
}

function slowestCard(
  known:
    | { readonly volumes: readonly VolumeRow[]; readonly throughput: readonly TrialListRow<'throughput'>[] }
    | undefined,
): number | null {
  const rates = (known?.volumes ?? [])
    .filter(({ kind }) => kind === 'card')
    .flatMap(
      (volume) => sustainedRate(volume.id, volume.standIn, known?.throughput ?? [], 'read')?.value ?? [],
    );
  return rates.length > 0 ? least(rates) : null;
}

/** How many times real time proxies of each camera were made, from the newest batch of its content, or of its format class. Clips made side by side count together. */
function proxySpeeds(brief: Brief, made: Awaited<ReturnType<typeof madeRenditions>>): ProxySpeeds {
  return new Map(
    brief.cameras.flatMap((camera): [string, number][] => {
      const found =
        made.find(({ sourceHash, work }) => work && sourceHash === camera.contentHash) ??
        made.find(
          ({ sourceFormat, work }) => work && formatClass(sourceFormat) === formatClass(camera.format),
        );
      if (!found?.work || found.work.wallUs <= 0) return [];
      const lanes = found.settings.lanes ?? found.lanes?.chosen ?? 1;
      return [
        [camera.id, (found.work.frames / toNumber(camera.format.rate) / (found.work.wallUs / 1e6)) * lanes],
      ];
    }),
  );
}
