'use client';
import { count, milliseconds, quantity, size } from '@/core/format';
import { formatLabel } from '@/core/media/format';
import { modelLabel } from '@/core/storage/standInChoice';
import { trialConditions } from '@/core/kinds/kinds';
import type { TimelineSubject } from '@/core/timeline/subject';
import type { PlayedTrial } from '@/db/kinds';
import { soundOf } from '@/core/playback/sound';
import { meanwhileWords } from '@/core/playback/settings';
import { ConditionsFrame } from './ConditionsFrame';
import { coldWords } from '../trialWords';
import type { ClipSubject } from '@/core/kinds/shared/played';

/** Under what a run was made. */
export function Conditions({ trial }: { trial: PlayedTrial }) {
  const { subject, settings, conditions } = trial;
  const run = conditions?.run;
  const costs = run?.afterwards?.scaleCosts;
  return (
    <ConditionsFrame
      trial={trial}
      library={run?.codecLibrary}
      rows={[
        ['Reads under way', String(settings.underWay ?? 1)],
        ['Reads', run ? coldWords(run.cold, settings.cache) : 'The run did not get that far.'],
        ...(subject.timeline ? readRows(subject.timeline) : clipRows(subject)),
        [
          'Decoder',
          run
            ? `${run.decoder}, ${run.decoderThreads} ${run.decoderThreads === 1 ? 'thread' : 'threads'}, threads work ${run.threadKind === 'none' ? 'not at all' : run.threadKind}`
            : '–',
        ],
        ...(settings.processing ? workedRows(trial) : [['Processed in', 'nothing: decoded alone'] as const]),
        [
          'Process, measured per frame',
          costs
            ? `full ${milliseconds(costs.full / 1000)}, half ${milliseconds(costs.half / 1000)}, quarter ${milliseconds(costs.quarter / 1000)}`
            : '–',
        ],
        [
          'Shown frames proved',
          !run?.afterwards
            ? 'not reported: the run ended before'
            : run.afterwards.frameCode
              ? 'yes, by the frame number in the picture'
              : 'no frame number in the picture; taken from timestamps',
        ],
        ['Sound', soundText(trial)],
        ['Meanwhile', meanwhileText(trial)],
        [
          'Buffers',
          `${settings.buffers.readAhead} slots read ahead, ${settings.buffers.decoded} decoded, ${settings.buffers.ready} ready`,
        ],
      ]}
    />
  );
}

/** How pictures were worked on, as far as a kind's conditions tell of it. */
export function workedRows(trial: Parameters<typeof trialConditions>[0]): (readonly [string, string])[] {
  const told = Object.entries(trialConditions(trial));
  return told.filter(([name]) => name === 'Processed in' || name === 'Fields');
}

/** Which sound went along and how, or why none did. */
function soundText({ subject, settings, conditions, summary }: PlayedTrial): string {
  const sound = soundOf(subject);
  if (sound.length === 0) return 'none that could be played along';
  if (settings.sound !== 'on') return 'off';
  const problem = conditions?.run?.afterwards?.soundProblem;
  const { readAhead, decoded, ready } = settings.buffers;
  return [
    `${sound.join('; ')}: read, decoded, resampled and mixed to stereo at 48 kHz on a thread of its own, at most ${readAhead + decoded + ready} slots ahead; not heard`,
    ...(summary?.sound ? [`read at ${quantity(summary.sound.bytesPerSecond / 1000, 'kB/s', 0)}`] : []),
    ...(problem ? [`it ended early: ${problem}`] : []),
  ].join('; ');
}

/** What was done beside the run, and how much of it. */
function meanwhileText({ settings: { meanwhile = 'nothing' }, conditions }: PlayedTrial): string {
  const drawn = conditions?.run?.afterwards?.drawn;
  if (meanwhile === 'nothing' || !drawn) return meanwhileWords[meanwhile];
  const { strips, sounds, bytes, seconds, problem } = drawn;
  const ended = problem === null ? '' : ` It ended early: ${problem}`;
  return `${meanwhileWords[meanwhile]}, round and round on a thread of its own and past the system’s cache: ${count(strips)} strips and ${count(sounds)} sound tracks, ${size(bytes)} in ${quantity(seconds, 's', 1)}.${ended}`;
}

function clipRows({
  volumeName,
  volumeKind,
  volumeFacts,
  standIn,
  clipPath,
  contentHash,
}: ClipSubject): [string, string][] {
  return [
    [
      'Volume',
      `${volumeName}, ${volumeKind}, ${standIn ? `simulated: ${modelLabel(standIn)}` : `${volumeFacts.fileSystem} on ${volumeFacts.device}, ${size(volumeFacts.freeBytes)} free`}`,
    ],
    ['Clip', `${clipPath}, content ${contentHash?.slice(0, 12) ?? 'not hashed'}`],
  ];
}

/** What a run of a timeline really read: each file with its role and volume. */
function readRows({ media, read, missing }: TimelineSubject['timeline']): [string, string][] {
  const files = Object.values(media).map(
    ({ path, role, volumeName, standIn, format }) =>
      `${path} (${role}, ${formatLabel(format)}) from ${volumeName}${standIn ? ', simulated' : ''}`,
  );
  return [
    ['Asked for', read],
    ['Read', files.join('; ') || 'no media'],
    ...(missing.length > 0 ? [['Left out, not at hand', missing.join(', ')] as [string, string]] : []),
  ];
}
