import { size } from '@/core/format';
import type { CacheWay } from '@/core/media/coldProof';
import { modelLabel } from '@/core/storage/standInChoice';
import type { StorageTrial } from '@/db/kinds';
import { ConditionsFrame } from '../trial/ConditionsFrame';
import { coldWords } from '../trialWords';

const cacheOf = ({ settings }: StorageTrial): CacheWay | undefined =>
  'cache' in settings ? settings.cache : undefined;

/** Under what a storage trial was made. */
export function StorageConditionsList({ trial }: { trial: StorageTrial }) {
  const { subject, conditions } = trial;
  const { volumeFacts: facts } = subject;
  return (
    <ConditionsFrame
      trial={trial}
      rows={[
        ...(conditions?.cold ? [['Reads', coldWords(conditions.cold, cacheOf(trial))] as const] : []),
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
  );
}
