'use client';
import { flexRender, getCoreRowModel, getFilteredRowModel, getSortedRowModel, useReactTable, type ColumnDef, type ColumnMeta, type RowData, type SortingState, type Table, type VisibilityState } from '@tanstack/react-table';
import { clsx } from 'clsx';
import { ArrowDown, ArrowUp, Columns3, Copy, Download } from 'lucide-react';
import { DropdownMenu } from 'radix-ui';
import { useState, type ReactNode } from 'react';
import { Button } from '../parts/Button';
import { saveFile, tableText } from './export';

declare module '@tanstack/react-table' {
  // eslint-disable-next-line @typescript-eslint/no-unused-vars -- the signature is the library's
  interface ColumnMeta<TData extends RowData, TValue> {
    /** Figures stand right-aligned in the figure face. */
    readonly figures?: boolean;
    /** The cell's plain text for copying, export and filtering, where it is not the value itself. */
    readonly text?: (row: TData) => string;
  }
}

interface DataTableProps<Row> {
  readonly label: string;
  readonly rows: Row[];
  readonly columns: ColumnDef<Row, never>[];
  readonly rowId: (row: Row) => string;
  readonly initialSort?: SortingState;
  readonly hidden?: VisibilityState;
  /** Shown instead of the table when there are no rows at all. */
  readonly empty: ReactNode;
  readonly fileName: string;
}

/** A table that sorts, filters, chooses columns, copies and exports what is seen. */
export function DataTable<Row>({ label, rows, columns, rowId, initialSort = [], hidden = {}, empty, fileName }: DataTableProps<Row>) {
  const [sorting, setSorting] = useState<SortingState>(initialSort);
  const [filter, setFilter] = useState('');
  const [columnVisibility, setColumnVisibility] = useState<VisibilityState>(hidden);
  const table: Table<Row> = useReactTable({
    data: rows, columns: columns as ColumnDef<Row>[], getRowId: rowId, state: { sorting, globalFilter: filter, columnVisibility },
    onSortingChange: setSorting, onGlobalFilterChange: setFilter, onColumnVisibilityChange: setColumnVisibility,
    globalFilterFn: (row, columnId, wanted: string) => cellText(row.original, row.getValue(columnId), table.getColumn(columnId)?.columnDef.meta).toLowerCase().includes(wanted.toLowerCase()),
    getColumnCanGlobalFilter: () => true,
    getCoreRowModel: getCoreRowModel(), getSortedRowModel: getSortedRowModel(), getFilteredRowModel: getFilteredRowModel(),
  });
  if (rows.length === 0) return <>{empty}</>;
  const visible = table.getRowModel().rows;
  return (
    <div className="border bg-surface">
      <div data-no-print className="flex items-center gap-2 border-b px-2 py-1.5">
        <input aria-label={`Filter ${label}`} placeholder="Filter" value={filter} onChange={(event) => setFilter(event.target.value)} className="h-8 w-56 border border-edge bg-ground px-2 text-sm placeholder:text-muted" />
        <span role="status" className="text-sm text-muted">{filter ? `${visible.length} of ${rows.length}` : `${rows.length} ${rows.length === 1 ? 'row' : 'rows'}`}</span>
        <span className="ml-auto" />
        <ColumnChooser table={table} />
        <Button look="quiet" className="h-8" onClick={() => { void navigator.clipboard.writeText(tableText(table, cellText, '\t')); }}><Copy aria-hidden className="size-4" />Copy</Button>
        <Button look="quiet" className="h-8" onClick={() => saveFile(`${fileName}.csv`, tableText(table, cellText, ','))}><Download aria-hidden className="size-4" />CSV</Button>
      </div>
      <div className="overflow-x-auto">
        <table aria-label={label} className="w-full border-collapse text-sm">
          <Head table={table} />
          <tbody>
            {visible.map((row) => (
              <tr key={row.id} className="group/row border-b last:border-b-0 hover:bg-raised/60">
                {row.getVisibleCells().map((cell) => (
                  <td key={cell.id} className={clsx('max-w-72 px-2.5 py-1.5 align-middle', cell.column.columnDef.meta?.figures && 'figure whitespace-nowrap text-right')}>
                    {flexRender(cell.column.columnDef.cell, cell.getContext())}
                  </td>
                ))}
              </tr>
            ))}
            {visible.length === 0 && <tr><td colSpan={columns.length} className="px-3 py-6 text-center text-muted">No row has these words. Clear the filter to see all {rows.length}.</td></tr>}
          </tbody>
        </table>
      </div>
    </div>
  );
}

function Head<Row>({ table }: { table: Table<Row> }) {
  return (
    <thead>
      {table.getHeaderGroups().map((group) => (
        <tr key={group.id} className="border-b text-left text-xs text-muted">
          {group.headers.map(({ id, column, getContext }) => {
            const sorted = column.getIsSorted();
            const heading = flexRender(column.columnDef.header, getContext());
            return (
              <th key={id} scope="col" aria-sort={sorted === 'asc' ? 'ascending' : sorted === 'desc' ? 'descending' : undefined} className={clsx('px-2.5 py-1.5 font-normal', column.columnDef.meta?.figures && 'text-right')}>
                {column.getCanSort()
                  ? <button type="button" className="inline-flex items-center gap-1 whitespace-nowrap hover:text-ink" onClick={column.getToggleSortingHandler()}>{heading}{sorted === 'asc' && <ArrowUp aria-hidden className="size-3" />}{sorted === 'desc' && <ArrowDown aria-hidden className="size-3" />}</button>
                  : heading}
              </th>
            );
          })}
        </tr>
      ))}
    </thead>
  );
}

function ColumnChooser<Row>({ table }: { table: Table<Row> }) {
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger asChild><Button look="quiet" className="h-8"><Columns3 aria-hidden className="size-4" />Columns</Button></DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content align="end" className="z-20 max-h-[60vh] overflow-auto border border-edge bg-surface p-1 shadow-xl">
          {table.getAllLeafColumns().filter((column) => column.getCanHide()).map((column) => (
            <DropdownMenu.CheckboxItem key={column.id} checked={column.getIsVisible()} onCheckedChange={(checked) => column.toggleVisibility(checked)} onSelect={(event) => event.preventDefault()} className="flex cursor-pointer items-center gap-2 px-3 py-1.5 text-sm outline-none data-[highlighted]:bg-raised">
              <span className="w-4">{column.getIsVisible() ? '✓' : ''}</span>{String(column.columnDef.header)}
            </DropdownMenu.CheckboxItem>
          ))}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}

function cellText<Row>(row: Row, value: unknown, meta: ColumnMeta<Row, never> | undefined): string {
  return meta?.text?.(row) ?? (typeof value === 'string' || typeof value === 'number' ? String(value) : '');
}
