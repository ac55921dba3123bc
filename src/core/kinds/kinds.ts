import type { Metric } from '../compare/compare';
import { analysis, type Analysis } from './analysis';
import { calibration, type Calibration } from './calibration';
import { copy, type Copy } from './copy';
import { decodeRate, type DecodeRate } from './decodeRate';
import { decodeStreams, type DecodeStreams } from './decodeStreams';
import { decodeSupport, type DecodeSupport } from './decodeSupport';
import { exporting, type Export } from './export';
import type { FindingOf, KindFacts, KindShape, Names, Words } from './kind';
import { opening, type Opening } from './opening';
import { playback, type Playback } from './playback';
import { prerender, type Prerender } from './prerender';
import { ramp, type Ramp } from './ramp';
import { renditions, type Renditions } from './renditions';
import { scrub, type Scrub } from './scrub';
import { selfCheck, type SelfCheck } from './selfCheck';
import { soak, type Soak } from './soak';
import { toldWords } from './shared/told';
import { streamsCarried, type StreamsCarried } from './streamsCarried';
import { throughput, type Throughput } from './throughput';
import { verification, type Verification } from './verification';

/** What trials of each kind keep, by the one name that a kind has in the database, in addresses and in code. */
export interface Kinds {
  playback: Playback;
  scrub: Scrub;
  ramp: Ramp;
  calibration: Calibration;
  'decode-rate': DecodeRate;
  'decode-support': DecodeSupport;
  'decode-streams': DecodeStreams;
  throughput: Throughput;
  'streams-carried': StreamsCarried;
  copy: Copy;
  verification: Verification;
  renditions: Renditions;
  export: Export;
  'pre-render': Prerender;
  analysis: Analysis;
  opening: Opening;
  soak: Soak;
  'self-check': SelfCheck;
}
export type TrialKind = keyof Kinds;

/** What is known of each kind: one without a line here does not compile. */
export const kinds: { readonly [Kind in TrialKind]: KindFacts<Kinds[Kind]> } = {
  playback,
  scrub,
  ramp,
  calibration,
  'decode-rate': decodeRate,
  'decode-support': decodeSupport,
  'decode-streams': decodeStreams,
  throughput,
  'streams-carried': streamsCarried,
  copy,
  verification,
  renditions,
  export: exporting,
  'pre-render': prerender,
  analysis,
  opening,
  soak,
  'self-check': selfCheck,
};
export const trialKinds = Object.keys(kinds) as TrialKind[];

/** Kinds that play slots to their deadlines and keep a trace. */
export type PlayedKind = 'playback' | 'self-check';
/** Kinds that try a timeline out otherwise than by playing it through. */
export type TimelineKind = 'scrub' | 'ramp' | 'calibration' | 'opening';
/** Kinds that decode without deadlines. */
export type DecodeKind = 'decode-rate' | 'decode-support' | 'decode-streams';
/** Kinds that make something of a timeline or clip while somebody waits. */
export type TaskKind = 'export' | 'pre-render' | 'analysis';
/** Kinds that measure a volume. */
export type StorageKind = 'throughput' | 'streams-carried' | 'copy' | 'verification';

export const playedKinds = ['playback', 'self-check'] as const satisfies readonly PlayedKind[];
export const timelineKinds = [
  'scrub',
  'ramp',
  'calibration',
  'opening',
] as const satisfies readonly TimelineKind[];
export const decodeKinds = [
  'decode-rate',
  'decode-support',
  'decode-streams',
] as const satisfies readonly DecodeKind[];
export const taskKinds = ['export', 'pre-render', 'analysis'] as const satisfies readonly TaskKind[];
export const storageKinds = [
  'throughput',
  'streams-carried',
  'copy',
  'verification',
] as const satisfies readonly StorageKind[];

/** Kinds that somebody waits for. */
export type WaitKind = TaskKind | 'opening';
export const waitKinds = [...taskKinds, 'opening'] as const satisfies readonly WaitKind[];
/** Kinds whose results stand among the tasks. */
export const taskPageKinds = [...waitKinds, 'soak'] as const satisfies readonly TrialKind[];
/** Kinds that are tried out under a hand, on a page of their own. */
export const handKinds = ['scrub', 'ramp', 'calibration'] as const satisfies readonly TimelineKind[];

/** True for kinds of one family. */
export function isOneOf<Kind extends TrialKind>(family: readonly Kind[], kind: TrialKind): kind is Kind {
  return (family as readonly TrialKind[]).includes(kind);
}

/** What is known of a kind, for trials of which only that is known that they are of it. */
const factsOf = (kind: TrialKind) => kinds[kind] as unknown as KindFacts<KindShape>;

/** Kinds as people read them. */
export const kindNames = Object.fromEntries(trialKinds.map((kind) => [kind, kinds[kind].name])) as Readonly<
  Record<TrialKind, string>
>;

/** The page of a result. */
export function trialHref({ kind, id }: { readonly kind: TrialKind; readonly id: string }): string {
  return `${kinds[kind].page}/${id}`;
}

/** What a trial of one kind, or several, is made of. */
export type Made<Kind extends TrialKind = TrialKind> = {
  [One in Kind]: { readonly kind: One } & Pick<Kinds[One], 'subject' | 'settings'>;
}[Kind];

/** What a trial is of, in names. */
export function namesOf({ kind, ...trial }: Made): Names {
  return factsOf(kind).names(trial);
}

/** A trial in a few words: its kind, and how. */
export function whatOf(trial: Made): string {
  const { how } = namesOf(trial);
  return how === '' ? kindNames[trial.kind] : `${kindNames[trial.kind]}, ${how}`;
}

/** The settings of a trial as conditions, by name and in words. */
export function settingConditions({ kind, settings }: Pick<Made, 'kind' | 'settings'>): Words {
  return toldWords<object>(factsOf(kind).told, settings);
}

/** Test, settings and whatever else a trial was made under, as conditions; those of the rig are no part of it. */
export function trialConditions(trial: Made & { readonly conditions: object | null }): Words {
  const { kind, settings } = trial;
  const facts = factsOf(kind);
  return {
    Test: facts.test?.(settings) ?? facts.name.toLowerCase(),
    ...settingConditions({ kind, settings }),
    ...facts.under(trial),
  };
}

/** What a trial of one kind, or several, found. */
export type Finding<Kind extends TrialKind = TrialKind> = {
  [One in Kind]: { readonly kind: One } & FindingOf<Kinds[One]>;
}[Kind];

/** What a trial found, in a sentence or two. */
export function answerOf(finding: Finding): string {
  return factsOf(finding.kind).answer(finding);
}

/** Figures of all kinds that repeats are compared by; those of a kind stand together, the one that decides first. */
export const metrics: readonly Metric[] = [
  ...new Map(
    trialKinds.flatMap((kind) => kinds[kind].metrics.map((metric) => [metric.id, metric] as const)),
  ).values(),
];

/** The figures of one trial, by the metric's id. Those it has none of are absent. */
export function valuesOf(finding: Finding): Record<string, number> {
  return Object.fromEntries(
    Object.entries(factsOf(finding.kind).values(finding)).filter(
      (entry): entry is [string, number] => typeof entry[1] === 'number' && Number.isFinite(entry[1]),
    ),
  );
}

/** Metrics of which at least one side has a value, in their order. */
export function metricsOf(
  sides: readonly { readonly repeats: readonly { readonly values: Readonly<Record<string, number>> }[] }[],
): Metric[] {
  const present = new Set(
    sides.flatMap(({ repeats }) => repeats.flatMap(({ values }) => Object.keys(values))),
  );
  return metrics.filter(({ id }) => present.has(id));
}
