'use client';
import { clockTime, count, megabytesPerSecond, size } from '@/core/format';
import { createColumnHelper, type ColumnDef } from '@tanstack/react-table';
import { copyLimit, stageRate } from '@/core/storage/copyRates';
import type { CopyResult } from '@/engine/storage/spec';
import { Empty } from '../parts/Empty';
import { Figure, FigureRow } from '../parts/Figure';
import { MiddleName } from '../parts/MiddleName';
import { DataTable } from '../table/DataTable';
import type { CopiedFile } from '@/core/storage/copiedFile';
import type { CopySettings } from '@/core/kinds/copy';

const outcomeWords: Record<CopiedFile['outcome'], string> = {
  copied: 'copied',
  present: 'already there',
  conflict: 'different content there, left alone',
  damaged: 'differs when read back',
};
const limitWords = { read: 'reading the card', hash: 'hashing', write: 'writing' };

const column = createColumnHelper<CopiedFile>();
const columns = [
  column.accessor('path', {
    header: 'File',
    cell: ({ getValue }) => <MiddleName name={getValue()} tail={24} />,
  }),
  column.accessor('bytes', {
    header: 'Size',
    meta: { figures: true, text: (file) => String(file.bytes) },
    cell: ({ getValue }) => size(getValue()),
  }),
  column.accessor((file) => outcomeWords[file.outcome], {
    id: 'outcome',
    header: 'Outcome',
    cell: ({ row: { original } }) => (
      <>
        {outcomeWords[original.outcome]}
        {original.problem && <span className="block text-xs text-signal-text">{original.problem}</span>}
      </>
    ),
  }),
  column.accessor((file) => file.xxh64 ?? '', { id: 'hash', header: 'xxHash64', meta: { figures: true } }),
] as ColumnDef<CopiedFile, never>[];

/** What a copy reached: rates of each step, where the limit was, and its files. */
export function CopyFigures({
  result,
  settings,
  files,
}: {
  result: CopyResult | null;
  settings: CopySettings;
  files: CopiedFile[];
}) {
  const limit = result && copyLimit(result.work);
  return (
    <section aria-label="Copy" className="flex flex-col gap-3">
      {result && (
        <>
          <FigureRow>
            <Figure name="Read" note="while it read">
              {megabytesPerSecond(stageRate(result.work.read))}
            </Figure>
            <Figure
              name="Write"
              note={settings.destinations.length > 1 ? 'each of two, side by side' : 'while it wrote'}
            >
              {megabytesPerSecond(stageRate(result.work.write))}
            </Figure>
            <Figure name="Verify" note={settings.verify ? 'read back cold and hashed' : 'not asked for'}>
              {megabytesPerSecond(stageRate(result.work.verify))}
            </Figure>
            <Figure name="Hash" note="xxHash64, on one core">
              {megabytesPerSecond(stageRate(result.work.hash))}
            </Figure>
            <Figure name="The limit was">{limit ? limitWords[limit] : '–'}</Figure>
            <Figure name="Took" note={`${size(result.bytes)} in ${count(result.files)} files`}>
              {clockTime(result.seconds * 1000)}
            </Figure>
          </FigureRow>
          {result.leftOut > 0 && (
            <p className="text-sm text-signal-text">
              {count(result.leftOut)} links or special files were left out: only files are copied.
            </p>
          )}
          {result.remarks?.map((remark) => (
            <p key={remark} className="text-sm text-signal-text">
              {remark}
            </p>
          ))}
          {result.hashLists.length > 0 && (
            <p className="text-sm text-muted">
              Hash lists:{' '}
              {result.hashLists.map((path) => (
                <span key={path} className="figure mr-3 break-all">
                  {path}
                </span>
              ))}
            </p>
          )}
        </>
      )}
      <DataTable
        label="Files of this copy"
        rows={files}
        columns={columns}
        rowId={(file) => file.path}
        fileName="navvy-copy"
        empty={
          <Empty title="No file is finished yet">
            Each file appears here when it is whole at every destination.
          </Empty>
        }
      />
    </section>
  );
}
