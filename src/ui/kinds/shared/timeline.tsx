'use client';
import Link from 'next/link';
import type { ReactNode } from 'react';
import type { TimelineKind } from '@/core/kinds/kinds';
import { volumesOf } from '@/core/playback/subject';
import type { TimelineTrial } from '@/db/kinds';
import type { TrialPage } from '@/server/trialPage';
import { dateTime, memory, percent } from '../../format';
import { FaultsNote } from '../../parts/FaultsNote';
import { Facts } from '../../parts/Figure';
import { Simulated } from '../../parts/Simulated';
import { useProgress } from '../../shell/status';
import { LiveFrame } from '../../trial/LiveFrame';
import { ResultFrame } from '../../trial/ResultFrame';
import type { Possible } from '../../trial/TrialActions';
import { coldWords } from '../../trial/words';
import { testWords } from '../../timeline/testWords';
import type { TimelineTrialProgress } from '@/core/kinds/shared/timeline';

/** Which timeline was tried out, from where. */
export function TimelineLine({ trial }: { trial: TimelineTrial }) {
  const { timeline } = trial.subject;
  return (
    <>
      <span className="inline-block text-base font-semibold text-ink first-letter:uppercase">
        {testWords(trial)}
      </span>
      <Link
        prefetch={false}
        href={`/timelines/${timeline.id}`}
        className="underline decoration-edge underline-offset-4"
      >
        {timeline.name}
      </Link>
      <span>
        {timeline.width}x{timeline.height}, {timeline.read}, from {volumesOf(trial.subject).names.join(', ')}{' '}
        {volumesOf(trial.subject).simulated && <Simulated />}
      </span>
    </>
  );
}

export function TimelineLive({ page: { trial } }: { page: TrialPage<TimelineKind> }) {
  const progress = useProgress<TimelineTrialProgress>(trial.id);
  return (
    <LiveFrame
      trial={trial}
      now={progress?.note ?? 'Opening the media'}
      share={progress?.share ?? 0}
      msLeft={progress?.msLeft ?? null}
    />
  );
}

/** The result of a trial of a timeline; its kind puts its pictures and its numbers into it. */
export function TimelineResult({ page, children }: { page: TrialPage<TimelineKind>; children: ReactNode }) {
  const { trial } = page;
  return (
    <ResultFrame page={page} answer={trial.status === 'done' && trial.outcome}>
      {children}
      <FaultsNote faults={trial.record?.faults} />
      <Conditions test={trial} />
    </ResultFrame>
  );
}

function Conditions({
  test: { conditions, record, settings, subject, load, startedAt, endedAt },
}: {
  test: TimelineTrial;
}) {
  if (!conditions) return null;
  return (
    <section aria-label="Conditions">
      <h2 className="mb-2">Conditions</h2>
      <Facts
        rows={[
          [
            'Rig',
            `${conditions.rig.processor}, ${conditions.rig.logicalCores} cores, ${memory(conditions.rig.memoryBytes)}`,
          ],
          ['Reads', record?.cold ? coldWords(record.cold) : '–'],
          [
            'Read',
            Object.values(subject.timeline.media)
              .map(
                ({ path, role, volumeName, standIn }) =>
                  `${path} (${role}) from ${volumeName}${standIn ? ', simulated' : ''}`,
              )
              .join('; '),
          ],
          ...(settings.kind === 'scrub' && settings.gesture.kind !== 'recorded'
            ? [['Gesture', `${settings.gesture.kind}, seed ${settings.gesture.seed}`] as const]
            : []),
          ...(settings.kind === 'scrub'
            ? [
                [
                  'Requests',
                  'the newest wins; what is overtaken is given up at the next stage boundary',
                ] as const,
              ]
            : []),
          [
            'Load by others',
            load
              ? `${percent(load.othersMean, 0)} mean, ${percent(load.othersPeak, 0)} peak`
              : 'not measured',
          ],
          [
            'Made',
            `${startedAt ? dateTime(startedAt) : '–'} to ${endedAt ? dateTime(endedAt) : '–'}, Navvy ${conditions.softwareVersion}`,
          ],
        ]}
      />
    </section>
  );
}

/** What can be done with one. @param again what its kind asks for besides the timeline */
export function timelinePossible(
  trial: TimelineTrial,
  record: string,
  again: Readonly<Record<string, unknown>>,
): Possible {
  const { timeline } = trial.subject;
  return {
    noun: 'result',
    again: { ...trial.settings, timelineId: timeline.id, read: timeline.read, ...again },
    record,
    goes: `${testWords(trial)} on ${timeline.name} goes with all that was measured. This cannot be undone.`,
    home: '/timelines/tests',
  };
}
