import { modelLabel } from '@/core/storage/standInChoice';
import type { StorageTrial } from '@/db/kinds';
import { dateTime, memory, percent, size } from '../format';
import { Facts } from '../parts/Figure';
import { coldWords } from '../trial/words';

/** Under what the trial was made: all that must be the same for another to compare with it. */
export function StorageConditionsList({ trial }: { trial: StorageTrial }) {
  const { subject, conditions, load } = trial;
  const { volumeFacts: facts } = subject;
  return (
    <section aria-label="Conditions">
      <h2>Conditions</h2>
      <div className="mt-2 grid gap-x-10 gap-y-3 lg:grid-cols-2">
        <Facts
          rows={[
            ...(conditions?.cold ? [['Reads', coldWords(conditions.cold)] as const] : []),
            ...(conditions?.writes
              ? [
                  [
                    'Writes',
                    conditions.writes === 'direct'
                      ? 'Every write went to the device past the system’s cache.'
                      : 'Every write went through the system’s cache and was waited for until the device had it.',
                  ] as const,
                ]
              : []),
            [
              'Volume',
              `${subject.volumeKind}, ${facts.fileSystem} on ${facts.network ? facts.network.server : facts.device}, ${size(facts.freeBytes)} free`,
            ],
            [
              'Folder',
              <span key="path" className="figure break-all">
                {subject.volumePath}
              </span>,
            ],
            ...(subject.standIn
              ? [['Model, simulated', modelLabel(subject.standIn)] as const]
              : [['Link', subject.link || 'not noted'] as const]),
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
              'When',
              `${trial.startedAt ? dateTime(trial.startedAt) : 'not begun'}, Navvy ${conditions?.softwareVersion ?? '–'}`,
            ],
          ]}
        />
      </div>
    </section>
  );
}
