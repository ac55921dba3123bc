import { fileName } from '@/core/media/fileName';
import { formatLabel } from '@/core/media/format';
import { formatsOf, nameOf, volumesOf, type Played } from '@/core/playback/subject';
import { plainName } from '@/core/simulated';
import { modelLabel } from '@/core/storage/standInChoice';
import { rateLabel } from '@/core/time/rational';
import type { ResultRow } from '@/db/queries/results';
import type { RigIdentity } from '@/engine/rig';
import {
  decodeConditions,
  playbackConditions,
  storageConditions,
  timelineTestConditions,
} from './settingConditions';

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
export function conditionsOf(row: ResultRow, rigName: string): Record<string, string> {
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

function testConditions(row: ResultRow): Record<string, string> {
  switch (row.kind) {
    case 'trial': {
      const { settings, subject, conditions } = row;
      return {
        Test: 'playback',
        ...playedConditions(subject),
        ...playbackConditions(settings),
        ...(!settings.warm && conditions?.run?.cold.method === 'warm' ? { 'System cache': 'warm' } : {}),
        ...(subject.timeline ? {} : { 'Clip content': contentWords(subject.contentHash) }),
        ...(conditions?.run ? { Decoder: `${conditions.run.decoder}, ${conditions.run.codecLibrary}` } : {}),
      };
    }
    case 'timelineTest':
      return {
        Test: row.settings.kind,
        ...playedConditions(row.subject),
        ...timelineTestConditions(row.settings),
      };
    case 'storage': {
      const { settings, subject } = row;
      const volume = {
        Volume: plainName(subject.volumeName, subject.standIn !== null),
        'Volume model': subject.standIn ? modelLabel(subject.standIn) : 'none',
        Link: subject.link || 'not told',
      };
      return {
        Test: settings.kind === 'throughput' ? settings.test.replace('-', ' ') : settings.kind,
        ...volume,
        ...(subject.clip
          ? { Content: fileName(subject.clip.path), Format: formatLabel(subject.clip.format) }
          : {}),
        ...storageConditions(settings),
      };
    }
    case 'decode': {
      const { subject, settings } = row;
      return {
        Test: `decode ${settings.kind}`,
        Content: fileName(subject.clipPath),
        Format: `${formatLabel(subject.format)}, ${rateLabel(subject.format.rate)}`,
        'Clip content': contentWords(subject.contentHash),
        Device: subject.device?.name ?? 'software',
        ...decodeConditions(settings),
      };
    }
  }
}

const contentWords = (hash: string | null) => hash?.slice(0, 12) ?? 'not hashed';
