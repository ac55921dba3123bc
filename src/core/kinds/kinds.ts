/** Every kind of trial, by the one name it has in the database, in addresses and in code. */
export const trialKinds = [
  'playback',
  'scrub',
  'ramp',
  'calibration',
  'decode-rate',
  'decode-support',
  'decode-streams',
  'throughput',
  'streams-carried',
  'copy',
  'renditions',
  'self-check',
] as const;
export type TrialKind = (typeof trialKinds)[number];

/** Kinds that play slots to their deadlines and keep a trace. */
export type PlayedKind = 'playback' | 'self-check';
/** Kinds that try a timeline out otherwise than by playing it through. */
export type TimelineKind = 'scrub' | 'ramp' | 'calibration';
/** Kinds that decode without deadlines. */
export type DecodeKind = 'decode-rate' | 'decode-support' | 'decode-streams';
/** Kinds that measure a volume. */
export type StorageKind = 'throughput' | 'streams-carried' | 'copy';

export const playedKinds = ['playback', 'self-check'] as const satisfies readonly PlayedKind[];
export const timelineKinds = ['scrub', 'ramp', 'calibration'] as const satisfies readonly TimelineKind[];
export const decodeKinds = [
  'decode-rate',
  'decode-support',
  'decode-streams',
] as const satisfies readonly DecodeKind[];
export const storageKinds = [
  'throughput',
  'streams-carried',
  'copy',
] as const satisfies readonly StorageKind[];

/** A kind as people read it. */
export const kindNames: Readonly<Record<TrialKind, string>> = {
  playback: 'Playback',
  scrub: 'Scrub',
  ramp: 'Load ramp',
  calibration: 'Calibration',
  'decode-rate': 'Decode rate',
  'decode-support': 'Decode support',
  'decode-streams': 'Decode streams',
  throughput: 'Throughput',
  'streams-carried': 'Streams carried',
  copy: 'Copy',
  renditions: 'Renditions',
  'self-check': 'Self-check',
};

/** True for kinds of one family. */
export function isOneOf<Kind extends TrialKind>(kinds: readonly Kind[], kind: TrialKind): kind is Kind {
  return (kinds as readonly TrialKind[]).includes(kind);
}
