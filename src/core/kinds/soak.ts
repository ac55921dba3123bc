import { quantity } from '../format';
import { isRecord } from '../record';
import { mixed, number, object } from '../edge/strict';
import { soundWords } from '../playback/sound';
import type { PlaybackSettings } from '../playback/settings';
import type { TimelineSubject } from '../timeline/subject';
import type { SoakRecord, SoakSummary } from '../tasks/soak';
import { analysis, type AnalysisSettings } from './analysis';
import { exporting, type ExportSettings } from './export';
import type { KindFacts, Names, Words } from './kind';
import { playback } from './playback';
import type { RigConditions } from './shared/conditions';
import { rate, share } from './shared/metrics';
import { playedNames, playedUnder } from './shared/played';
import { taskFacts, taskPage, type TaskSubject } from './shared/task';
import { toldWords } from './shared/told';
import { soakSentence } from '../sentences/tasks';

/** What a soak does again and again. */
export type SoakWork =
  | { readonly kind: 'playback'; readonly settings: PlaybackSettings }
  | { readonly kind: 'export'; readonly settings: ExportSettings }
  | { readonly kind: 'analysis'; readonly settings: AnalysisSettings };

export const soakable = ['playback', 'export', 'analysis'] as const satisfies readonly SoakWork['kind'][];

export interface SoakSettings {
  readonly minutes: number;
  readonly work: SoakWork;
}

export const soakInput = object({
  minutes: number()
    .typeError('Give the time as a number of minutes.')
    .min(0.1, 'A soak takes at least 0.1 min.')
    .max(1_440, 'A soak takes at most 1 440 min, a day.')
    .required('Say how many minutes it is to take.'),
  /** A playback or task as it is asked for by itself, with its kind. */
  work: mixed(isRecord).required('Say what is to be done again and again.'),
}).noUnknown();

/** How far a soak is. */
export interface SoakProgress {
  readonly seconds: number;
  readonly total: number;
  /** Done. */
  readonly passes: number;
  /** So far, with those of the pass that is under way. */
  readonly dropped: number;
  /** Of the last point; null before. */
  readonly framesPerSecond: number | null;
  readonly msLeft: number;
}

/** A playback or task repeated for minutes to hours. */
export interface Soak {
  readonly subject: TimelineSubject | TaskSubject;
  readonly settings: SoakSettings;
  readonly conditions: RigConditions;
  readonly progress: SoakProgress;
  readonly record: SoakRecord;
  readonly summary: SoakSummary;
}

export const minutesText = (minutes: number) => quantity(minutes, 'min');

function names(work: SoakWork, subject: Soak['subject']): Names {
  if (work.kind === 'playback') return playback.names({ subject, settings: work.settings });
  // Of a result from elsewhere: a task that says nowhere where it wrote.
  if (!('target' in subject)) return playedNames(subject, '');
  return work.kind === 'export'
    ? exporting.names({ subject, settings: work.settings })
    : analysis.names({ subject, settings: work.settings });
}

function conditionsOf(work: SoakWork): Words {
  switch (work.kind) {
    case 'playback':
      return toldWords(playback.told, work.settings);
    case 'export':
      return toldWords(exporting.told, work.settings);
    case 'analysis':
      return toldWords(analysis.told, work.settings);
  }
}

/** What is done again and again, in a few words: "Export, H.264 …". */
export function soakedWords({ settings: { work }, subject }: Pick<Soak, 'settings' | 'subject'>): string {
  const name = { playback, export: exporting, analysis }[work.kind].name;
  return `${name}, ${names(work, subject).how}`;
}

export const soak: KindFacts<Soak> = {
  name: 'Soak',
  page: taskPage,
  names: (trial) => ({
    ...names(trial.settings.work, trial.subject),
    how: `${soakedWords(trial)}, ${minutesText(trial.settings.minutes)}`,
  }),
  test: ({ work }) => `soak of ${{ playback, export: exporting, analysis }[work.kind].name.toLowerCase()}`,
  told: {
    minutes: (minutes) => ({ 'Length of the soak': minutesText(minutes) }),
    work: conditionsOf,
  },
  under: ({ subject, settings: { work }, conditions }) => {
    if (!('target' in subject))
      return {
        ...playedUnder(subject, work.settings),
        ...(work.kind === 'playback' ? { Sound: soundWords(work.settings.sound, subject) } : {}),
      };
    return work.kind === 'analysis'
      ? analysis.under({ subject, settings: work.settings, conditions })
      : taskFacts.under({ subject, settings: work.settings, conditions });
  },
  answer: ({ summary }) => soakSentence(summary),
  overheadMs: 4_000,
  metrics: [
    rate('sustainedRate', 'Sustained rate', 'frames/s'),
    share('soakLoss', 'Lost against the first minutes', '%'),
    share('soakDropped', 'Dropped slots over a soak', '%'),
  ],
  values: ({ summary: { sustained, atFirst, needed, dropped, frames, unproved } }) =>
    unproved > 0
      ? {}
      : {
          sustainedRate: sustained,
          soakLoss: atFirst > 0 ? Math.max(0, 1 - sustained / atFirst) * 100 : null,
          soakDropped: needed === null ? null : (dropped / Math.max(1, frames)) * 100,
        },
};
