import { dateTime, memory, percent, quantity, size, times } from '@/core/format';
import type { ReactNode } from 'react';
import type { GraphicsSummary } from '@/core/rig/graphics';
import { clockWords, temperatureWords, throttleWords, type SensorSummary } from '@/core/rig/sensors';
import { linkNames, type LinkSummary } from '@/core/rig/networkLink';
import type { RigState } from '@/core/rig/identity';
import type { TrialRow } from '@/db/kinds';
import { Facts } from '../parts/Figure';
import { othersWords } from './RigDuring';
import { pulseSentence } from '@/core/sentences/rig';

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
            ...sensorRows(load?.sensors, conditions?.rigState),
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
            ...(load?.link ? [['Network to its volumes', linkWords(load.link)] as const] : []),
            ['Graphics', graphicsWords(load?.graphics)],
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

/** What passed the network to a run's volumes, in words. */
function linkWords({ links, carriedBytes, movedBytes }: LinkSummary): string {
  const ratio = movedBytes > 0 ? `: ${times(carriedBytes / movedBytes)}` : '';
  return `${linkNames(links)}: ${size(carriedBytes)} by any program, for ${size(movedBytes)} that the trial read and wrote${ratio}`;
}

/** What the graphics did over a run, in words. */
function graphicsWords(graphics: GraphicsSummary | null | undefined): string {
  if (!graphics) return 'not reported by the system';
  const share = (name: string, told: GraphicsSummary['graphicsLoad']) =>
    told && `${name} ${percent(told.mean, 0)} (peak ${percent(told.most, 0)})`;
  const bytes = (name: string, told: GraphicsSummary['graphicsMemoryBytes']) =>
    told && `${name} at most ${memory(told.most)}`;
  return [
    share('all', graphics.graphicsLoad),
    share('trial', graphics.trialGraphicsLoad),
    share('its decode engine', graphics.trialDecodeEngineLoad),
    share('its encode engine', graphics.trialEncodeEngineLoad),
    bytes('memory of all', graphics.graphicsMemoryBytes),
    bytes('memory of the trial', graphics.trialGraphicsMemoryBytes),
  ]
    .filter(Boolean)
    .join(', ');
}

/** What the processor's sensors told over the run, of an older one at its start; many machines tell nothing. */
function sensorRows(sensors: SensorSummary | null | undefined, state: RigState | undefined): Row[] {
  const atStart = (value: number | null | undefined, digits: number, unit: string) =>
    value == null ? null : `${quantity(value, unit, digits)} at the start`;
  const told = [
    ['Clock', clockWords(sensors) ?? atStart(state?.clockGigahertz, 2, 'GHz')],
    ['Temperature', temperatureWords(sensors) ?? atStart(state?.temperatureCelsius, 0, '°C')],
    ['Throttled', throttleWords(sensors)],
  ] as const;
  return told.every(([, words]) => words === null)
    ? [['Clock, temperature, throttling', 'not reported by the system: see the pulse']]
    : told.map(([name, words]) => [name, words ?? 'not reported by the system']);
}
