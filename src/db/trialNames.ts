import { kindNames, type TrialKind } from '@/core/kinds/kinds';
import { fileName } from '@/core/media/fileName';
import { nameOf, volumesOf, type TimelineSubject } from '@/core/playback/subject';
import { presetOf } from '@/core/rendition/presets';
import type { DecodeSubject, StorageSubject, TrialListRow, TrialRow } from './kinds';

type Named<Kind extends TrialKind> = {
  [One in Kind]: {
    readonly subject: TrialRow<One>['subject'];
    readonly settings: TrialRow<One>['settings'];
  };
}[Kind];
interface Names {
  /** What was tried. */
  readonly subject: string;
  /** Volumes that it was read from or written to. */
  readonly volumes: readonly string[];
  /** How, in a few words; empty where the kind says it all. */
  readonly how: string;
}

/** Scale, and whatever is otherwise than usual. */
const played = ({ subject, settings }: Named<'playback' | 'self-check'>): Names => ({
  subject: nameOf(subject),
  volumes: volumesOf(subject).names,
  how: [
    `${settings.scale} scale`,
    ...(subject.timeline ? courseWords(subject.timeline) : []),
    settings.warm ? 'warm' : '',
    settings.policy === 'every-frame' ? 'every frame' : '',
  ]
    .filter(Boolean)
    .join(', '),
});
const courseWords = ({ course: { speed, loop }, read }: TimelineSubject['timeline']): string[] => [
  speed === 1 ? '' : `${speed}x`,
  loop ? 'looped' : '',
  read === 'proxies' ? 'proxies' : '',
];
const decoded = ({ clipPath, volumeName }: DecodeSubject, how = ''): Names => ({
  subject: fileName(clipPath),
  volumes: [volumeName],
  how,
});
const onVolume = ({ volumeName, clip }: StorageSubject, how: string): Names => ({
  subject: clip ? fileName(clip.path) : volumeName,
  volumes: [volumeName],
  how,
});

/** What each kind of trial is of, in names. */
const names: { readonly [Kind in TrialKind]: (trial: Named<Kind>) => Names } = {
  playback: played,
  'self-check': played,
  scrub: ({ subject, settings: { gesture, scale } }) => ({
    subject: nameOf(subject),
    volumes: volumesOf(subject).names,
    how: `${gesture.kind === 'recorded' ? gesture.name : gesture.kind.replace('-', ' ')}, ${scale} scale`,
  }),
  ramp: ({ subject, settings: { family, scales } }) => ({
    subject: nameOf(subject),
    volumes: volumesOf(subject).names,
    how: `by ${family}, ${scales.join(', ')} scale`,
  }),
  calibration: ({ subject }) => ({ subject: nameOf(subject), volumes: volumesOf(subject).names, how: '' }),
  'decode-rate': ({ subject }) => decoded(subject),
  'decode-support': ({ subject }) => decoded(subject, `on ${subject.device?.name ?? 'a device'}`),
  'decode-streams': ({ subject, settings }) => decoded(subject, `${settings.scale} scale`),
  throughput: ({ subject, settings }) => onVolume(subject, settings.test.replace('-', ' ')),
  'streams-carried': ({ subject }) => onVolume(subject, ''),
  copy: ({ subject: { volumeName }, settings: { folder, destinations } }) => ({
    subject: folder === '' ? volumeName : folder,
    volumes: [volumeName, ...destinations.map((target) => target.volumeName)],
    how: `to ${destinations.map((target) => target.volumeName).join(' and ')}`,
  }),
  renditions: ({ subject: { firstClip, clips, volumeName }, settings: { presetId } }) => ({
    subject: `${fileName(firstClip)}${clips > 1 ? ` and ${clips - 1} more` : ''}`,
    volumes: [volumeName],
    how: presetOf(presetId).name,
  }),
};

/** What a trial is of, in names. */
export function namesOf(trial: Pick<TrialListRow, 'kind' | 'subject' | 'settings'>): Names {
  return (names[trial.kind] as (trial: unknown) => Names)(trial);
}

/** A trial in a few words: its kind, and how. */
export function whatOf(trial: Pick<TrialListRow, 'kind' | 'subject' | 'settings'>): string {
  const { how } = namesOf(trial);
  return how === '' ? kindNames[trial.kind] : `${kindNames[trial.kind]}, ${how}`;
}
