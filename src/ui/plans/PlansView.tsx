'use client';
import { count, dateTime } from '@/core/format';
import { createColumnHelper, type ColumnDef } from '@tanstack/react-table';
import Link from 'next/link';
import { questionName } from '@/core/plan/questions';
import { Empty } from '../parts/Empty';
import { MiddleName } from '../parts/MiddleName';
import { useLive } from '../shell/useLive';
import { DataTable } from '../table/DataTable';
import { planStatusWords } from './words';
import type { PlanListRow } from '../pages';

const column = createColumnHelper<PlanListRow>();
const kindWords = ({ question }: PlanListRow) =>
  question.startsWith('brief:') ? 'for a brief' : questionName(question);

const columns = [
  column.accessor('createdAt', {
    header: 'Started',
    cell: ({ row }) => (
      <Link
        prefetch={false}
        className="figure whitespace-nowrap underline decoration-edge underline-offset-4"
        href={`/trials/plans/${row.original.id}`}
      >
        {dateTime(row.original.createdAt)}
      </Link>
    ),
    meta: { text: ({ createdAt }) => dateTime(createdAt) },
  }),
  column.accessor('name', {
    header: 'Name',
    cell: ({ row: { original } }) => (
      <span className="flex min-w-0 flex-col">
        <MiddleName name={original.name} />
        {original.imported && <span className="text-xs text-muted">from {original.rigName}, imported</span>}
      </span>
    ),
    meta: {
      rowName: true,
      text: ({ name, imported, rigName }) => (imported ? `${name}, from ${rigName}` : name),
    },
  }),
  column.accessor(kindWords, { id: 'question', header: 'Question' }),
  column.accessor('status', { header: 'State', cell: ({ getValue }) => planStatusWords[getValue()] }),
  column.accessor('cells', { header: 'Conditions', meta: { figures: true } }),
  column.accessor('ended', {
    header: 'Runs ended',
    meta: { figures: true, text: ({ ended, steps }) => `${ended} of ${steps}` },
    cell: ({ row: { original } }) => `${count(original.ended)} of ${count(original.steps)}`,
  }),
  column.accessor('failed', {
    header: 'Failed',
    meta: { figures: true },
    cell: ({ getValue }) => (getValue() === 0 ? '–' : count(getValue())),
  }),
] as ColumnDef<PlanListRow, never>[];

/** All series and matrices, newest first. */
export function PlansView({ initial }: { initial: PlanListRow[] }) {
  const [plans] = useLive(initial, 'GET /api/plans', (event) => event.type === 'plan');
  return (
    <DataTable
      label="Series and matrices"
      rows={plans}
      columns={columns}
      rowId={({ id }) => id}
      initialSort={[{ id: 'createdAt', desc: true }]}
      fileName="navvy-matrices"
      empty={
        <Empty title="No series or matrix yet">
          A matrix runs clips by volumes by forms by scales, repeated, in an order that favours no side.
          Choose a question above and press Start. Any single trial is repeated as a series from its own page.
        </Empty>
      }
    />
  );
}
