import { decodingWords } from '../../decode/decoding';
import { formatLabel } from '../../media/format';
import type { FrameStructure } from '../../media/frameStructure';
import { carriedBy } from '../../playback/headroom';
import type { RunConditions } from '../../playback/conditions';
import { fieldsWords, showsFields } from '../../playback/fields';
import { losesDepth, workedInWords } from '../../playback/depth';
import { meanwhileWords, type PlaybackSettings, type WorkedIn } from '../../playback/settings';
import { soundOf, soundWords } from '../../playback/sound';
import { answerSentence } from '../../sentences/playback';
import type { PlaybackSummary } from '../../playback/summary';
import {
  formatsOf,
  nameOf,
  scansOf,
  volumesOf,
  type Played,
  type PlayedClip,
  type TimelineSubject,
} from '../../timeline/subject';
import { prerenderedWords } from '../../tasks/prerender';
import { plainName } from '../../simulated';
import { modelLabel } from '../../storage/standInChoice';
import type { VolumeFacts, VolumeKind } from '../../storage/volumeFacts';
import { rateLabel, toNumber } from '../../time/rational';
import type { SlotCount } from '../../timeline/model';
import type { FindingOf, KindFacts, Names, Words } from '../kind';
import type { RigConditions } from './conditions';
import { inPercent, processorMetric, rate, share, time } from './metrics';
import { aside, decodingTold, readTold, scaleTold, threadsTold, underWayTold, workedTold } from './told';

/** The clip that a trial played, kept with the trial so that it stays whole when a clip or volume goes. */
export interface ClipSubject extends PlayedClip {
  /** Absent in trials from before it was kept. */
  readonly volumeId?: string;
  readonly volumeKind: VolumeKind;
  readonly volumeFacts: VolumeFacts;
  readonly contentHash: string | null;
  readonly structure: FrameStructure;
  readonly frames: number;
}

export type PlayedSubject = ClipSubject | TimelineSubject;

export interface PlayedConditions extends RigConditions {
  /** Null until the trial process has prepared itself. */
  readonly run: RunConditions | null;
}

export interface PlayedProgress {
  /** Slots that are to be played. */
  readonly slotCount: SlotCount;
}

/** What a self-check found of its injected faults and of the timer. */
export interface SelfCheckResult {
  readonly trusted: boolean;
  readonly reasons: readonly string[];
  readonly expected: readonly { slot: number; cause: string }[];
  readonly found: readonly { slot: number; cause: string }[];
  readonly jitterMs: {
    readonly p50: number;
    readonly p95: number;
    readonly p99: number;
    readonly max: number;
  };
}

export type PlayedSummary = PlaybackSummary & {
  /** Of a self-check that came to its end. */
  readonly selfCheck?: SelfCheckResult;
};

/** What trials keep that play slots to their deadlines. */
export interface PlayedShape {
  readonly subject: PlayedSubject;
  readonly settings: PlaybackSettings;
  readonly conditions: PlayedConditions;
  readonly progress: PlayedProgress;
  readonly record: never;
  readonly summary: PlayedSummary;
}

const courseWords = ({
  course: { speed, loop, prerendered },
  read,
}: TimelineSubject['timeline']): string[] => [
  speed === 1 ? '' : `${speed}x`,
  loop ? 'looped' : '',
  read === 'proxies' ? 'proxies' : '',
  prerendered ? 'from pre-rendered' : '',
];

/** Scale, and whatever is otherwise than usual. */
const how = ({ subject, settings }: Pick<PlayedShape, 'subject' | 'settings'>): string =>
  [
    `${settings.scale} scale`,
    ...(subject.timeline ? courseWords(subject.timeline) : []),
    settings.warm ? 'warm' : settings.cache === 'through' ? 'through the cache' : '',
    (settings.underWay ?? 1) > 1 ? `${settings.underWay} reads under way` : '',
    settings.policy === 'every-frame' ? 'every frame' : '',
    settings.decoding && settings.decoding.length > 0 ? `decoded on ${decodingWords(settings.decoding)}` : '',
    losesDepth(settings, formatsOf(subject)) ? 'in 8 bits' : '',
    showsFields(settings, scansOf(subject)) ? 'deinterlaced' : '',
    settings.sound === 'off' && soundOf(subject).length > 0 ? 'without sound' : '',
    settings.meanwhile === 'previews' ? 'previews drawn meanwhile' : '',
  ]
    .filter(Boolean)
    .join(', ');

/** Names of what was played or scrubbed. */
export const playedNames = (subject: Played, words: string): Names => ({
  subject: nameOf(subject),
  volumes: volumesOf(subject).names,
  how: words,
});

export const contentWords = (hash: string | null) => hash?.slice(0, 12) ?? 'not hashed';

/** What was played or scrubbed, as conditions. @param worked absent where no picture is worked on */
export function playedUnder(subject: Played, worked?: WorkedIn): Words {
  const { names, simulated } = volumesOf(subject);
  const { timeline } = subject;
  const models = timeline
    ? Object.values(timeline.media).map(({ standIn }) => standIn)
    : [subject.standIn ?? null];
  const fields = worked ? fieldsWords(worked, scansOf(subject)) : null;
  const shown = {
    Content: nameOf(subject),
    Volume: plainName(names.join(', '), simulated),
    Format: [
      ...new Set(formatsOf(subject).map((format) => `${formatLabel(format)}, ${rateLabel(format.rate)}`)),
    ].join('; '),
    'Volume model':
      [...new Set(models.flatMap((model) => (model ? [modelLabel(model)] : [])))].join('; ') || 'none',
    ...(worked ? { 'Processed in': workedInWords(worked, formatsOf(subject)) } : {}),
    ...(fields === null ? {} : { Fields: fields }),
  };
  if (!timeline) return shown;
  const roles = new Set(
    Object.values(timeline.media).flatMap(({ role }) => (role === 'pre-render' ? [] : [role])),
  );
  return {
    ...shown,
    Form: roles.has('rendition') ? (roles.size > 1 ? 'originals and proxies' : 'proxies') : 'originals',
    'Timeline version': `${timeline.version}`,
    Course: `from ${timeline.course.from}, ${timeline.course.slots} slots, ${timeline.course.speed}x${timeline.course.loop ? ', looped' : ''}`,
    'From pre-rendered': prerenderedWords(timeline.course),
    'Left out': timeline.missing.join(', ') || 'nothing',
  };
}

export const playedAnswer = ({ summary, rate }: FindingOf<PlayedShape>) =>
  answerSentence(summary, rate === null ? 0 : toNumber(rate));

/** What is alike of all kinds that play to deadlines. Times of stages are per second of media, so that clips of different length and rate compare. */
export const playedFacts: Omit<KindFacts<PlayedShape>, 'name'> = {
  page: '/trials',
  names: (trial) => playedNames(trial.subject, how(trial)),
  told: {
    scale: scaleTold,
    policy: (policy) => ({ 'Late frames': policy === 'hold-time' ? 'hold time' : 'every frame' }),
    threads: threadsTold,
    warm: readTold,
    cache: aside('told with the system’s cache'),
    underWay: underWayTold,
    ...workedTold,
    processing: (isOn) => ({ Processing: isOn ? 'on' : 'off' }),
    buffers: ({ readAhead, decoded, ready }) => ({
      Buffers: `${readAhead} read, ${decoded} decoded, ${ready} ready`,
    }),
    slotLimit: (slots) => ({ 'Played slots': slots === null ? 'all' : `first ${slots}` }),
    sound: aside('told with what was played, as what it comes to with it'),
    decoding: decodingTold,
    meanwhile: (what) => ({ Meanwhile: meanwhileWords[what ?? 'nothing'] }),
    faults: (faults) => ({
      'Injected faults':
        faults.map(({ stage, slot, slots }) => `${stage} at ${slot} for ${slots}`).join(', ') || 'none',
    }),
  },
  under: ({ settings, subject, conditions }) => ({
    ...playedUnder(subject, settings),
    Sound: soundWords(settings.sound, subject),
    ...(!settings.warm && conditions?.run?.cold.method === 'warm' ? { 'System cache': 'warm' } : {}),
    ...(subject.timeline ? {} : { 'Clip content': contentWords(subject.contentHash) }),
    ...(conditions?.run ? { Decoder: `${conditions.run.decoder}, ${conditions.run.codecLibrary}` } : {}),
  }),
  answer: playedAnswer,
  overheadMs: 2_500,
  metrics: [
    share('dropped', 'Dropped slots', '%'),
    share('soundLate', 'Slots whose sound was late', '%'),
    time('playTime', 'Time to play, per second of media', 's'),
    time('readTime', 'Reading, per second of media', 'ms'),
    time('decodeTime', 'Decoding, per second of media', 'ms'),
    time('processTime', 'Processing, per second of media', 'ms'),
    rate('carried', 'Slowest stage carries', 'slots/s'),
    processorMetric,
    time('startLatency', 'Start latency', 'ms'),
  ],
  values: ({ summary, rate: slots, startLatencyMs, processorShare }) => ({
    // Under "every frame" nothing can drop; the time it took is the result.
    dropped: summary.grade === null ? null : (summary.dropped / Math.max(1, summary.slots)) * 100,
    soundLate: summary.sound ? (summary.sound.underRuns / summary.sound.slots) * 100 : null,
    carried: slots && carriedBy(summary, toNumber(slots))?.slotsPerSecond,
    processor: inPercent(processorShare),
    playTime: summary.timesRealTime ? 1 / summary.timesRealTime : null,
    ...Object.fromEntries(
      (['read', 'decode', 'process'] as const).map((stage) => [
        `${stage}Time`,
        slots && summary.serviceMs[stage] * toNumber(slots),
      ]),
    ),
    startLatency: startLatencyMs,
  }),
};
