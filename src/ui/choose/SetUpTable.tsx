'use client';
import { fixed, money, percent, size } from '@/core/format';
import { createColumnHelper, type ColumnDef } from '@tanstack/react-table';
import { headroomWords, unknownWords, type SetUp } from '@/core/choose/setups';
import { Empty } from '../parts/Empty';
import { GradeMark } from '../parts/GradeMark';
import { DataTable } from '../table/DataTable';
import { daySpan } from './words';

interface Ranked extends SetUp {
  readonly rank: number;
}
const column = createColumnHelper<Ranked>();
const meetsWords = ({ meets }: SetUp) =>
  meets === true ? 'meets the brief' : meets === null ? 'not known yet' : 'does not';

const costWords = ({ cost, currency }: SetUp) =>
  cost === null ? 'not known' : cost === 0 ? 'nothing' : money(cost, currency);

const columns = [
  column.accessor('rank', { header: '#', meta: { figures: true } }),
  column.accessor('name', {
    header: 'Set-up',
    cell: ({ row: { original } }) => (
      <span className="block min-w-40">
        <span className="block font-semibold">{original.name}</span>
        <span className="text-muted">{original.form}</span>
      </span>
    ),
    meta: { rowName: true, text: ({ name, form }) => `${name}, ${form}` },
  }),
  column.accessor(meetsWords, {
    id: 'meets',
    header: 'Brief',
    cell: ({ row: { original } }) => (
      <span
        className={
          original.meets === true
            ? 'font-semibold'
            : original.meets === null
              ? 'text-muted'
              : 'text-signal-text'
        }
      >
        {meetsWords(original)}
      </span>
    ),
  }),
  column.accessor((setUp) => [...setUp.fails, ...unknownWords(setUp), ...setUp.cures].join('; '), {
    id: 'why',
    header: 'What is missing, and what would help',
    cell: ({ row: { original } }) => <Why setUp={original} />,
  }),
  column.accessor(({ grade }) => grade ?? '–', {
    id: 'grade',
    header: 'Grade',
    cell: ({ row: { original } }) =>
      original.grade ? (
        <>
          <GradeMark grade={original.grade} />
          <span className="block text-xs text-muted">{original.basis}</span>
        </>
      ) : (
        '–'
      ),
  }),
  column.accessor('headroom', {
    header: 'Headroom',
    meta: { figures: true, text: ({ headroom }) => percent(headroom, 0) },
    cell: ({
      row: {
        original: { headroom, underMargin },
      },
    }) =>
      headroom === null ? (
        '–'
      ) : (
        <>
          {headroomWords(headroom)}
          {underMargin && <span className="block text-xs text-muted">under the margin</span>}
        </>
      ),
  }),
  column.accessor(({ cost }) => cost ?? Infinity, {
    id: 'cost',
    header: 'Cost',
    meta: { figures: true, text: costWords },
    cell: ({ row: { original } }) => costWords(original),
  }),
  column.accessor('jobBytes', {
    header: 'Job takes',
    meta: { figures: true, text: ({ jobBytes }) => size(jobBytes) },
    cell: ({ row: { original } }) => (
      <>
        {size(original.jobBytes)}
        <span className="block text-xs text-muted">
          {original.daysHeld === null
            ? 'room not known'
            : `room for ${original.daysHeld >= 1_000 ? 'over 1 000' : fixed(original.daysHeld, 1)} days`}
        </span>
      </>
    ),
  }),
  column.accessor('copySecondsPerDay', {
    header: 'Copying a day',
    meta: { figures: true, text: ({ copySecondsPerDay }) => daySpan(copySecondsPerDay) },
    cell: ({ getValue }) => daySpan(getValue()),
  }),
  column.accessor('proxySecondsPerDay', {
    header: 'Proxies a day',
    meta: { figures: true, text: ({ proxySecondsPerDay }) => daySpan(proxySecondsPerDay) },
    cell: ({ getValue }) => (getValue() === 0 ? 'none' : daySpan(getValue())),
  }),
] as ColumnDef<Ranked, never>[];

/** Set-ups, those that meet the brief first; those that fail say why and what would cure it. */
export function SetUpTable({ setUps }: { setUps: readonly SetUp[] }) {
  return (
    <DataTable
      label="Set-ups"
      rows={setUps.map((setUp, at) => ({ ...setUp, rank: at + 1 }))}
      columns={columns}
      rowId={({ rank }) => String(rank)}
      initialSort={[{ id: 'rank', desc: false }]}
      fileName="navvy-set-ups"
      empty={
        <Empty title="No set-up yet">
          Each volume with a form of every camera makes a set-up. Change the brief to choose volumes.
        </Empty>
      }
    />
  );
}

function Why({ setUp }: { setUp: SetUp }) {
  const { fails, cures } = setUp;
  const unknown = unknownWords(setUp);
  if (fails.length === 0 && unknown.length === 0) return null;
  return (
    <span className="block min-w-56 text-xs">
      {fails.length > 0 && `${fails.join('; ')}.`}
      {unknown.length > 0 && <span className="block">Not known: {unknown.join('; ')}.</span>}
      {cures.length > 0 && <span className="mt-0.5 block text-muted">{cures.join(' ')}</span>}
    </span>
  );
}
