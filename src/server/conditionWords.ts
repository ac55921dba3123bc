import { fileName } from '@/core/media/fileName';
import { formatLabel } from '@/core/media/format';
import { formatsOf, nameOf, volumesOf, type Played } from '@/core/playback/subject';
import { plainName } from '@/core/simulated';
import { modelLabel } from '@/core/storage/standInChoice';
import { rateLabel } from '@/core/time/rational';
import type { ResultRow } from '@/db/queries/results';
import type { RigIdentity } from '@/engine/rig';

const scrubWords = { 'slow-drag': 'slow drag', 'fast-drag': 'fast drag', 'jump-play': 'jump and play', 'step-forward': 'step forward', 'step-backward': 'step backward', shuttle: 'shuttle', jumps: 'jumps', recorded: 'recorded' } as const;

/** Conditions that people compare by, those asked about most first; all others stand behind them. */
export const conditionOrder = ['Measured in', 'Volume', 'Form', 'Playback scale', 'Footage', 'Content', 'Format', 'Rig', 'Test'] as const;

/** Under what a trial was made, by name and in words: all that must be equal for another to compare with it. */
export function conditionsOf(row: ResultRow, rigName: string): Record<string, string> {
  return { Rig: rigName, ...testConditions(row), ...rigConditions(row.conditions) };
}

function rigConditions(conditions: { readonly rig: RigIdentity; readonly rigState: { readonly power: string; readonly processorGovernor: string | null }; readonly softwareVersion: string } | null): Record<string, string> {
  if (!conditions) return {};
  const { rig, rigState, softwareVersion } = conditions;
  return {
    Processor: `${rig.processor}, ${rig.logicalCores} cores`, Memory: `${(rig.memoryBytes / 2 ** 30).toFixed(1)} GiB`, Graphics: rig.graphics.join(', ') || 'none',
    System: `${rig.system}, kernel ${rig.kernel}`, Power: rigState.power, Governor: rigState.processorGovernor ?? 'not told', Navvy: softwareVersion,
  };
}

function playedConditions(subject: Played): Record<string, string> {
  const { names, simulated } = volumesOf(subject);
  const { timeline } = subject;
  const models = timeline ? Object.values(timeline.media).map(({ standIn }) => standIn) : [subject.standIn ?? null];
  const shown = {
    Content: nameOf(subject), Volume: plainName(names.join(', '), simulated),
    Format: [...new Set(formatsOf(subject).map((format) => `${formatLabel(format)}, ${rateLabel(format.rate)}`))].join('; '),
    'Volume model': [...new Set(models.flatMap((model) => (model ? [modelLabel(model)] : [])))].join('; ') || 'none',
  };
  if (!timeline) return shown;
  const roles = new Set(Object.values(timeline.media).map(({ role }) => role));
  return { ...shown, Form: roles.has('rendition') ? (roles.size > 1 ? 'originals and proxies' : 'proxies') : 'originals', 'Timeline version': `${timeline.version}`, Course: `from ${timeline.course.from}, ${timeline.course.slots} slots, ${timeline.course.speed}x${timeline.course.loop ? ', looped' : ''}`, 'Left out': timeline.missing.join(', ') || 'nothing' };
}

const threadsWords = (threads: number) => (threads === 0 ? 'one per core' : String(threads));

function testConditions(row: ResultRow): Record<string, string> {
  switch (row.kind) {
    case 'trial': {
      const { settings, subject, conditions } = row;
      return {
        Test: 'playback', ...playedConditions(subject), 'Playback scale': settings.scale, 'Late frames': settings.policy === 'hold-time' ? 'hold time' : 'every frame', 'Decoder threads': threadsWords(settings.threads),
        'System cache': settings.warm ? 'warm, on purpose' : conditions?.run?.cold.method === 'warm' ? 'warm' : 'cold', 'Injected faults': settings.faults.length > 0 ? `${settings.faults.length}` : 'none', 'Played slots': settings.slotLimit === null ? 'all' : `first ${settings.slotLimit}`,
        ...(subject.timeline ? {} : { 'Clip content': subject.contentHash?.slice(0, 12) ?? 'not hashed' }), ...(conditions?.run ? { Decoder: `${conditions.run.decoder}, ${conditions.run.codecLibrary}` } : {}),
      };
    }
    case 'timelineTest': {
      const { settings, subject } = row;
      const gesture: Record<string, string> = settings.kind === 'scrub' ? { Gesture: settings.gesture.kind === 'recorded' ? settings.gesture.name : `${scrubWords[settings.gesture.kind]}, seed ${settings.gesture.seed}`, 'Playback scale': settings.scale } : {};
      return { Test: settings.kind, ...playedConditions(subject), ...gesture, 'Decoder threads': threadsWords(settings.threads), 'System cache': settings.warm ? 'warm, on purpose' : 'cold' };
    }
    case 'storage': {
      const { settings, subject } = row;
      const volume = { Volume: plainName(subject.volumeName, subject.standIn !== null), 'Volume model': subject.standIn ? modelLabel(subject.standIn) : 'none', Link: subject.link || 'not told' };
      if (settings.kind === 'throughput') return { Test: settings.test.replace('-', ' '), ...volume, Block: `${settings.blockBytes / 1024} kiB`, Reads: settings.clipPath ?? 'a test file', Length: `${settings.bytes / 1e6} MB or ${settings.seconds} s` };
      return { Test: settings.kind, ...volume, ...(subject.clip ? { Content: fileName(subject.clip.path), Format: formatLabel(subject.clip.format) } : {}) };
    }
    case 'decode': {
      const { subject, settings } = row;
      return { Test: `decode ${settings.kind}`, Content: fileName(subject.clipPath), Format: `${formatLabel(subject.format)}, ${rateLabel(subject.format.rate)}`, 'Clip content': subject.contentHash?.slice(0, 12) ?? 'not hashed', Device: subject.device?.name ?? 'software' };
    }
  }
}
