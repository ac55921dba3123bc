'use client';
import { createColumnHelper, type ColumnDef } from '@tanstack/react-table';
import Link from 'next/link';
import { formatLabel } from '@/core/media/format';
import type { DecodePage } from '@/server/decode';
import { dateTime, milliseconds } from '../format';
import { Empty } from '../parts/Empty';
import { MiddleName } from '../parts/MiddleName';
import { useLive } from '../shell/useLive';
import { DataTable } from '../table/DataTable';
import { statusWords } from '../trial/words';
import { CompareFormats } from './CompareFormats';
import { WaitingTrials } from './WaitingTrials';
import { framesPerSecond, isDecodeNews, trialWords } from './words';

type ListRow = DecodePage['trials'][number];
const column = createColumnHelper<ListRow>();
const rateResult = ({ summary }: ListRow) => (summary?.kind === 'decode-rate' ? summary : null);

const columns = [
  column.accessor(({ subject }) => subject.clipPath, {
    id: 'clip',
    header: 'Clip',
    cell: ({ row: { original } }) => (
      <Link
        prefetch={false}
        href={`/media/decode/${original.id}`}
        className="block max-w-56 underline decoration-edge underline-offset-4"
      >
        <MiddleName name={original.subject.clipPath.split('/').at(-1) ?? ''} />
      </Link>
    ),
  }),
  column.accessor((trial) => trialWords(trial), { id: 'what', header: 'What' }),
  column.accessor(({ subject }) => formatLabel(subject.format), { id: 'format', header: 'Format' }),
  column.accessor((trial) => rateResult(trial)?.one?.framesPerSecond.median ?? null, {
    id: 'one',
    header: 'One core /s',
    meta: { figures: true },
    cell: ({ getValue }) => framesPerSecond(getValue()),
  }),
  column.accessor((trial) => rateResult(trial)?.all?.framesPerSecond.median ?? null, {
    id: 'all',
    header: 'All cores /s',
    meta: { figures: true },
    cell: ({ getValue }) => framesPerSecond(getValue()),
  }),
  column.accessor((trial) => rateResult(trial)?.firstFrameMs ?? null, {
    id: 'first',
    header: 'First frame',
    meta: { figures: true },
    cell: ({ getValue }) => milliseconds(getValue()),
  }),
  column.accessor(({ summary }) => (summary?.kind === 'decode-streams' ? summary.clean : null), {
    id: 'streams',
    header: 'Streams',
    meta: { figures: true },
    cell: ({ getValue }) => getValue() ?? '–',
  }),
  column.accessor(({ status }) => statusWords[status], {
    id: 'status',
    header: 'Status',
    cell: ({ row: { original } }) => (
      <span className={['done', 'queued', 'running'].includes(original.status) ? '' : 'text-signal-text'}>
        {statusWords[original.status]}
      </span>
    ),
  }),
  column.accessor(({ createdAt }) => dateTime(createdAt), {
    id: 'when',
    header: 'When',
    meta: { figures: true },
  }),
] as ColumnDef<ListRow, never>[];

/** How fast each format decodes on this rig, alone and from memory. */
export function DecodeView({ initial }: { initial: DecodePage }) {
  const [{ trials }] = useLive(initial, '/api/decode/trials', isDecodeNews);
  const waiting = trials.filter(({ status }) => status === 'queued' || status === 'running').length;
  return (
    <div className="flex flex-col gap-5">
      <h1>How fast each format decodes here, alone and from memory</h1>
      <WaitingTrials waiting={waiting} />
      <CompareFormats trials={trials} />
      <DataTable
        label="Decode trials"
        rows={trials}
        columns={columns}
        rowId={(trial) => trial.id}
        fileName="navvy-decode-trials"
        empty={
          <Empty
            title="No decode trial yet"
            action={
              <Link prefetch={false} className="underline" href="/media">
                Choose clips and measure their decode rates
              </Link>
            }
          >
            A decode trial reads a clip’s packets into memory and decodes them as fast as it goes: pinned to
            one core, then on all. Storage has no part in it.
          </Empty>
        }
      />
    </div>
  );
}
