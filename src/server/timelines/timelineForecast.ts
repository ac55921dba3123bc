import { together } from '@/core/together';
import { fixed, quantity } from '@/core/format';
import type { InferType } from '@/core/edge/strict';
import { decodingWords, type Decoding } from '@/core/decode/decoding';
import { isDeepFormat } from '@/core/playback/depth';
import { formatClass, formatLabel } from '@/core/media/format';
import { decodePacketTable } from '@/core/media/packetTable';
import { defaultBufferDepths } from '@/core/playback/slots';
import { planCourse } from '@/core/timeline/course';
import type { Course } from '@/core/timeline/flatten';
import { forecastTimeline, type TimelineForecast } from '@/core/timeline/forecast';
import { lengthOf } from '@/core/timeline/model';
import { finishedRates, latestThroughput, listTrials } from '@/db/queries/trials';
import type { MediaUse } from '@/core/timeline/subject';
import { decodingOf } from '../library/decode';
import { currentRigId } from '../platform/rig';
import { specFor } from './timelineMedia';
import { courseOf, readingOf } from './trialSubjects';
import { requireTimeline } from './timelines';
import { runsOfTimeline } from './playedTrials';
import { sustainedRate } from '../library/volumeRates';
import type { timelinePlaybackInput } from '@/core/kinds/playback';
import { greatest } from '@/core/stats/extremes';

/** A forecast, what it rests on, and what a measured run of the same gave; or what is still to be measured. */
export interface ForecastAnswer {
  readonly forecast: TimelineForecast | null;
  readonly restsOn: readonly string[];
  readonly missing: readonly { readonly what: string; readonly href: string }[];
  /** The newest run of this version under the same settings. */
  readonly twin: { readonly id: string; readonly dropped: number; readonly slots: number } | null;
}

/** Forecasts a run of a timeline from what was measured of this rig. */
export async function forecastOf(
  timelineId: string,
  input: InferType<typeof timelinePlaybackInput>,
): Promise<ForecastAnswer> {
  const rigId = await currentRigId();
  const { document } = await requireTimeline(timelineId);
  const { course, media } = await readingOf(timelineId, document, courseOf(input, lengthOf(document)), input);
  const { spec, rates, throughput, calibrations } = await together({
    spec: specFor(document, media),
    rates: finishedRates(rigId),
    throughput: latestThroughput(rigId),
    calibrations: listTrials({ rigId, kinds: ['calibration'] }),
  });
  const costs = calibrations.find(({ summary }) => summary !== null)?.summary;
  const restsOn: string[] = [];
  const missing: ForecastAnswer['missing'][number][] = [];
  const perVolume = new Map<string, number>();
  const perMedia = new Map<string, number>();
  for (const [id, use] of Object.entries(media)) {
    const rate = decodeRate(use, rates);
    if (rate) {
      perMedia.set(id, rate.framesPerSecond);
      restsOn.push(
        `decoding of ${formatLabel(use.format)}: ${fixed(rate.framesPerSecond, 1)} frames per second, ${rate.from}`,
      );
    } else missing.push({ what: `the decode rate of ${use.path}`, href: `/media/clips/${use.clipId}` });
    if (perVolume.has(use.volumeId)) continue;
    const volume = sustainedRate(use.volumeId, use.standIn, throughput, 'read');
    if (volume) {
      perVolume.set(use.volumeId, volume.value);
      restsOn.push(
        `${use.volumeName}: ${quantity(volume.value / 1e6, 'MB/s', 0)}, ${volume.from === 'model' ? 'by its model' : 'measured'}${use.standIn ? ', simulated' : ''}`,
      );
    } else
      missing.push({ what: `how fast ${use.volumeName} reads`, href: `/storage/volumes/${use.volumeId}` });
  }
  const { decoding } = await decodingOf(input.decodeOn);
  if (decoding)
    missing.push({
      what: `how it plays decoded on ${decodingWords(decoding)}: forecasts are of software, so play and measure it`,
      href: `/trials/plans?question=device-out-device-in&subject=timeline:${timelineId}`,
    });
  const isDeep = (id: string) => {
    const use = media[id];
    return input.depth === 'kept' && use !== undefined && isDeepFormat(use.format);
  };
  const deep = Object.keys(media).some(isDeep);
  if (costs && (costs.deep || !deep))
    restsOn.push(
      `effects: calibration at ${costs.width}x${costs.height}${deep ? ', in 16 bits where a source has more than 8' : ''}`,
    );
  else if (costs)
    missing.push({ what: 'what effects cost in 16 bits on this rig', href: '/timelines/tests' });
  else missing.push({ what: 'what effects cost on this rig', href: '/timelines/tests' });
  const twin = await twinOf(timelineId, input, course, decoding);
  if (missing.length > 0 || !costs) return { forecast: null, restsOn: [...new Set(restsOn)], missing, twin };
  const plan = planCourse(
    spec.timeline,
    course,
    new Map(Object.entries(spec.media).map(([id, { packets }]) => [id, decodePacketTable(packets)])),
  );
  const forecast = forecastTimeline(
    spec.timeline,
    plan,
    {
      costs,
      isDeep,
      framesPerSecond: (id) => perMedia.get(id) ?? Infinity,
      bytesPerSecond: (id) => perVolume.get(media[id]?.volumeId ?? '') ?? Infinity,
    },
    input.scale,
    defaultBufferDepths,
    input.policy,
  );
  return { forecast, restsOn: [...new Set(restsOn)], missing, twin };
}

/** The decode rate on all cores of the same content, or of another clip of the same format. */
export function decodeRate(
  { contentHash, format }: Pick<MediaUse, 'contentHash' | 'format'>,
  rates: Awaited<ReturnType<typeof finishedRates>>,
): { framesPerSecond: number; from: string; trialId: string } | null {
  const rateOf = (trial: (typeof rates)[number] | undefined) =>
    trial?.summary?.all
      ? { framesPerSecond: trial.summary.all.framesPerSecond.median, trialId: trial.id }
      : null;
  const own = rateOf(
    rates.find(({ subject }) => contentHash !== null && subject.contentHash === contentHash),
  );
  if (own !== null) return { ...own, from: 'measured on this clip' };
  const alike = rateOf(
    rates.find(
      ({ subject }) =>
        formatClass(subject.format) === formatClass(format) &&
        subject.format.width === format.width &&
        subject.format.height === format.height,
    ),
  );
  return alike && { ...alike, from: 'measured on another clip of this format' };
}

async function twinOf(
  timelineId: string,
  {
    scale,
    read,
    policy,
    depth,
  }: Pick<InferType<typeof timelinePlaybackInput>, 'scale' | 'read' | 'policy' | 'depth'>,
  course: Course,
  decoding: Decoding | undefined,
): Promise<ForecastAnswer['twin']> {
  const runs = await runsOfTimeline(timelineId);
  const newest = greatest(
    runs.map(({ subject }) => subject.timeline?.version ?? 0),
    0,
  );
  const twin = runs.find(
    ({ subject, settings, status, summary }) =>
      status === 'done' &&
      summary &&
      subject.timeline?.version === newest &&
      subject.timeline.read === read &&
      settings.scale === scale &&
      settings.policy === policy &&
      (settings.depth ?? '8-bit') === depth &&
      decodingWords(settings.decoding) === decodingWords(decoding) &&
      isSame(subject.timeline.course, course),
  );
  return twin?.summary ? { id: twin.id, dropped: twin.summary.dropped, slots: twin.summary.slots } : null;
}

function isSame(a: Course, b: Course): boolean {
  return (
    a.from === b.from &&
    a.slots === b.slots &&
    a.speed === b.speed &&
    JSON.stringify(a.prerendered) === JSON.stringify(b.prerendered) &&
    a.loop?.from === b.loop?.from &&
    a.loop?.to === b.loop?.to
  );
}
