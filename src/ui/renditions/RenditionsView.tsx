'use client';
import { createColumnHelper, type ColumnDef } from '@tanstack/react-table';
import Link from 'next/link';
import { presetOf } from '@/core/rendition/presets';
import type { RenditionsPage } from '@/server/renditions';
import { dateTime } from '../format';
import { Empty } from '../parts/Empty';
import { Simulated } from '../parts/Simulated';
import { useLive } from '../shell/useLive';
import { DataTable } from '../table/DataTable';
import { statusWords } from '../trial/words';
import { RenditionForm } from './RenditionForm';
import { rasterWords } from './words';

type Job = RenditionsPage['jobs'][number];
const column = createColumnHelper<Job>();

const columns = [
  column.accessor(({ settings }) => presetOf(settings.presetId).name, {
    id: 'preset',
    header: 'Made',
    cell: ({ row: { original } }) => (
      <Link
        prefetch={false}
        href={`/media/renditions/${original.id}`}
        className="underline decoration-edge underline-offset-4"
      >
        {presetOf(original.settings.presetId).name}, {rasterWords[original.settings.raster]}
      </Link>
    ),
  }),
  column.accessor(({ counts }) => counts.items, { id: 'items', header: 'Clips', meta: { figures: true } }),
  column.accessor(({ counts }) => counts.made + counts.present, {
    id: 'there',
    header: 'There',
    meta: { figures: true },
  }),
  column.accessor(({ counts }) => counts.failed, { id: 'failed', header: 'Failed', meta: { figures: true } }),
  column.accessor(({ subject, settings }) => `${subject.volumeName}, ${settings.folder}`, {
    id: 'to',
    header: 'To',
    cell: ({
      row: {
        original: { subject, settings },
      },
    }) => (
      <>
        {subject.volumeName}
        {subject.simulated && (
          <>
            {' '}
            <Simulated />
          </>
        )}{' '}
        <span className="text-muted">{settings.folder}</span>
      </>
    ),
  }),
  column.accessor(({ status }) => statusWords[status], {
    id: 'status',
    header: 'Status',
    cell: ({
      row: {
        original: { status },
      },
    }) => (
      <span className={['done', 'queued', 'running'].includes(status) ? '' : 'text-signal-text'}>
        {statusWords[status]}
      </span>
    ),
  }),
  column.accessor(({ createdAt }) => dateTime(createdAt), {
    id: 'when',
    header: 'When',
    meta: { figures: true },
  }),
] as ColumnDef<Job, never>[];

/** Proxies and other renditions: a new batch, and those there were. */
export function RenditionsView({ initial, wanted }: { initial: RenditionsPage; wanted: readonly string[] }) {
  const [page] = useLive(
    initial,
    '/api/renditions',
    (event) => (event.type === 'trial-status' && event.kind === 'renditions') || event.type === 'clips',
  );
  return (
    <div className="flex flex-col gap-5">
      <h1>Proxies and other renditions</h1>
      <RenditionForm page={page} wanted={wanted} />
      <DataTable
        label="Batches"
        rows={page.jobs}
        columns={columns}
        rowId={(job) => job.id}
        fileName="navvy-renditions"
        empty={
          <Empty title="No renditions yet">
            A rendition is the same footage in another form. Every one is timed, and checked frame by frame
            against its source, before it joins the library.
          </Empty>
        }
      />
    </div>
  );
}
