'use client';
import { dateTime } from '@/core/format';
import { createColumnHelper, type ColumnDef } from '@tanstack/react-table';
import Link from 'next/link';
import { LinkButton } from '../parts/Button';
import { Empty } from '../parts/Empty';
import { MiddleName } from '../parts/MiddleName';
import { DataTable } from '../table/DataTable';
import type { BriefRow } from '../pages';

const column = createColumnHelper<BriefRow>();
const columns = [
  column.accessor('name', {
    header: 'Job',
    meta: { rowName: true },
    cell: ({ row: { original } }) => (
      <Link
        prefetch={false}
        href={`/choose/${original.id}`}
        className="flex underline decoration-edge underline-offset-4"
      >
        <MiddleName name={original.name} tail={20} />
      </Link>
    ),
  }),
  column.accessor(({ document }) => document.question, { id: 'question', header: 'Question' }),
  column.accessor(({ document }) => document.cameras.map(({ name }) => name).join(', '), {
    id: 'cameras',
    header: 'Cameras',
  }),
  column.accessor(({ document }) => document.places.length, {
    id: 'places',
    header: 'Volumes',
    meta: { figures: true },
  }),
  column.accessor('updatedAt', {
    header: 'Changed',
    meta: { text: ({ updatedAt }) => dateTime(updatedAt) },
    cell: ({ getValue }) => <span className="figure">{dateTime(getValue())}</span>,
  }),
] as ColumnDef<BriefRow, never>[];

/** All briefs, and the two ways to a new one. */
export function BriefsView({ initial }: { initial: BriefRow[] }) {
  return (
    <div className="flex flex-col gap-5">
      <div className="flex flex-wrap items-center gap-2">
        <h1 className="mr-auto">Which format and which volume?</h1>
        <LinkButton href="/choose/first">From a folder of clips</LinkButton>
        <LinkButton href="/choose/new" look="main">
          New brief
        </LinkButton>
      </div>
      <DataTable
        label="Briefs"
        rows={initial}
        columns={columns}
        rowId={({ id }) => id}
        initialSort={[{ id: 'updatedAt', desc: true }]}
        fileName="navvy-briefs"
        empty={
          <Empty
            title="No brief yet"
            action={
              <LinkButton href="/choose/first" look="main">
                From a folder of clips to a decision
              </LinkButton>
            }
          >
            A brief holds the question: cameras, hours a day, volumes with their prices, the grade that
            playback must reach. Navvy answers it with a map of formats against volumes and a ranked list of
            set-ups.
          </Empty>
        }
      />
    </div>
  );
}
