'use client';
import { createColumnHelper, type ColumnDef } from '@tanstack/react-table';
import Link from 'next/link';
import { doubtOf } from '@/core/rig/doubt';
import { kindNames, type StorageKind } from '@/core/kinds/kinds';
import type { TrialListRow } from '@/db/kinds';
import { dateTime, megabytesPerSecond, milliseconds, percent } from '../format';
import { Empty } from '../parts/Empty';
import { Simulated } from '../parts/Simulated';
import { DataTable } from '../table/DataTable';
import { statusWords } from '../trial/words';
import { figuresOf } from './measured';
import { settingsWords, storageAnswer, testWords } from './words';

const column = createColumnHelper<TrialListRow<StorageKind>>();
const figures = (trial: TrialListRow<StorageKind>) =>
  trial.kind === 'throughput' ? figuresOf(trial, trial.settings.test) : null;
const kindWords = ({ kind, settings }: TrialListRow<StorageKind>) =>
  settings.kind === 'throughput' ? testWords[settings.test] : kindNames[kind];
const stateWords = ({ status, load }: TrialListRow<StorageKind>) =>
  [statusWords[status], doubtOf(load)?.word].filter(Boolean).join(', ');

const columns = [
  column.accessor((trial) => trial.createdAt, {
    id: 'started',
    header: 'Started',
    meta: { text: (trial) => dateTime(trial.createdAt) },
    cell: ({ row: { original } }) => (
      <Link
        prefetch={false}
        className="figure whitespace-nowrap underline decoration-edge underline-offset-4"
        href={`/storage/trials/${original.id}`}
      >
        {dateTime(original.createdAt)}
      </Link>
    ),
  }),
  column.accessor(kindWords, { id: 'test', header: 'Test' }),
  column.accessor(stateWords, {
    id: 'status',
    header: 'State',
    cell: ({ row: { original } }) => (
      <>
        <span className={original.status === 'done' ? '' : 'text-muted'}>{stateWords(original)}</span>
        {original.subject.standIn && (
          <>
            {' '}
            <Simulated model={original.subject.standIn} />
          </>
        )}
      </>
    ),
  }),
  column.accessor((trial) => figures(trial)?.sustained ?? null, {
    id: 'sustained',
    header: 'Sustained',
    meta: { figures: true },
    cell: ({ getValue }) => megabytesPerSecond(getValue()),
  }),
  column.accessor((trial) => figures(trial)?.p5 ?? null, {
    id: 'p5',
    header: 'p5',
    meta: { figures: true },
    cell: ({ getValue }) => megabytesPerSecond(getValue()),
  }),
  column.accessor((trial) => figures(trial)?.p95 ?? null, {
    id: 'p95',
    header: 'p95',
    meta: { figures: true },
    cell: ({ getValue }) => megabytesPerSecond(getValue()),
  }),
  column.accessor((trial) => figures(trial)?.latencyMs.p99 ?? null, {
    id: 'latency',
    header: 'Answer p99',
    meta: { figures: true },
    cell: ({ getValue }) => milliseconds(getValue()),
  }),
  column.accessor((trial) => figures(trial)?.spread ?? null, {
    id: 'spread',
    header: 'Spread',
    meta: { figures: true },
    cell: ({ getValue }) => percent(getValue(), 0),
  }),
  column.accessor((trial) => storageAnswer(trial) ?? trial.outcome ?? '', { id: 'answer', header: 'Answer' }),
  column.accessor((trial) => settingsWords(trial.settings), { id: 'settings', header: 'Settings' }),
] as ColumnDef<TrialListRow<StorageKind>, never>[];

export function HistoryTable({ trials }: { trials: TrialListRow<StorageKind>[] }) {
  return (
    <DataTable
      label="Storage trials"
      rows={trials}
      columns={columns}
      rowId={(trial) => trial.id}
      initialSort={[{ id: 'started', desc: true }]}
      hidden={{ settings: false, p5: false, p95: false }}
      fileName="navvy-storage-trials"
      empty={
        <Empty title="Not measured yet">
          Each trial of this volume leaves a line here, so that a drive that slows down is seen. Choose a test
          above and press Measure.
        </Empty>
      }
    />
  );
}
