'use client';
import { createColumnHelper, type ColumnDef } from '@tanstack/react-table';
import { clockTime, count, megabytesPerSecond, none, size } from '@/core/format';
import type { VerificationSettings } from '@/core/kinds/verification';
import type { CheckedFile } from '@/core/storage/copiedFile';
import { stageRate } from '@/core/storage/copyRates';
import type { VerificationResult } from '@/core/storage/heldAgainst';
import { listOrigin } from '../exchange/listOrigin';
import { Empty } from '../parts/Empty';
import { Figure, FigureRow } from '../parts/Figure';
import { MiddleName } from '../parts/MiddleName';
import { DataTable } from '../table/DataTable';

const outcomeWords: Record<CheckedFile['outcome'], string> = {
  same: 'as in the list',
  changed: 'changed',
  missing: 'missing',
  moved: 'lies elsewhere',
  unreadable: 'not readable',
  unproved: 'there, not proved',
  extra: 'not in the list',
};

const column = createColumnHelper<CheckedFile>();
const columns = [
  column.accessor('path', {
    header: 'File',
    cell: ({ getValue }) => <MiddleName name={getValue()} tail={24} />,
    meta: { rowName: true },
  }),
  column.accessor((file) => outcomeWords[file.outcome], {
    id: 'outcome',
    header: 'Outcome',
    cell: ({ row: { original } }) => (
      <>
        <span className={original.outcome === 'same' ? '' : 'text-signal-text'}>
          {outcomeWords[original.outcome]}
        </span>
        {original.problem && (
          <span className="block text-xs wrap-anywhere text-muted">{original.problem}</span>
        )}
      </>
    ),
  }),
  column.accessor('bytes', {
    header: 'Size',
    meta: { figures: true, text: (file) => String(file.bytes ?? '') },
    cell: ({ row: { original } }) => (original.bytes === null ? none : size(original.bytes)),
  }),
  column.accessor((file) => file.hash ?? '', {
    id: 'hash',
    header: 'Hash',
    meta: { text: (file) => file.hash ?? '' },
    cell: ({ getValue }) => (
      <span className="figure block w-56 text-xs">
        <MiddleName name={getValue()} tail={12} />
      </span>
    ),
  }),
] as ColumnDef<CheckedFile, never>[];

/** What a folder came to against its list: what is wrong first, then every file. */
export function VerificationFigures({
  result,
  settings: { list },
  files,
}: {
  result: VerificationResult | null;
  settings: VerificationSettings;
  files: CheckedFile[];
}) {
  return (
    <section aria-label="Verification" className="flex flex-col gap-3">
      {result && (
        <FigureRow>
          <Figure name="As in the list" note={`of ${count(result.files)} files`}>
            {count(result.same)}
          </Figure>
          <Figure name="Changed">{count(result.changed)}</Figure>
          <Figure
            name="Missing"
            note={result.moved > 0 ? `and ${count(result.moved)} lie elsewhere` : undefined}
          >
            {count(result.missing)}
          </Figure>
          <Figure name="Not in the list">{count(result.extra)}</Figure>
          <Figure name="Read" note="cold, while it read">
            {megabytesPerSecond(stageRate(result.work.read))}
          </Figure>
          <Figure name="Took" note={`${size(result.work.read.bytes)} read`}>
            {clockTime(result.seconds * 1000)}
          </Figure>
        </FigureRow>
      )}
      <p className="text-sm text-muted">
        The list {list.name} ({list.form}) names {count(list.files)} files
        {listOrigin(list)}.{result && folderWords(result)}
      </p>
      {result !== null && result.leftOut > 0 && (
        <p className="text-sm text-signal-text">
          {count(result.leftOut)} links or special files were passed: a list holds files only.
        </p>
      )}
      <DataTable
        label="Files of this verification"
        rows={files}
        columns={columns}
        rowId={(file) => file.path}
        fileName="navvy-verification"
        empty={<Empty title="No file is read yet">Each file appears here when it was read to its end.</Empty>}
      />
    </section>
  );
}

/** What the hashes of folders came to. */
function folderWords({ folders: { same, changed, unproved } }: VerificationResult): string {
  if (same + changed + unproved === 0) return '';
  const parts = [
    same > 0 && `${count(same)} came out the same`,
    changed > 0 && `${count(changed)} came out otherwise`,
    unproved > 0 && `${count(unproved)} could not be proved`,
  ].filter((part) => part !== false);
  return ` Of the hashes of its folders ${parts.join(', ')}.`;
}
