'use client';
import { count, duration, fixed, memory, percent } from '@/core/format';
import Link from 'next/link';
import { useEffect, useState } from 'react';
import { taskPage } from '@/core/kinds/shared/task';
import { minutesText, soakedWords, type SoakProgress } from '@/core/kinds/soak';
import { settingConditions } from '@/core/kinds/kinds';
import { volumesOf } from '@/core/timeline/subject';
import type { SoakPoint } from '@/core/tasks/soak';
import { toNumber } from '@/core/time/rational';
import type { TrialRow } from '@/db/kinds';
import { Figure, FigureRow } from '../parts/Figure';
import { Simulated } from '../parts/Simulated';
import { useProgress } from '../shell/status';
import { SoakChart } from '../tasks/SoakChart';
import { askedCourse } from '../trial/askedCourse';
import { workedRows } from '../trial/Conditions';
import { ConditionsFrame } from '../trial/ConditionsFrame';
import { LiveFrame } from '../trial/LiveFrame';
import { ResultFrame } from '../trial/ResultFrame';
import { filesWords } from '../trialWords';
import type { KindView, WithSummary } from './kind';
import { ColumnHeads } from '../table/ColumnHeads';

type Soaked = TrialRow<'soak'>;

export const soak: KindView<'soak'> = {
  Line,
  Live: ({ page: { trial } }) => <Live trial={trial} />,
  Result: ({ page }) => {
    const { trial } = page;
    return (
      // A machine that slows down is what a soak is there to find.
      <ResultFrame page={page} answer={trial.status === 'done' && trial.outcome} decides={false}>
        {trial.summary && <Figures trial={trial as WithSummary<'soak'>} />}
        <Conditions trial={trial} />
      </ResultFrame>
    );
  },
  possible: ({ trial }) => ({
    noun: 'soak',
    again: againOf(trial),
    record: 'Points',
    goes: 'The soak and all that it measured are removed. This cannot be undone.',
    home: taskPage,
  }),
};

/** The same soak as it is asked for. What its task knows nothing of is left out. */
function againOf({ settings: { minutes, work }, subject }: Soaked) {
  const { timeline } = subject;
  const asked = {
    ...work.settings,
    kind: work.kind,
    timelineId: timeline.id,
    ...askedCourse(timeline),
    ...('target' in subject ? { targetVolumeId: subject.target.volumeId } : {}),
  };
  return { minutes, work: asked };
}

function Line({ trial }: { trial: Soaked }) {
  const { subject, settings } = trial;
  const { names, simulated } = volumesOf(subject);
  return (
    <>
      <span className="text-base font-semibold text-ink">
        Soak of {minutesText(settings.minutes)}: {soakedWords(trial)}
      </span>
      <Link
        prefetch={false}
        href={`/timelines/${subject.timeline.id}`}
        className="break-all underline decoration-edge underline-offset-4"
      >
        {subject.timeline.name}
      </Link>
      <span>
        from {names.join(', ')} {simulated && <Simulated />}
        {'target' in subject && (
          <>
            to {subject.target.volumeName} {subject.target.standIn && <Simulated />}
          </>
        )}
      </span>
    </>
  );
}

/** Points as they are told, behind those that were saved. */
function usePoints(trial: Soaked, progress: SoakProgress | null): readonly SoakPoint[] {
  const [told, setTold] = useState<SoakPoint[]>([]);
  useEffect(() => {
    if (progress?.framesPerSecond == null) return;
    const { seconds, framesPerSecond } = progress;
    setTold((before) => {
      const lengthS = seconds - (before.at(-1)?.atS ?? 0);
      if (lengthS < 1) return before;
      return [...before, { atS: seconds, seconds: lengthS, framesPerSecond, dropped: 0 }].slice(-2_000);
    });
  }, [progress]);
  const saved = trial.record?.points ?? [];
  const from = saved.at(-1)?.atS ?? 0;
  return [...saved, ...told.filter(({ atS }) => atS > from)];
}

function Live({ trial }: { trial: Soaked }) {
  const progress = useProgress<SoakProgress>(trial.id) ?? trial.progress;
  const points = usePoints(trial, progress);
  const isPlayed = trial.settings.work.kind === 'playback';
  return (
    <LiveFrame
      trial={trial}
      noun="soak"
      now={
        progress
          ? `${duration(progress.seconds * 1000)} of ${minutesText(trial.settings.minutes)}, in pass ${count(progress.passes + 1)}${isPlayed ? `, ${count(progress.dropped)} slots dropped` : ''}`
          : 'Opening the media'
      }
      share={progress ? Math.min(1, progress.seconds / progress.total) : 0}
      msLeft={progress?.msLeft ?? null}
      stopping="At a cancel, what was measured stays."
    >
      <SoakChart points={points} needed={isPlayed ? toNumber(trial.subject.timeline.rate) : null} />
    </LiveFrame>
  );
}

function Figures({ trial: { summary, record } }: { trial: WithSummary<'soak'> }) {
  const { seconds, done, frames, dropped, needed, levels, atFirst, sustained, workedS } = summary;
  const last = levels.at(-1);
  return (
    <>
      <FigureRow columns={4}>
        <Figure
          name="Sustained, frames/s"
          note={last && levels.length > 1 ? `from ${duration(last.fromS * 1000)} on` : 'from first to last'}
        >
          {fixed(sustained, 1)}
        </Figure>
        <Figure
          name="At first, frames/s"
          note={levels[0] && levels.length > 1 ? `for ${duration(levels[0].toS * 1000)}` : 'the same'}
        >
          {fixed(atFirst, 1)}
        </Figure>
        {needed === null ? (
          <Figure name="Made" note={`${count(done)} times`}>
            {count(frames)} frames
          </Figure>
        ) : (
          <Figure name="Dropped" note={`${percent(dropped / Math.max(1, frames))} of ${count(frames)} slots`}>
            {count(dropped)}
          </Figure>
        )}
        <Figure
          name="Memory of its process"
          note={
            summary.lastPeakBytes === null ? undefined : `${memory(summary.lastPeakBytes)} in the last passes`
          }
        >
          {summary.firstPeakBytes === null ? '–' : memory(summary.firstPeakBytes)}
        </Figure>
      </FigureRow>
      {record && (
        <section aria-label="Over the soak" className="flex flex-col gap-2">
          <h2>Over the soak</h2>
          <SoakChart points={record.points} levels={levels} needed={needed} />
          {levels.length > 1 && <Levels levels={levels} />}
          <p className="text-sm text-muted">
            {percent(1 - Math.min(1, workedS / Math.max(1, seconds)), 0)} of the time lay between passes,
            while the next one started.
          </p>
        </section>
      )}
    </>
  );
}

function Levels({ levels }: { levels: WithSummary<'soak'>['summary']['levels'] }) {
  return (
    <table aria-label="Levels" className="w-full max-w-2xl border-collapse border bg-surface text-sm">
      <ColumnHeads names={['From', 'To', 'Frames/s, median', 'Against the level before']} />
      <tbody>
        {levels.map(({ fromS, toS, framesPerSecond }, at) => {
          const before = levels[at - 1];
          const change = before && framesPerSecond / before.framesPerSecond - 1;
          return (
            <tr key={fromS} className="border-b last:border-b-0">
              <td className="figure px-3 py-1.5">{duration(fromS * 1000)}</td>
              <td className="figure px-3 py-1.5">{duration(toS * 1000)}</td>
              <td className="figure px-3 py-1.5">{fixed(framesPerSecond, 1)}</td>
              <td className="figure px-3 py-1.5">
                {change === undefined ? '–' : `${change < 0 ? '−' : '+'}${percent(Math.abs(change), 0)}`}
              </td>
            </tr>
          );
        })}
      </tbody>
    </table>
  );
}

function Conditions({ trial }: { trial: Soaked }) {
  const { subject, settings } = trial;
  const { course } = subject.timeline;
  return (
    <ConditionsFrame
      trial={trial}
      rows={[
        [
          'Each pass',
          course.loop
            ? `${count(course.slots)} slots, round and round from ${count(course.loop.from)} to ${count(course.loop.to)}`
            : `${count(course.slots)} frames from slot ${count(course.from)}`,
        ],
        ...Object.entries(settingConditions({ kind: 'soak', settings })),
        ['Read', filesWords(subject.timeline)],
        ...workedRows(trial),
        [
          'Reads',
          'as cold as each pass by itself: its files are put out of the system’s cache before it, unless it is warm on purpose',
        ],
      ]}
    />
  );
}
