'use client';
import { createColumnHelper, type ColumnDef } from '@tanstack/react-table';
import Link from 'next/link';
import { causesOf, chargesByDrops } from '@/core/playback/attribute';
import { dropsByCharge } from '@/core/playback/summary';
import { doubtOf } from '@/core/rig/doubt';
import { answerSentence } from '@/core/playback/sentence';
import { grades } from '@/core/playback/grade';
import { formatLabel } from '@/core/media/format';
import type { TrialTableRow } from '@/db/queries/trials';
import { causeStyles } from '../charts/causes';
import { dateTime, milliseconds } from '../format';
import { Empty } from '../parts/Empty';
import { GradeMark } from '../parts/GradeMark';
import { MiddleName } from '../parts/MiddleName';
import { plainName } from '@/core/simulated';
import { toNumber } from '@/core/time/rational';
import { formatsOf, nameOf, rateOf, volumesOf } from '@/core/playback/subject';
import { Simulated } from '../parts/Simulated';
import { useLive } from '../shell/useLive';
import { DataTable } from '../table/DataTable';
import { policyWords, statusWords } from '../trial/words';

const column = createColumnHelper<TrialTableRow>();
const slotsPerSecond = (trial: TrialTableRow) => toNumber(rateOf(trial.subject));

/** What a run of a timeline did besides playing once at its own speed. */
function courseText({ subject }: TrialTableRow): string {
  if (!subject.timeline) return 'clip';
  const { course, read } = subject.timeline;
  return `${course.speed === 1 ? '1x' : `${course.speed}x`}${course.loop ? ', looped' : ''}, ${read}`;
}

/** A trial's grade, or under "every frame" its speed, or what became of it. */
function resultText(trial: TrialTableRow): string {
  const { summary } = trial;
  if (trial.status !== 'done' || !summary) return statusWords[trial.status];
  return [summary.grade ?? `${summary.timesRealTime?.toFixed(2)}x real time`, doubtOf(trial.load)?.word]
    .filter(Boolean)
    .join(', ');
}

/** Causes that drops are charged to, with how many, most first: "process 36", "decode 1". */
function chargesInWords({ summary }: TrialTableRow): string[] {
  return chargesByDrops(summary ? dropsByCharge(summary) : {}).map(
    ({ charge, drops }) =>
      `${causesOf(charge)
        .map((stage) => causeStyles[stage].word)
        .join('+')} ${drops}`,
  );
}

/** The cause that most drops are charged to; all of them on pointing. */
function MostCharged({ causes }: { causes: readonly string[] }) {
  const [most = '–', ...others] = causes;
  return (
    <span className="block min-w-20" title={causes.join(', ')}>
      {most}
      {others.length > 0 && <span className="block text-xs text-muted">and {others.length} more</span>}
    </span>
  );
}

const columns = [
  column.accessor((trial) => trial.createdAt, {
    id: 'started',
    header: 'Started',
    cell: ({ row }) => (
      <Link
        prefetch={false}
        className="figure whitespace-nowrap underline decoration-edge underline-offset-4"
        href={`/trials/${row.original.id}`}
      >
        {dateTime(row.original.createdAt)}
      </Link>
    ),
    meta: { text: (trial) => dateTime(trial.createdAt) },
  }),
  column.accessor((trial) => nameOf(trial.subject), {
    id: 'clip',
    header: 'Clip or timeline',
    cell: ({ row }) => <MiddleName name={nameOf(row.original.subject)} />,
  }),
  column.accessor((trial) => volumesOf(trial.subject).names.join(', '), {
    id: 'volume',
    header: 'Volume',
    meta: {
      text: ({ subject }) => plainName(volumesOf(subject).names.join(', '), volumesOf(subject).simulated),
    },
    cell: ({
      row: {
        original: { subject },
      },
    }) => (
      <>
        <MiddleName name={volumesOf(subject).names.join(', ')} tail={8} />
        {volumesOf(subject).simulated && <Simulated />}
      </>
    ),
  }),
  column.accessor((trial) => courseText(trial), { id: 'course', header: 'Course' }),
  column.accessor((trial) => trial.settings.scale, { id: 'scale', header: 'Scale' }),
  column.accessor((trial) => (trial.summary?.grade ? grades.indexOf(trial.summary.grade) : 9), {
    id: 'result',
    header: 'Result',
    meta: { text: resultText },
    cell: ({ row: { original } }) =>
      original.status === 'done' && original.summary?.grade ? (
        <>
          <GradeMark grade={original.summary.grade} />
          <span className="block text-xs text-signal-text">{doubtOf(original.load)?.word}</span>
        </>
      ) : (
        <span className={original.status === 'done' ? '' : 'text-muted'}>{resultText(original)}</span>
      ),
  }),
  column.accessor((trial) => trial.summary?.dropped ?? null, {
    id: 'dropped',
    header: 'Dropped',
    meta: { figures: true },
    cell: ({ row: { original } }) =>
      original.summary ? `${original.summary.dropped} / ${original.summary.slots}` : '–',
  }),
  column.accessor((trial) => chargesInWords(trial).join(', ') || '–', {
    id: 'cause',
    header: 'Dropped by',
    cell: ({ row }) => <MostCharged causes={chargesInWords(row.original)} />,
  }),
  column.accessor((trial) => trial.summary?.achievedRate ?? null, {
    id: 'rate',
    header: 'Achieved /s',
    meta: { figures: true },
    cell: ({ row }) => row.original.summary?.achievedRate.toFixed(1) ?? '–',
  }),
  column.accessor((trial) => trial.summary?.pacingMs?.p99 ?? null, {
    id: 'pacing',
    header: 'Pacing p99',
    meta: { figures: true },
    cell: ({ getValue }) => milliseconds(getValue()),
  }),
  column.accessor((trial) => (trial.cold === null ? '–' : trial.cold === 'warm' ? 'warm' : 'cold'), {
    id: 'cache',
    header: 'Cache',
  }),
  column.accessor((trial) => policyWords[trial.settings.policy], { id: 'policy', header: 'Late frames' }),
  column.accessor((trial) => [...new Set(formatsOf(trial.subject).map(formatLabel))].join('; '), {
    id: 'format',
    header: 'Format',
  }),
  column.accessor(
    (trial) => (trial.summary ? answerSentence(trial.summary, slotsPerSecond(trial)) : (trial.outcome ?? '')),
    { id: 'answer', header: 'Answer' },
  ),
] as ColumnDef<TrialTableRow, never>[];

/** @param timelineId only runs of this timeline */
export function TrialTable({
  trials: initial,
  timelineId = null,
}: {
  trials: TrialTableRow[];
  timelineId?: string | null;
}) {
  const [trials] = useLive(
    initial,
    timelineId === null ? '/api/trials' : `/api/trials?timeline=${timelineId}`,
    (event) => event.type === 'trial-status',
  );
  return (
    <DataTable
      label="Trials"
      rows={trials}
      columns={columns}
      rowId={(trial) => trial.id}
      initialSort={[{ id: 'started', desc: true }]}
      hidden={{
        answer: false,
        format: false,
        policy: false,
        course: timelineId !== null,
        clip: timelineId === null,
      }}
      fileName="navvy-trials"
      empty={
        <Empty title="No trial yet">
          Each trial leaves a line here, with its result one step away. Choose a clip and a playback scale
          above, then press Play and measure.
        </Empty>
      }
    />
  );
}
