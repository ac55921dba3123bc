'use client';
import {
  clockTime,
  count,
  fixed,
  megabytesPerSecond,
  memory,
  milliseconds,
  percent,
  quantity,
  size,
  times,
} from '@/core/format';
import Link from 'next/link';
import { useEffect, useMemo, useState } from 'react';
import { slotTimecode, volumesOf } from '@/core/timeline/subject';
import type { GraphicsSummary } from '@/core/rig/graphics';
import { plainName } from '@/core/simulated';
import type { TaskProgress } from '@/core/kinds/shared/task';
import { timesLength } from '@/core/tasks/taskSummary';
import { noWindows, ratesOf } from '@/core/tasks/windows';
import { prerenderedWords } from '@/core/tasks/prerender';
import type { TaskKind } from '@/core/kinds/kinds';
import type { TrialRow } from '@/db/kinds';
import { FaultsNote } from '../../parts/FaultsNote';
import { Figure, FigureRow } from '../../parts/Figure';
import { Simulated } from '../../parts/Simulated';
import { useProgress } from '../../shell/status';
import { StageTable } from '../../tasks/StageTable';
import { TaskCoresChart, TaskRateChart } from '../../tasks/TaskChart';
import { nowWords, stageStyles } from '../../tasks/words';
import { workedRows } from '../../trial/Conditions';
import { ConditionsFrame } from '../../trial/ConditionsFrame';
import { LiveFrame } from '../../trial/LiveFrame';
import { LiveViewer } from '../../trial/LiveTrial';
import { ResultFrame } from '../../trial/ResultFrame';
import { coldWords, filesWords } from '../../trialWords';
import type { KindView, WithSummary } from '../kind';
import { foundSentence, proofSentence } from '@/core/sentences/tasks';

type Task = TrialRow<TaskKind>;
type Summarised = WithSummary<TaskKind>;

/** What a kind of task says of itself; all else is alike of all. */
interface TaskViewOptions<Kind extends TaskKind> {
  /** "export", in sentences. */
  readonly noun: string;
  readonly title: (trial: TrialRow<Kind>) => string;
  /** Conditions of this kind, by name and in words. */
  readonly conditions: (trial: TrialRow<Kind>) => readonly (readonly [string, string])[];
  /** What goes when a result is removed. */
  readonly goes: string;
}

/** How a task is shown: what it is, how far it is, what it took and what held it back. */
export function taskView<Kind extends TaskKind>({
  noun,
  title,
  conditions,
  goes,
}: TaskViewOptions<Kind>): KindView<Kind> {
  return {
    Line: ({ trial }) => <Line trial={trial as unknown as Task} title={title(trial)} />,
    Live: ({ page: { trial } }) => <Live trial={trial as unknown as Task} noun={noun} />,
    Result: ({ page }) => {
      const trial = page.trial as unknown as Task;
      return (
        <ResultFrame page={page} answer={trial.status === 'done' && trial.outcome}>
          {trial.summary && <Figures trial={trial as Summarised} />}
          <FaultsNote faults={trial.record?.faults} />
          <Conditions trial={trial} own={conditions(page.trial)} />
        </ResultFrame>
      );
    },
    possible: ({ trial: { settings, subject } }) => {
      const { timeline, target } = subject as Task['subject'];
      const { course, read } = timeline;
      return {
        noun,
        again: {
          ...settings,
          timelineId: timeline.id,
          read,
          from: course.from,
          to: course.from + course.slots,
          ...(course.prerendered ? { prerendered: true } : {}),
          targetVolumeId: target.volumeId,
        },
        record: 'Raw windows',
        goes,
        home: '/trials/tasks',
      };
    },
  };
}

/** What is worked on, how, and where the result goes. */
function Line({ trial: { subject }, title }: { trial: Task; title: string }) {
  const { timeline, target } = subject;
  const sources = volumesOf(subject);
  return (
    <>
      <span className="text-base font-semibold text-ink">{title}</span>
      <Link
        prefetch={false}
        href={`/timelines/${timeline.id}`}
        className="break-all underline decoration-edge underline-offset-4"
      >
        {timeline.name}
      </Link>
      <span>
        {timeline.width}x{timeline.height}, {timeline.read}
        {timeline.course.prerendered && ', from pre-rendered'}, from {sources.names.join(', ')}{' '}
        {sources.simulated && <Simulated />} to {target.volumeName} {target.standIn && <Simulated />}
      </span>
    </>
  );
}

/** Frames a second as they are told, behind those that were saved. */
function useRates(trial: Task, progress: TaskProgress | null) {
  const [told, setTold] = useState<{ atMs: number; framesPerSecond: number }[]>([]);
  useEffect(() => {
    if (progress?.phase !== 'working') return;
    const { framesPerSecond } = progress;
    setTold((before) => [...before, { atMs: Date.now(), framesPerSecond }].slice(-2_000));
  }, [progress]);
  return useMemo(() => {
    const saved = ratesOf(trial.record?.windows ?? noWindows);
    const from = saved.at(-1)?.atS ?? 0;
    const [first] = told;
    return [
      ...saved,
      ...told.map(({ atMs, framesPerSecond }) => ({
        atS: from + (atMs - (first?.atMs ?? atMs)) / 1000,
        framesPerSecond,
      })),
    ];
  }, [trial, told]);
}

function Live({ trial, noun }: { trial: Task; noun: string }) {
  const progress = useProgress<TaskProgress>(trial.id) ?? trial.progress;
  const rates = useRates(trial, progress);
  const timecodeAt = useMemo(() => slotTimecode(trial.subject), [trial]);
  return (
    <LiveFrame
      trial={trial}
      now={nowWords(progress)}
      noun={noun}
      share={progress && progress.total > 0 ? progress.frames / progress.total : 0}
      stopping="At a cancel, what was written so far is removed."
    >
      <div className="grid gap-4 lg:grid-cols-[minmax(0,420px)_1fr]">
        <LiveViewer
          trialId={trial.id}
          running={trial.status === 'running'}
          timecodeAt={timecodeAt}
          note="Some of the pictures, after they went to the encoder."
          when="as encoded"
        />
        <div className="flex flex-col gap-3">
          <FigureRow>
            <Figure name="Frames">
              {progress ? `${count(progress.frames)} of ${count(progress.total)}` : '–'}
            </Figure>
            <Figure name="Now, frames/s">{progress ? fixed(progress.framesPerSecond, 1) : '–'}</Figure>
            <Figure
              name="Time left"
              note={
                progress?.spreadMs == null
                  ? 'spread not known yet'
                  : `give or take ${clockTime(progress.spreadMs)}`
              }
            >
              {progress?.msLeft == null ? '–' : clockTime(progress.msLeft)}
            </Figure>
            <Figure name="Most at work">
              {progress?.busiest ? stageStyles[progress.busiest].word : '–'}
            </Figure>
          </FigureRow>
          <TaskRateChart points={rates} />
        </div>
      </div>
    </LiveFrame>
  );
}

function Figures({ trial: { status, summary, record, conditions, load } }: { trial: Summarised }) {
  const { held } = summary;
  const factor = timesLength(summary);
  const seconds = summary.elapsedMs / 1000;
  const rates = record ? ratesOf(record.windows) : [];
  return (
    <>
      <FigureRow columns={5}>
        <Figure name="Took" note={`for ${quantity(summary.mediaSeconds, 's', 2)} of media`}>
          {clockTimeFine(summary.elapsedMs)}
        </Figure>
        <Figure name="Real time" note={factor === null ? undefined : `${fixed(factor, 2)} times its length`}>
          {factor === null ? '–' : times(1 / factor)}
        </Figure>
        <Figure
          name="Steady rate, frames/s"
          note={
            summary.framesPerSecond
              ? `p5 ${fixed(summary.framesPerSecond.p5, 1)}, p95 ${fixed(summary.framesPerSecond.p95, 1)}`
              : 'too short to tell'
          }
        >
          {summary.framesPerSecond ? fixed(summary.framesPerSecond.p50, 1) : '–'}
        </Figure>
        <Figure name="First frame out" note={`media open after ${milliseconds(summary.openingMs)}`}>
          {milliseconds(summary.startUpMs)}
        </Figure>
        <Figure name="Processor" note={`of ${conditions?.rig.logicalCores ?? '–'}`}>
          {fixed(summary.cores, 2)} cores
        </Figure>
        <Figure name="Memory, at most">{load?.peakMemoryBytes ? memory(load.peakMemoryBytes) : '–'}</Figure>
        <GraphicsFigure graphics={load?.graphics} />
        <Figure name="Read" note={megabytesPerSecond(summary.bytesRead / seconds)}>
          {size(summary.bytesRead)}
        </Figure>
        <Figure name="Written" note={megabytesPerSecond(summary.bytesWritten / seconds)}>
          {size(summary.bytesWritten)}
        </Figure>
        <Figure name="Size of the result" note={summary.keptAs ?? 'removed after the proof'}>
          {summary.outputBytes === null ? '–' : size(summary.outputBytes)}
        </Figure>
      </FigureRow>
      {status !== 'done' && summary.found && foundSentence(summary.found) !== '' && (
        <p className="text-sm">
          <span className="font-semibold">Found:</span> {foundSentence(summary.found)}
        </p>
      )}
      <Proof record={record} summary={summary} />
      {held && record && (
        <section aria-label="What held it back" className="flex flex-col gap-2">
          <h2>What held it back</h2>
          <StageTable held={held} windows={record.windows} />
          <p className="text-sm text-muted">
            Found by replaying its stages with one of them changed; the unchanged replay takes{' '}
            {percent(held.agreement, 0)} of the measured time.{' '}
            {held.stage && held.least
              ? `${stageStyles[held.stage].word} ${held.least.factor} times as fast would have saved ${percent(held.least.saved, 0)}; more than that helps little further.`
              : ''}
          </p>
        </section>
      )}
      {record && rates.length > 1 && (
        <section aria-label="Over time" className="flex flex-col gap-2">
          <h2>Over time</h2>
          <TaskRateChart points={rates} steady={summary.framesPerSecond?.p50 ?? null} />
          <TaskCoresChart windows={record.windows} cores={conditions?.rig.logicalCores ?? 1} />
        </section>
      )}
    </>
  );
}

/** Load of the graphics by the task, and of the engine that encodes, where the system tells them. */
function GraphicsFigure({ graphics }: { graphics: GraphicsSummary | null | undefined }) {
  const load = graphics?.trialGraphicsLoad ?? graphics?.graphicsLoad;
  const engine = graphics?.trialEncodeEngineLoad;
  const bytes = graphics?.trialGraphicsMemoryBytes ?? graphics?.graphicsMemoryBytes;
  const told = [
    engine && `encode engine ${percent(engine.mean, 0)}`,
    bytes && `at most ${memory(bytes.most)}`,
  ].filter(Boolean);
  return (
    <Figure name="Graphics" note={graphics ? told.join(', ') : 'not reported by the system'}>
      {load ? percent(load.mean, 0) : '–'}
    </Figure>
  );
}

/** Whether what was written is what was asked for, and how like its source it is. */
function Proof({ record, summary }: Pick<Summarised, 'record' | 'summary'>) {
  if (!record?.proof) return null;
  const { proof, likeness } = record;
  return (
    <section aria-label="Proof" className="text-sm">
      <h2>{proof.problems.length === 0 ? 'Proved' : 'Not proved'}</h2>
      <p>
        {proofSentence(proof)} It took {clockTimeFine(summary.provingMs ?? 0)}, which is not in the time
        above.
      </p>
      {likeness && (
        <p>
          Like the pictures that went to the encoder: SSIM {fixed(likeness.ssim, 4)}
          {likeness.psnr === null
            ? ', no difference at all'
            : `, PSNR ${quantity(likeness.psnr, 'dB', 1)}`}{' '}
          over {count(likeness.frames)} frames.
        </p>
      )}
    </section>
  );
}

/** Seconds to a hundredth below a minute. */
const clockTimeFine = (ms: number) => (ms < 60_000 ? quantity(ms / 1000, 's', 2) : clockTime(ms));

function Conditions({ trial, own }: { trial: Task; own: readonly (readonly [string, string])[] }) {
  const { record, settings, subject } = trial;
  const { timeline, target } = subject;
  return (
    <ConditionsFrame
      trial={trial}
      rows={[
        ['Worked on', `${count(timeline.course.slots)} frames from slot ${count(timeline.course.from)}`],
        ...own,
        ['Threads', settings.threads === 0 ? 'one per core' : String(settings.threads)],
        ['Reads', record?.cold ? coldWords(record.cold) : '–'],
        ['From pre-rendered', prerenderedWords(timeline.course)],
        ['Read', filesWords(subject.timeline)],
        ...workedRows(trial),
        ['To', plainName(target.volumeName, target.standIn !== null)],
        ['Writes', 'through the system’s cache; the time ends when all is on the volume'],
      ]}
    />
  );
}

/** As a result was written, once it was. */
export const writtenWords = ({ record }: Pick<Task, 'record'>) =>
  record?.made ? `, ${record.made.pixelFormat} by ${record.made.encoder}` : '';
