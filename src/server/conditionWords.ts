import {
  kindNames,
  type DecodeKind,
  type PlayedKind,
  type StorageKind,
  type TimelineKind,
  type TrialKind,
} from '@/core/kinds/kinds';
import { fileName } from '@/core/media/fileName';
import { formatLabel } from '@/core/media/format';
import { formatsOf, nameOf, volumesOf, type Played } from '@/core/playback/subject';
import { plainName } from '@/core/simulated';
import { modelLabel } from '@/core/storage/standInChoice';
import { rateLabel } from '@/core/time/rational';
import type { DecodeSubject, StorageSubject } from '@/db/kinds';
import type { ResultUnder } from '@/db/queries/results';
import type { RigIdentity } from '@/engine/rig';
import { settingConditions } from './settingConditions';

/** Conditions that people compare by, those asked about most first; all others stand behind them. */
export const conditionOrder = [
  'Measured in',
  'Volume',
  'Form',
  'Playback scale',
  'Footage',
  'Content',
  'Format',
  'Rig',
  'Test',
] as const;

/** Under what a trial was made, by name and in words: all that must be equal for another to compare with it. */
export function conditionsOf(row: ResultUnder, rigName: string): Record<string, string> {
  return { Rig: rigName, ...testConditions(row), ...rigConditions(row.conditions) };
}

function rigConditions(
  conditions: {
    readonly rig: RigIdentity;
    readonly rigState: { readonly power: string; readonly processorGovernor: string | null };
    readonly softwareVersion: string;
  } | null,
): Record<string, string> {
  if (!conditions) return {};
  const { rig, rigState, softwareVersion } = conditions;
  return {
    Processor: `${rig.processor}, ${rig.logicalCores} cores`,
    Memory: `${(rig.memoryBytes / 2 ** 30).toFixed(1)} GiB`,
    Graphics: rig.graphics.join(', ') || 'none',
    System: `${rig.system}, kernel ${rig.kernel}`,
    Power: rigState.power,
    Governor: rigState.processorGovernor ?? 'not told',
    Navvy: softwareVersion,
  };
}

function playedConditions(subject: Played): Record<string, string> {
  const { names, simulated } = volumesOf(subject);
  const { timeline } = subject;
  const models = timeline
    ? Object.values(timeline.media).map(({ standIn }) => standIn)
    : [subject.standIn ?? null];
  const shown = {
    Content: nameOf(subject),
    Volume: plainName(names.join(', '), simulated),
    Format: [
      ...new Set(formatsOf(subject).map((format) => `${formatLabel(format)}, ${rateLabel(format.rate)}`)),
    ].join('; '),
    'Volume model':
      [...new Set(models.flatMap((model) => (model ? [modelLabel(model)] : [])))].join('; ') || 'none',
  };
  if (!timeline) return shown;
  const roles = new Set(Object.values(timeline.media).map(({ role }) => role));
  return {
    ...shown,
    Form: roles.has('rendition') ? (roles.size > 1 ? 'originals and proxies' : 'proxies') : 'originals',
    'Timeline version': `${timeline.version}`,
    Course: `from ${timeline.course.from}, ${timeline.course.slots} slots, ${timeline.course.speed}x${timeline.course.loop ? ', looped' : ''}`,
    'Left out': timeline.missing.join(', ') || 'nothing',
  };
}

function volumeConditions({ volumeName, standIn, link }: StorageSubject): Record<string, string> {
  return {
    Volume: plainName(volumeName, standIn !== null),
    'Volume model': standIn ? modelLabel(standIn) : 'none',
    Link: link || 'not told',
  };
}

function decodedConditions({ clipPath, format, contentHash, device }: DecodeSubject): Record<string, string> {
  return {
    Content: fileName(clipPath),
    Format: `${formatLabel(format)}, ${rateLabel(format.rate)}`,
    'Clip content': contentWords(contentHash),
    Device: device ? plainName(device.name, device.simulated) : 'software',
  };
}

const played = ({ settings, subject, conditions }: ResultUnder<PlayedKind>) => ({
  ...playedConditions(subject),
  ...(!settings.warm && conditions?.run?.cold.method === 'warm' ? { 'System cache': 'warm' } : {}),
  ...(subject.timeline ? {} : { 'Clip content': contentWords(subject.contentHash) }),
  ...(conditions?.run ? { Decoder: `${conditions.run.decoder}, ${conditions.run.codecLibrary}` } : {}),
});
const onTimeline = ({ subject }: ResultUnder<TimelineKind>) => playedConditions(subject);
const decoded = ({ subject }: ResultUnder<DecodeKind>) => decodedConditions(subject);
const onVolume = ({ subject }: ResultUnder<StorageKind>) => ({
  ...volumeConditions(subject),
  ...(subject.clip ? { Content: fileName(subject.clip.path), Format: formatLabel(subject.clip.format) } : {}),
});

/** Under what each kind was made besides its settings. */
const subjects: { readonly [Kind in TrialKind]: (row: ResultUnder<Kind>) => Record<string, string> } = {
  playback: played,
  'self-check': played,
  scrub: onTimeline,
  ramp: onTimeline,
  calibration: onTimeline,
  'decode-rate': decoded,
  'decode-support': decoded,
  'decode-streams': decoded,
  throughput: onVolume,
  'streams-carried': onVolume,
  copy: onVolume,
  renditions: ({ subject: { volumeName, simulated, firstClip, clips } }) => ({
    Volume: plainName(volumeName, simulated),
    Content: `${fileName(firstClip)}${clips > 1 ? ` and ${clips - 1} more` : ''}`,
  }),
};

function testConditions(row: ResultUnder): Record<string, string> {
  const test =
    row.kind === 'throughput' ? row.settings.test.replace('-', ' ') : kindNames[row.kind].toLowerCase();
  return {
    Test: test,
    ...settingConditions(row),
    ...(subjects[row.kind] as (row: ResultUnder) => Record<string, string>)(row),
  };
}

const contentWords = (hash: string | null) => hash?.slice(0, 12) ?? 'not hashed';
