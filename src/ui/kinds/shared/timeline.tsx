'use client';
import Link from 'next/link';
import type { ComponentType, ReactNode } from 'react';
import { askedAgain } from '@/core/decode/decoding';
import { kinds, type TimelineKind } from '@/core/kinds/kinds';
import { volumesOf } from '@/core/timeline/subject';
import type { DecodeTrial, TimelineTrial, TrialRow } from '@/db/kinds';
import type { TrialPage } from '@/server/trials/trialPage';
import { FaultsNote } from '../../parts/FaultsNote';
import { Simulated } from '../../parts/Simulated';
import { useProgress } from '../../shell/status';
import { DecodedStreams } from '../../trial/DecodedStreams';
import { workedRows } from '../../trial/Conditions';
import { ConditionsFrame } from '../../trial/ConditionsFrame';
import { LiveFrame } from '../../trial/LiveFrame';
import { ResultFrame } from '../../trial/ResultFrame';
import type { Possible } from '../../trial/TrialActions';
import type { KindView, WithSummary } from '../kind';
import { coldWords, filesWords } from '../../trialWords';
import { testWords } from '../../timeline/testWords';
import type { TimelineTrialProgress } from '@/core/kinds/shared/timeline';

/** Which timeline was tried out, from where. */
function TimelineLine({ trial }: { trial: TimelineTrial }) {
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

function TimelineLive({ page: { trial } }: { page: TrialPage<TimelineKind> }) {
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
function TimelineResult({ page, children }: { page: TrialPage<TimelineKind>; children: ReactNode }) {
  const { trial } = page;
  return (
    <ResultFrame page={page} answer={trial.status === 'done' && trial.outcome}>
      {children}
      {'decoding' in trial.settings && (
        <DecodedStreams decoding={trial.settings.decoding} streams={trial.record?.streams} />
      )}
      <FaultsNote faults={trial.record?.faults} />
      <Conditions test={trial} />
    </ResultFrame>
  );
}

function Conditions({ test }: { test: TimelineTrial }) {
  const { record, settings, subject } = test;
  return (
    <ConditionsFrame
      trial={test}
      rows={[
        [
          'Reads',
          record?.cold ? coldWords(record.cold, 'cache' in settings ? settings.cache : undefined) : '–',
        ],
        ['Read', filesWords(subject.timeline)],
        ...workedRows(test),
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
      ]}
    />
  );
}

/** Settings as they are asked for. */
export function askedSettings(
  settings: TimelineTrial['settings'] | DecodeTrial['settings'],
): Readonly<Record<string, unknown>> {
  if (!('decoding' in settings)) return { ...settings };
  const { decoding, ...others } = settings;
  return { ...others, decodeOn: askedAgain(decoding) };
}

/** What can be done with one. @param again what its kind asks for besides the timeline */
function timelinePossible(
  trial: TimelineTrial,
  record: string,
  again: Readonly<Record<string, unknown>>,
): Possible {
  const { timeline } = trial.subject;
  return {
    noun: 'result',
    again: { ...askedSettings(trial.settings), timelineId: timeline.id, read: timeline.read, ...again },
    record,
    goes: `${testWords(trial)} on ${timeline.name} is removed with all that was measured. This cannot be undone.`,
    home: kinds[trial.kind].page,
  };
}

/** A kind that tries a timeline out, by what it shows of what was measured. @param again what it asks for besides the timeline */
export function timelineView<Kind extends TimelineKind>(
  Figures: ComponentType<{ trial: WithSummary<Kind> }>,
  record: string,
  again: (trial: TrialRow<Kind>) => Readonly<Record<string, unknown>> = () => ({}),
): KindView<Kind> {
  const view: KindView<TimelineKind> = {
    Line: TimelineLine,
    Live: TimelineLive,
    Result: ({ page }) => (
      <TimelineResult page={page}>
        {page.trial.summary && <Figures trial={page.trial as unknown as WithSummary<Kind>} />}
      </TimelineResult>
    ),
    possible: ({ trial }) => timelinePossible(trial, record, again(trial as unknown as TrialRow<Kind>)),
  };
  return view as unknown as KindView<Kind>;
}
