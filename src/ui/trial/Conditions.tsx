'use client';
import { pulseSentence } from '@/core/rig/pulse';
import { formatLabel } from '@/core/media/format';
import { modelLabel } from '@/core/storage/standInChoice';
import type { PlayedKind } from '@/core/kinds/kinds';
import type { TrialPage } from '@/server/trialPage';
import { dateTime, memory, milliseconds, percent, size } from '../format';
import { Facts } from '../parts/Figure';
import type { TimelineSubject } from '@/core/playback/subject';
import { othersWords } from './RigDuring';
import { coldWords } from './words';
import type { RigState } from '@/core/rig/identity';
import type { ClipSubject } from '@/core/kinds/shared/played';

/** Under what the run was made: all that must be the same for another run to compare with it. */
export function Conditions({ trial, samples }: Pick<TrialPage<PlayedKind>, 'trial' | 'samples'>) {
  const { subject, settings, conditions, load } = trial;
  const run = conditions?.run;
  const costs = run?.afterwards?.scaleCosts;
  return (
    <section aria-label="Conditions">
      <h2>Conditions</h2>
      <div className="mt-2 grid gap-x-10 gap-y-3 lg:grid-cols-2">
        <Facts
          rows={[
            ['Reads', run ? coldWords(run.cold) : 'The run did not get so far.'],
            ...(subject.timeline ? readRows(subject.timeline) : clipRows(subject)),
            [
              'Decoder',
              run
                ? `${run.decoder}, ${run.decoderThreads} ${run.decoderThreads === 1 ? 'thread' : 'threads'}, threads work ${run.threadKind === 'none' ? 'not at all' : run.threadKind}`
                : '–',
            ],
            [
              'Process, measured per frame',
              costs
                ? `full ${milliseconds(costs.full / 1000)}, half ${milliseconds(costs.half / 1000)}, quarter ${milliseconds(costs.quarter / 1000)}`
                : '–',
            ],
            [
              'Shown frames proved',
              !run?.afterwards
                ? 'not told: the run ended before'
                : run.afterwards.frameCode
                  ? 'yes, by the frame number in the picture'
                  : 'no frame number in the picture; taken from timestamps',
            ],
            [
              'Buffers',
              `${settings.buffers.readAhead} slots read ahead, ${settings.buffers.decoded} decoded, ${settings.buffers.ready} ready`,
            ],
          ]}
        />
        <Facts
          rows={[
            [
              'Rig',
              conditions
                ? `${conditions.rig.processor}, ${conditions.rig.logicalCores} cores, ${memory(conditions.rig.memoryBytes)}`
                : '–',
            ],
            ['System', conditions ? `${conditions.rig.system}, kernel ${conditions.rig.kernel}` : '–'],
            ['Power', conditions?.rigState.power ?? '–'],
            ['Temperature and clock', sensorWords(conditions?.rigState)],
            [
              'Busy at the start',
              conditions
                ? conditions.rigState.busiest
                    .map(({ name, share }) => `${name} ${percent(share, 0)} of a core`)
                    .join(', ') || 'nothing else'
                : '–',
            ],
            [
              'Load during the run',
              load
                ? `trial ${percent(load.trialMean, 0)}, others ${percent(load.othersMean, 0)} (peak ${percent(load.othersPeak, 0)}) of all cores, ${samples.length} samples`
                : '–',
            ],
            [
              'Others had its cores',
              load?.lostShare == null
                ? '–'
                : `${percent(load.lostShare, 1)} of the time in which the trial was ready to run`,
            ],
            ['Pulse of the machine', load?.pulse ? pulseSentence(load.pulse) : 'not taken'],
            ['Others during the run', othersWords(load)],
            ['Peak memory', load?.peakMemoryBytes ? memory(load.peakMemoryBytes) : '–'],
            [
              'When',
              `${trial.startedAt ? dateTime(trial.startedAt) : 'not begun'}, Navvy ${conditions?.softwareVersion ?? '–'}, ${run?.codecLibrary ?? '–'}`,
            ],
          ]}
        />
      </div>
    </section>
  );
}

/** What sensors told at the start; many machines tell nothing. */
function sensorWords(state: RigState | undefined): string {
  const known = [
    state?.temperatureCelsius == null ? null : `${state.temperatureCelsius.toFixed(0)} °C`,
    state?.clockGigahertz == null ? null : `${state.clockGigahertz.toFixed(2)} GHz`,
  ].filter(Boolean);
  return known.join(', ') || 'not told by the system';
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
