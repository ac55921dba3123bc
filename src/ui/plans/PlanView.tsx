'use client';
import { clockTime, count, dateTime, quantity, significant } from '@/core/format';
import type { PlanAction } from '@/core/asked/plans';
import { createColumnHelper, type ColumnDef } from '@tanstack/react-table';
import { clsx } from 'clsx';
import { GitCompareArrows, Pause, Play, RotateCcw, SkipForward, Square, Trash2 } from 'lucide-react';
import Link from 'next/link';
import { useRouter } from 'next/navigation';
import { useCallback, useMemo } from 'react';
import { kindNames, metrics } from '@/core/kinds/kinds';
import { groupBy } from '@/core/groups';
import { runsToMakeUp } from '@/core/plan/makeUp';
import { questionName } from '@/core/plan/questions';
import { worseGrade } from '@/core/choose/judge';
import type { Grade } from '@/core/playback/grade';
import { plainName } from '@/core/simulated';
import { median } from '@/core/stats/quantiles';
import { callApi } from '../api';
import { Button, LinkButton } from '../parts/Button';
import { ConfirmButton } from '../parts/Confirm';
import { FormError } from '../parts/Field';
import { GradeMark } from '../parts/GradeMark';
import { MiddleName } from '../parts/MiddleName';
import { Progress } from '../parts/Progress';
import { Simulated } from '../parts/Simulated';
import { useCommands } from '../keys/commands';
import { useLive } from '../shell/useLive';
import { useStatus } from '../shell/status';
import { DataTable } from '../table/DataTable';
import { useSend } from '../useSend';
import { stepMarks } from './words';
import type { PlanPage } from '../pages';

type Step = PlanPage['steps'][number];
interface Row {
  readonly cell: PlanPage['cells'][number];
  readonly steps: readonly Step[];
  readonly grade: Grade | null;
  /** Median of the metric that decides, over the runs that count. */
  readonly figure: {
    readonly name: string;
    readonly unit: string;
    readonly value: number;
    readonly runs: number;
  } | null;
}

const counts = ({ status, headline }: Step) =>
  status === 'done' && headline !== null && headline.excluded === null;

function rowOf(cell: PlanPage['cells'][number], steps: readonly Step[]): Row {
  const serving = steps.filter(counts);
  const metric = metrics.find(({ id }) => serving.some(({ headline }) => headline?.values[id] !== undefined));
  const values = metric ? serving.flatMap(({ headline }) => headline?.values[metric.id] ?? []) : [];
  const grades = serving.flatMap(({ headline }) => headline?.grade ?? []);
  return {
    cell,
    steps,
    grade: grades.length > 0 ? grades.reduce(worseGrade) : null,
    figure:
      metric && values.length > 0
        ? { name: metric.name, unit: metric.unit, value: median(values), runs: values.length }
        : null,
  };
}

/** A series or matrix: how far it is, what came of each condition so far, and what can be done with it. */
export function PlanView({ initial }: { initial: PlanPage }) {
  const { id } = initial.plan;
  const [{ plan, cells, steps, msLeft, from }] = useLive(
    initial,
    'GET /api/plans/{id}',
    (event) => event.type === 'plan' && event.planId === id,
    { ids: { id } },
  );
  const { busy, error, send } = useSend();
  const act = useCallback<Act>(
    (action, more = {}) => {
      void send('POST /api/plans/{id}/actions', { ids: { id }, body: { action, ...more } });
    },
    [send, id],
  );
  const rows = useMemo(() => {
    const byCell = groupBy(steps, ({ cell }) => cell);
    return cells.map((cell) => rowOf(cell, byCell.get(cell.cell) ?? []));
  }, [cells, steps]);
  const columns = useMemo(() => [...conditionColumns, ...resultColumns, skipColumn(act)], [act]);
  const isThrough = cells.some(({ labels }) => labels.cache === 'through');
  const isOnDevice = cells.some(({ address }) => address.deviceId !== undefined);
  const ended = steps.filter(({ status }) => status !== 'waiting' && status !== 'running').length;
  const running = plan.status === 'running';
  const open = running || plan.status === 'queued' || plan.status === 'paused';
  useCommands(
    useMemo(
      () => [
        ...(running || plan.status === 'queued'
          ? [{ id: 'pause-plan', label: 'Pause it', group: 'Matrix', key: 'Escape', run: () => act('pause') }]
          : []),
        ...(plan.status === 'paused'
          ? [{ id: 'resume-plan', label: 'Continue it', group: 'Matrix', key: ' ', run: () => act('resume') }]
          : []),
      ],
      [running, plan.status, act],
    ),
  );
  return (
    <div className="flex flex-col gap-5">
      <PlanHead plan={plan} from={from} />
      <div className="flex flex-wrap items-center gap-2">
        <h1 className="mr-auto" data-testid="plan-state">
          {stateSentence(plan.status, ended, steps.length, msLeft)}
        </h1>
        <PlanActions plan={plan} steps={steps} open={open} busy={busy} act={act} />
      </div>
      <FormError message={error?.message} />
      {open && <Progress value={ended} most={steps.length} label="Runs ended" />}
      {open && <Now steps={steps} cells={cells} onSkip={(position) => act('skip', { position })} />}
      <DataTable
        label="Conditions"
        rows={rows}
        columns={columns}
        rowId={({ cell }) => String(cell.cell)}
        fileName="navvy-matrix"
        empty={null}
        hidden={{
          format: false,
          ...(isOnDevice ? {} : { device: false }),
          ...(isThrough ? {} : { cache: false }),
        }}
      />
      <p className="text-xs text-muted">
        Runs:{' '}
        {Object.values(stepMarks)
          .map(({ mark, word }) => `${mark} ${word}`)
          .filter((text, at, all) => all.indexOf(text) === at)
          .join(', ')}
        ; underlined: in doubt, disturbed or unsteady. A run opens its result.
      </p>
    </div>
  );
}

/** Which plan it is, what it was made for, and how it runs. */
function PlanHead({ plan, from }: Pick<PlanPage, 'plan' | 'from'>) {
  return (
    <div className="flex flex-wrap items-baseline gap-x-4 text-sm text-muted">
      <Link prefetch={false} href="/trials/plans" className="underline decoration-edge underline-offset-4">
        Series and matrices
      </Link>
      <span className="flex min-w-0 text-base font-semibold text-ink">
        <MiddleName name={plan.name} tail={24} />
      </span>
      {plan.question.startsWith('brief:') ? (
        <Link
          prefetch={false}
          href={`/choose/${plan.question.slice(6)}`}
          className="underline decoration-edge underline-offset-4"
        >
          for a brief
        </Link>
      ) : (
        questionName(plan.question) !== plan.name && <span>{questionName(plan.question)}</span>
      )}
      <span>
        {plan.settings.order === 'random'
          ? `random order, seed ${plan.settings.seed}`
          : 'interleaved, back and forth'}
        , {plan.settings.warm ? 'warm, on purpose' : 'cold'}
      </span>
      <span>{dateTime(plan.createdAt)}</span>
      {plan.imported && <span>Came with a bundle of {from}; its runs can be made only there.</span>}
    </div>
  );
}

type Act = (action: PlanAction, more?: { position?: number; cell?: number }) => void;

/** What can be done with the whole of it. */
function PlanActions({
  plan,
  steps,
  open,
  busy,
  act,
}: Pick<PlanPage, 'plan' | 'steps'> & { open: boolean; busy: boolean; act: Act }) {
  const { id } = plan;
  return (
    <>
      {open && plan.status !== 'paused' && (
        <Button disabled={busy} onClick={() => act('pause')}>
          <Pause aria-hidden className="size-4" />
          Pause
        </Button>
      )}
      {plan.status === 'paused' && (
        <Button look="main" disabled={busy} onClick={() => act('resume')}>
          <Play aria-hidden className="size-4" />
          Continue
        </Button>
      )}
      {open && (
        <Button disabled={busy} onClick={() => act('cancel')}>
          <Square aria-hidden className="size-4" />
          Cancel
        </Button>
      )}
      {!open && !plan.imported && (
        <MoreRuns id={id} steps={steps} repeats={plan.settings.repeats} act={act} />
      )}
      {!open && <RemovePlan id={id} />}
      {steps.some(counts) && (
        <LinkButton href={`/compare?sides=p.${id}`}>
          <GitCompareArrows aria-hidden className="size-4" />
          Compare
        </LinkButton>
      )}
    </>
  );
}

function stateSentence(
  status: PlanPage['plan']['status'],
  ended: number,
  total: number,
  msLeft: number,
): string {
  const runs = `${count(ended)} of ${count(total)} runs`;
  switch (status) {
    case 'queued':
      return 'Waiting for its turn';
    case 'running':
      return `${runs} ended, about ${clockTime(msLeft)} left`;
    case 'paused':
      return `Paused after ${runs}; about ${clockTime(msLeft)} left`;
    case 'done':
      return `All ${count(total)} runs ended`;
    case 'cancelled':
      return `Cancelled after ${runs}`;
  }
}

/** What runs at this moment, and how far it is. */
function Now({
  steps,
  cells,
  onSkip,
}: {
  steps: readonly Step[];
  cells: PlanPage['cells'];
  onSkip: (position: number) => void;
}) {
  const { live } = useStatus();
  const step = steps.find(({ status }) => status === 'running');
  const cell = cells.find((one) => one.cell === step?.cell);
  if (!step || !cell) return null;
  const slots =
    live?.trialId === step.trialId && 'counters' in live.progress
      ? `, slot ${count(live.progress.counters.slot)} of ${count(live.progress.counters.slotCount)}`
      : '';
  return (
    <div className="flex items-center gap-3 border bg-surface px-3 py-1.5 text-sm">
      <span>
        Now: {kindNames[cell.address.test]}, {cell.labels.what}
        {cell.labels.volume && ` from ${cell.labels.volume}`}
        {cell.address.deviceId !== undefined && ` on ${deviceText(cell.labels)}`}, repeat {step.repeat + 1}
        {slots}
      </span>
      <Button look="quiet" className="ml-auto h-7" onClick={() => onSkip(step.position)}>
        <SkipForward aria-hidden className="size-4" />
        Skip this run
      </Button>
    </div>
  );
}

/** Runs for those that are in doubt or missing, and all of them once more. */
function MoreRuns({
  id,
  steps,
  repeats,
  act,
}: {
  id: string;
  steps: readonly Step[];
  repeats: number;
  act: Act;
}) {
  const router = useRouter();
  const { send, error } = useSend();
  const ended = steps.map((step) => ({ ...step, excluded: (step.headline?.excluded ?? null) !== null }));
  const doubtful = runsToMakeUp(ended, repeats, 'in-doubt').length;
  const unfinished = runsToMakeUp(ended, repeats, 'missing').length;
  return (
    <>
      {doubtful > 0 && (
        <Button onClick={() => act('repeat-doubtful')}>
          <RotateCcw aria-hidden className="size-4" />
          Repeat {count(doubtful)} in doubt
        </Button>
      )}
      {unfinished > 0 && (
        <Button onClick={() => act('repeat-failed')}>
          <RotateCcw aria-hidden className="size-4" />
          Make up {count(unfinished)} missing
        </Button>
      )}
      <Button
        onClick={() => {
          void send('POST /api/plans/{id}/repeat', { ids: { id } }).then((made) => {
            if (made) router.push(`/trials/plans/${made.id}`);
          });
        }}
      >
        <RotateCcw aria-hidden className="size-4" />
        Run it all again
      </Button>
      <FormError message={error?.message} />
    </>
  );
}

function RemovePlan({ id }: { id: string }) {
  const router = useRouter();
  return (
    <ConfirmButton
      label="Remove it"
      title="Remove this series or matrix?"
      consequence="The list of its runs is removed. The results themselves stay under Trials, Storage and Media."
      verb="Remove"
      act={async () => {
        await callApi('DELETE /api/plans/{id}', { ids: { id } });
        router.push('/trials/plans');
      }}
    >
      <Trash2 aria-hidden className="size-4" />
    </ConfirmButton>
  );
}

const deviceText = ({ device }: Row['cell']['labels']): string =>
  device ? plainName(device.name, device.simulated) : '–';
const column = createColumnHelper<Row>();

/** What a cell is: its test, and under which conditions. */
const conditionColumns = [
  column.accessor(({ cell }) => kindNames[cell.address.test], { id: 'test', header: 'Test' }),
  column.accessor(({ cell }) => cell.labels.what, {
    id: 'what',
    header: 'What',
    cell: ({ getValue }) => <MiddleName name={getValue()} />,
    meta: { rowName: true },
  }),
  column.accessor(({ cell }) => cell.labels.volume ?? '–', {
    id: 'volume',
    header: 'Volume',
    meta: { text: ({ cell: { labels } }) => plainName(labels.volume ?? '', labels.simulated) },
    cell: ({
      row: {
        original: { cell },
      },
    }) => (
      <>
        {cell.labels.volume ? <MiddleName name={cell.labels.volume} tail={8} /> : '–'}
        {cell.labels.simulated && <Simulated />}
      </>
    ),
  }),
  column.accessor(({ cell }) => cell.labels.form ?? '–', { id: 'form', header: 'Form' }),
  column.accessor(({ cell }) => cell.labels.scale ?? '–', { id: 'scale', header: 'Scale' }),
  column.accessor(({ cell }) => deviceText(cell.labels), { id: 'device', header: 'Decoded by' }),
  column.accessor(({ cell }) => (cell.labels.cache === 'through' ? 'through it' : 'past it'), {
    id: 'cache',
    header: 'System cache',
  }),
  column.accessor(({ cell }) => cell.labels.format ?? '–', { id: 'format', header: 'Format' }),
] as ColumnDef<Row, never>[];

/** What came of its runs. */
const resultColumns = [
  column.display({
    id: 'runs',
    header: 'Runs',
    meta: {
      text: ({ steps }) =>
        steps
          .map(
            ({ status, inDoubt, headline }) =>
              `${stepMarks[status].word}${inDoubt ? ` (${headline?.doubt?.word ?? 'in doubt'})` : ''}`,
          )
          .join('; '),
    },
    cell: ({ row: { original } }) => (
      <span className="figure flex flex-wrap gap-0.5">
        {original.steps.map((step) => (
          <StepMark key={step.position} step={step} />
        ))}
      </span>
    ),
  }),
  column.accessor(({ grade }) => grade ?? '', {
    id: 'grade',
    header: 'Worst grade',
    cell: ({
      row: {
        original: { grade },
      },
    }) => (grade ? <GradeMark grade={grade} /> : '–'),
  }),
  column.accessor(({ figure }) => figure?.value ?? null, {
    id: 'figure',
    header: 'Median',
    meta: {
      figures: true,
      text: ({ figure }) =>
        figure ? `${figure.name}: ${quantity(significant(figure.value, 4), figure.unit)}` : '',
    },
    cell: ({
      row: {
        original: { figure },
      },
    }) =>
      figure ? (
        <span title={figure.name}>
          {significant(figure.value, 3)} {figure.unit}
          <span className="block whitespace-normal text-xs text-muted">
            {figure.name}, {figure.runs} {figure.runs === 1 ? 'run' : 'runs'}
          </span>
        </span>
      ) : (
        '–'
      ),
  }),
] as ColumnDef<Row, never>[];

const skipColumn = (act: Act) =>
  column.display({
    id: 'skip',
    header: '',
    enableHiding: false,
    cell: ({
      row: {
        original: { cell, steps },
      },
    }) =>
      steps.some(({ status }) => status === 'waiting') ? (
        <Button
          look="quiet"
          className="h-7 px-2 text-xs"
          aria-label={`Skip what waits of ${cell.labels.what}`}
          onClick={() => act('skip-cell', { cell: cell.cell })}
        >
          Skip
        </Button>
      ) : null,
  }) as ColumnDef<Row, never>;

function StepMark({ step: { status, headline, repeat, inDoubt, outcome } }: { step: Step }) {
  const { mark, word } = stepMarks[status];
  const says = `Repeat ${repeat + 1}: ${word}${inDoubt ? `, ${headline?.doubt ? `${headline.doubt.word} (${headline.doubt.reason})` : 'in doubt'}` : ''}${headline ? `. ${headline.text}` : outcome ? `. ${outcome}` : ''}`;
  const look = clsx(
    'inline-flex size-6 items-center justify-center',
    inDoubt && 'underline decoration-signal-text decoration-2 underline-offset-2',
    status === 'waiting'
      ? 'text-muted'
      : status === 'failed' || status === 'running'
        ? 'text-signal-text'
        : '',
  );
  return headline ? (
    <Link prefetch={false} href={headline.href} title={says} aria-label={says} className={look}>
      {mark}
    </Link>
  ) : (
    <span title={says} role="img" aria-label={says} className={look}>
      {mark}
    </span>
  );
}
