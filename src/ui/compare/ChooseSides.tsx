'use client';
import { count, dateTime } from '@/core/format';
import { createColumnHelper, type ColumnDef } from '@tanstack/react-table';
import { GitCompareArrows } from 'lucide-react';
import { useRouter } from 'next/navigation';
import { kindNames } from '@/core/kinds/kinds';
import { plainName } from '@/core/simulated';
import type { CompareChoice } from '@/server/decide/compareChoices';
import { Button } from '../parts/Button';
import { Empty } from '../parts/Empty';
import { MiddleName } from '../parts/MiddleName';
import { Simulated } from '../parts/Simulated';
import { DataTable } from '../table/DataTable';

const choiceNames = { ...kindNames, series: 'Series', matrix: 'Matrix' };
const column = createColumnHelper<CompareChoice>();
const columns = [
  column.accessor('at', {
    header: 'When',
    cell: ({ getValue }) => <span className="figure whitespace-nowrap">{dateTime(getValue())}</span>,
    meta: { text: ({ at }) => dateTime(at) },
  }),
  column.accessor(({ kind }) => choiceNames[kind], { id: 'kind', header: 'Kind' }),
  column.accessor('name', {
    header: 'Name',
    cell: ({ getValue }) => <MiddleName name={getValue()} tail={20} />,
    meta: { rowName: true },
  }),
  column.accessor('volume', {
    header: 'Volume',
    cell: ({ row: { original } }) => (
      <span className="flex min-w-0 items-center gap-2">
        {original.volume && <MiddleName name={original.volume} tail={8} />}
        {original.simulated && <Simulated />}
      </span>
    ),
    meta: { text: ({ volume, simulated }) => plainName(volume, simulated) },
  }),
  column.accessor('rig', { header: 'Rig' }),
  column.accessor('runs', {
    header: 'Runs',
    meta: { figures: true },
    cell: ({ getValue }) => count(getValue()),
  }),
] as ColumnDef<CompareChoice, never>[];

/** Picks what is laid beside each other. */
export function ChooseSides({ choices }: { choices: CompareChoice[] }) {
  const router = useRouter();
  return (
    <DataTable
      label="What can be compared"
      rows={choices}
      columns={columns}
      rowId={({ token }) => token}
      initialSort={[{ id: 'at', desc: true }]}
      fileName="navvy-compare"
      empty={
        <Empty title="Nothing to compare yet">
          Play the same clip from two volumes, or start a matrix under Trials. Every series, matrix and single
          trial then stands here.
        </Empty>
      }
      actions={(chosen) => (
        <Button
          look="main"
          className="h-8"
          onClick={() => router.push(`/compare?sides=${chosen.map(({ token }) => token).join(',')}`)}
        >
          <GitCompareArrows aria-hidden className="size-4" />
          {chosen.length === 1 ? 'Open' : `Compare ${count(chosen.length)}`}
        </Button>
      )}
    />
  );
}
