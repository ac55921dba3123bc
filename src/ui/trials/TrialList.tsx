'use client';
import { count, dateTime, fixed } from '@/core/format';
import { createColumnHelper, type ColumnDef } from '@tanstack/react-table';
import { GitCompareArrows } from 'lucide-react';
import Link from 'next/link';
import { useRouter } from 'next/navigation';
import { useMemo, type ReactNode } from 'react';
import type { Metric } from '@/core/compare/compare';
import { kindNames, metrics as allMetrics, metricsOf } from '@/core/kinds/kinds';
import { plainName, saysSimulated } from '@/core/simulated';
import type { ListPart, TrialLine } from '@/server/trials/trialList';
import { Button } from '../parts/Button';
import { Empty } from '../parts/Empty';
import { GradeMark } from '../parts/GradeMark';
import { MiddleName } from '../parts/MiddleName';
import { Simulated } from '../parts/Simulated';
import { DataTable } from '../table/DataTable';
import { statusWords } from '../trialWords';
import { TrialFilters } from './TrialFilters';
import { narrowedBy } from '../table/useNarrowed';
import { useTrialList } from './useTrialList';
import { addressOf } from '../api';

const column = createColumnHelper<TrialLine>();

const started = column.accessor('createdAt', {
  id: 'started',
  header: 'Started',
  cell: ({ row: { original } }) => (
    <Link
      prefetch={false}
      href={original.href}
      className="figure whitespace-nowrap underline decoration-edge underline-offset-4"
    >
      {dateTime(original.createdAt)}
    </Link>
  ),
  meta: { text: ({ createdAt }) => dateTime(createdAt) },
});
const kind = column.accessor((line) => kindWords(line), {
  id: 'kind',
  header: 'Kind',
  cell: ({ row: { original } }) => (
    <span className="block min-w-28">
      {kindNames[original.kind]}
      {original.how && <span className="block text-xs text-muted">{original.how}</span>}
    </span>
  ),
});
const name = column.accessor('name', {
  id: 'name',
  header: 'Subject',
  cell: ({ row: { original } }) => (
    <span className="block min-w-44">
      <MiddleName name={original.name} />
      <Whence line={original} />
    </span>
  ),
  meta: { text: (line) => `${line.name}, ${kindWords(line)}, ${dateTime(line.createdAt)}`, rowName: true },
});
// Both stand under the name; as columns they can be had for copying.
const volume = column.accessor((line) => volumeWords(line), { id: 'volume', header: 'Volume' });
const rig = column.accessor((line) => rigWords(line), { id: 'rig', header: 'Rig' });
const result = column.accessor((line) => resultWords(line), {
  id: 'result',
  header: 'Result',
  cell: ({ row: { original } }) => (
    <>
      {original.grade ? (
        <GradeMark grade={original.grade} />
      ) : (
        <span className={original.status === 'done' ? 'text-muted' : 'text-signal-text'}>
          {statusWords[original.status]}
        </span>
      )}
      {original.doubt && (
        <span className="block text-xs text-signal-text" title={original.doubt.reason}>
          {original.doubt.word}
        </span>
      )}
      {original.excluded !== null && (
        <span className="block text-xs text-muted" title={original.excluded}>
          left out
        </span>
      )}
    </>
  ),
});
const answer = column.accessor(({ answer: said }) => said ?? '', {
  id: 'answer',
  header: 'Answer',
  cell: ({ getValue }) => (
    <span
      className="line-clamp-2 min-w-72 group-has-[:focus-visible]/row:line-clamp-none"
      title={getValue() === '' ? undefined : getValue()}
    >
      {getValue() || '–'}
    </span>
  ),
  meta: { wide: true },
});

/** Volume, and where it was measured if not here. What is simulated of a device stands with how it was tried. */
function Whence({ line }: { line: TrialLine }) {
  const { volumes, name: of, origin, rig: from, simulated } = line;
  // A trial of a volume has said its name already.
  const places = volumes.join(', ') === of ? '' : volumes.join(', ');
  const words = [places, origin === 'imported' ? `from ${from.name}` : ''].filter(Boolean).join(', ');
  return (
    <span className="flex flex-wrap items-center gap-x-2 text-xs text-muted">
      {words && <MiddleName name={words} tail={12} />}
      {simulated && !saysSimulated(line.how) && <Simulated />}
    </span>
  );
}

const kindWords = ({ kind: of, how }: TrialLine) => [kindNames[of], how].filter(Boolean).join(', ');
const volumeWords = ({ volumes, simulated, how }: TrialLine) =>
  plainName(volumes.join(', '), simulated && !saysSimulated(how));
const rigWords = ({ rig: of, origin }: TrialLine) =>
  [of.name, origin === 'imported' ? 'imported' : ''].filter(Boolean).join(', ');
const resultWords = ({ grade, status, doubt, excluded }: TrialLine) =>
  [grade ?? statusWords[status], doubt?.word, excluded === null ? '' : 'left out'].filter(Boolean).join(', ');

/** Small figures with enough digits, large ones with no more than they bear. */
const figureText = (value: number | null | undefined) =>
  value == null ? '–' : fixed(value, Math.abs(value) >= 100 ? 0 : Math.abs(value) >= 10 ? 1 : 2);

const figureColumn = (metric: Metric) =>
  column.accessor(({ values }) => values[metric.id] ?? null, {
    id: metric.id,
    header: `${metric.name}, ${metric.unit}`,
    meta: { figures: true, text: ({ values }) => figureText(values[metric.id]) },
    cell: ({ getValue }) => figureText(getValue()),
  });

interface TrialListProps {
  readonly list: ListPart;
  readonly label: string;
  /** Columns of these metrics are shown from the beginning; others can be chosen. */
  readonly figures?: readonly string[];
  /** Shown where there is no trial at all. */
  readonly empty: ReactNode;
  readonly fileName?: string;
  /** Whether what narrows it stands in the page's address. */
  readonly linked?: boolean;
  /** What can be done with chosen trials besides comparing them. */
  readonly actions?: (chosen: TrialLine[]) => ReactNode;
}

const noFigures: readonly string[] = [];

/** Trials of all kinds or of some, newest first, narrowed and turned over at the server. */
export function TrialList({
  list,
  label,
  figures = noFigures,
  empty,
  fileName = 'navvy-trials',
  linked = false,
  actions,
}: TrialListProps) {
  const router = useRouter();
  const { page, isAnswer, asked, query, narrow, clear, turnTo } = useTrialList(list, linked);
  const { trials } = page;
  const metrics = useMemo(() => metricsOf([{ repeats: trials }]), [trials]);
  const columns = useMemo(
    () =>
      [started, kind, name, volume, rig, result, ...metrics.map(figureColumn), answer] as ColumnDef<
        TrialLine,
        never
      >[],
    [metrics],
  );
  const hidden = {
    volume: false,
    rig: false,
    ...Object.fromEntries(allMetrics.map(({ id }) => [id, figures.includes(id)])),
  };
  const filters = <TrialFilters label={label} part={list} asked={asked} onNarrow={narrow} onClear={clear} />;
  const nothingAsked = !Object.entries(asked).some(([word, value]) => word !== 'page' && value);
  return (
    <DataTable
      label={label}
      rows={trials as TrialLine[]}
      columns={columns}
      rowId={({ id }) => id}
      hidden={hidden}
      fileName={fileName}
      filters={trials.length > 0 || !nothingAsked ? filters : null}
      empty={
        nothingAsked ? (
          empty
        ) : (
          <Empty title="No trial matches" action={<Button onClick={clear}>Show all</Button>}>
            No trial meets all of these filters. Loosen one of them, or clear them.
          </Empty>
        )
      }
      paging={{
        total: page.total,
        page: page.page,
        size: page.size,
        isAnswer,
        onPage: turnTo,
        turns: ['Newer', 'Older'],
        ordered: 'newest first',
        csvHref: addressOf('GET /api/trials', {
          query: { ...narrowedBy({ ...query, page: '' }), format: 'csv' },
        }),
      }}
      actions={(chosen) => (
        <>
          <Button
            className="h-8"
            onClick={() => router.push(`/compare?sides=${chosen.map(({ id }) => `t.${id}`).join(',')}`)}
          >
            <GitCompareArrows aria-hidden className="size-4" />
            {chosen.length === 1 ? 'Open in Compare' : `Compare ${count(chosen.length)}`}
          </Button>
          {actions?.(chosen)}
        </>
      )}
    />
  );
}
