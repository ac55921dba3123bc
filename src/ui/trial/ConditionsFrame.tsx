import type { ReactNode } from 'react';
import { pulseSentence } from '@/core/rig/pulse';
import type { RigState } from '@/core/rig/identity';
import type { TrialRow } from '@/db/kinds';
import { dateTime, memory, percent } from '../format';
import { Facts } from '../parts/Figure';
import { othersWords } from './RigDuring';

type Row = readonly [string, ReactNode];

/** Under what a trial of any kind was made: what its kind tells of it, beside what the rig was and did. All of it must be the same for another to compare with it. */
export function ConditionsFrame({
  trial: { conditions, load, startedAt },
  rows,
  library,
}: {
  trial: Pick<TrialRow, 'conditions' | 'load' | 'startedAt'>;
  rows: readonly Row[];
  /** The codec library's version, where it had a part in it. */
  library?: string | undefined;
}) {
  return (
    <section aria-label="Conditions">
      <h2>Conditions</h2>
      <div className="mt-2 grid gap-x-10 gap-y-3 lg:grid-cols-2">
        <Facts rows={rows} />
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
                ? `trial ${percent(load.trialMean, 0)}, others ${percent(load.othersMean, 0)} (peak ${percent(load.othersPeak, 0)}) of all cores`
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
              [
                startedAt ? dateTime(startedAt) : 'not begun',
                conditions ? `Navvy ${conditions.softwareVersion}` : '',
                library ?? '',
              ]
                .filter(Boolean)
                .join(', '),
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
