'use client';
import { count } from '@/core/format';
import {
  flexRender,
  functionalUpdate,
  getCoreRowModel,
  getExpandedRowModel,
  getFilteredRowModel,
  getSortedRowModel,
  useReactTable,
  type ColumnDef,
  type ColumnMeta,
  type ExpandedState,
  type Row as TableRow,
  type RowData,
  type RowSelectionState,
  type SortingState,
  type Table,
  type Updater,
  type VisibilityState,
} from '@tanstack/react-table';
import { useVirtualizer } from '@tanstack/react-virtual';
import { clsx } from 'clsx';
import {
  ArrowDown,
  ArrowUp,
  ChevronDown,
  ChevronLeft,
  ChevronRight,
  Columns3,
  Copy,
  Download,
} from 'lucide-react';
import { DropdownMenu } from 'radix-ui';
import { memo, useDeferredValue, useRef, useState, type ReactNode } from 'react';
import { Button, LinkButton } from '../parts/Button';
import { Checkbox } from '../parts/Checkbox';
import { saveFile, tableText } from './export';

declare module '@tanstack/react-table' {
  // eslint-disable-next-line @typescript-eslint/no-unused-vars -- the signature is the library's
  interface ColumnMeta<TData extends RowData, TValue> {
    /** Figures stand right-aligned in the figure face. */
    readonly figures?: boolean;
    /** The cell's plain text for copying, export and filtering, where it is not the value itself. */
    readonly text?: (row: TData) => string;
    /** This column says what a row is called. */
    readonly rowName?: boolean;
    /** Takes all the room that others leave. */
    readonly wide?: boolean;
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
  /** Rows can be chosen; what can be done with those that are. */
  readonly actions?: (chosen: Row[], clear: () => void) => ReactNode;
  /** Further ways to narrow the rows down, beside the filter. */
  readonly filters?: ReactNode;
  /** Rows are one page of a list that the server narrows and orders. */
  readonly paging?: Paging<Row>;
  /** Rows that are folded under a row until it is opened. */
  readonly folded?: (row: Row) => readonly Row[];
}

interface Paging<Row> {
  /** Rows on all pages. */
  readonly total: number;
  /** Counted from 1. */
  readonly page: number;
  readonly size: number;
  readonly onPage: (page: number) => void;
  /** Where all rows are as CSV. */
  readonly csvHref: string;
  /** What the ways to the page before and the next are called; without, they are before and after. */
  readonly turns?: readonly [before: string, after: string];
  /** How rows are ordered, in words behind their number. */
  readonly ordered?: string;
  /** The column that the server sorts by; without, rows come in one order alone. */
  readonly sorting?: SortingState;
  readonly onSort?: (sorting: SortingState) => void;
  /** Rows of all pages, to choose them all. */
  readonly all?: () => Promise<readonly Row[]>;
}

/** Beyond so many rows only those in sight are drawn, in a box of their own. */
const mostDrawn = 60;
const rowHeight = 45;

/** A table that sorts, filters, chooses columns and rows, copies and exports what is seen. */
export function DataTable<Row>({
  label,
  rows,
  columns,
  rowId,
  initialSort = [],
  hidden = {},
  empty,
  fileName,
  actions,
  filters,
  paging,
  folded,
}: DataTableProps<Row>) {
  const [ownSorting, setOwnSorting] = useState<SortingState>(initialSort);
  const sorting = paging?.sorting ?? ownSorting;
  const [expanded, setExpanded] = useState<ExpandedState>({});
  const [typed, setTyped] = useState('');
  const filter = useDeferredValue(typed);
  const [columnVisibility, setColumnVisibility] = useState<VisibilityState>(hidden);
  const [rowSelection, setRowSelection] = useState<RowSelectionState>({});
  // Chosen rows stay chosen while other pages are looked at.
  const [chosenRows, setChosenRows] = useState<ReadonlyMap<string, Row>>(new Map());
  const choose = (update: Updater<RowSelectionState>) => {
    const next = functionalUpdate(update, rowSelection);
    const here = new Map(
      rows.flatMap((row) => [row, ...(folded?.(row) ?? [])]).map((row) => [rowId(row), row]),
    );
    setRowSelection(next);
    setChosenRows(
      new Map(
        Object.keys(next).flatMap((id): [string, Row][] => {
          const row = next[id] ? (here.get(id) ?? chosenRows.get(id)) : undefined;
          return row === undefined ? [] : [[id, row]];
        }),
      ),
    );
  };
  const table: Table<Row> = useReactTable({
    data: rows,
    columns: columns as ColumnDef<Row>[],
    getRowId: rowId,
    ...(folded && { getSubRows: (row: Row) => folded(row) as Row[], onExpandedChange: setExpanded }),
    state: { sorting, globalFilter: filter, columnVisibility, rowSelection, expanded },
    onSortingChange: (update) => (paging?.onSort ?? setOwnSorting)(functionalUpdate(update, sorting)),
    onGlobalFilterChange: setTyped,
    onColumnVisibilityChange: setColumnVisibility,
    onRowSelectionChange: choose,
    enableSorting: paging === undefined || paging.onSort !== undefined,
    enableMultiSort: paging === undefined,
    manualSorting: paging !== undefined,
    // A row that is chosen stands for itself, not for what is folded under it.
    enableSubRowSelection: false,
    enableRowSelection: actions !== undefined,
    globalFilterFn: (row, columnId, wanted: string) =>
      cellText(row.original, row.getValue(columnId), table.getColumn(columnId)?.columnDef.meta)
        .toLowerCase()
        .includes(wanted.toLowerCase()),
    getColumnCanGlobalFilter: () => true,
    getCoreRowModel: getCoreRowModel(),
    getSortedRowModel: getSortedRowModel(),
    getFilteredRowModel: getFilteredRowModel(),
    getExpandedRowModel: getExpandedRowModel(),
  });
  const visible = table.getRowModel().rows;
  const box = useRef<HTMLDivElement>(null);
  const long = visible.length > mostDrawn;
  const virtual = useVirtualizer({
    count: visible.length,
    getScrollElement: () => box.current,
    estimateSize: () => rowHeight,
    overscan: 12,
    enabled: long,
    initialRect: { width: 1_000, height: 600 },
  });
  const isEmpty = rows.length === 0;
  // Where the server narrows them, the ways to do so stay in their place while somebody types.
  if (isEmpty && !(paging && filters))
    return (
      <>
        {filters}
        {empty}
      </>
    );
  const items = virtual.getVirtualItems();
  const shown = long
    ? items
        .map(({ index }) => visible[index])
        .filter((row): row is (typeof visible)[number] => row !== undefined)
    : visible;
  const above = long ? (items[0]?.start ?? 0) : 0;
  const below = long ? virtual.getTotalSize() - (items.at(-1)?.end ?? 0) : 0;
  const chosen = !actions
    ? []
    : paging
      ? [...chosenRows.values()]
      : table.getFilteredSelectedRowModel().rows.map(({ original }) => original);
  const width = table.getVisibleLeafColumns().length + (actions ? 1 : 0) + (folded ? 1 : 0);
  const isPageChosen = chosen.length > 0 && visible.every((row) => row.getIsSelected());
  const chooseAll = async () => {
    const all = (await paging?.all?.()) ?? [];
    setRowSelection(Object.fromEntries(all.map((row) => [rowId(row), true])));
    setChosenRows(new Map(all.map((row) => [rowId(row), row])));
  };
  return (
    <div className="border bg-surface">
      <div data-no-print className="flex flex-wrap items-center gap-2 border-b px-2 py-1.5">
        {!paging && (
          <input
            aria-label={`Filter ${label}`}
            placeholder="Filter"
            value={typed}
            onChange={(event) => setTyped(event.target.value)}
            className="h-8 w-56 border border-edge bg-ground px-2 text-sm placeholder:text-muted"
          />
        )}
        {filters}
        {!paging && (
          <span role="status" className="text-sm text-muted">
            {visible.length < rows.length
              ? `${count(visible.length)} of ${count(rows.length)}`
              : `${count(rows.length)} ${rows.length === 1 ? 'row' : 'rows'}`}
          </span>
        )}
        <span className="ml-auto flex items-center gap-2">
          <ColumnChooser table={table} />
          <Button
            look="quiet"
            className="h-8"
            onClick={() => {
              void navigator.clipboard.writeText(tableText(table, cellText, '\t'));
            }}
          >
            <Copy aria-hidden className="size-4" />
            Copy
          </Button>
          {paging ? (
            <LinkButton look="quiet" className="h-8" href={paging.csvHref}>
              <Download aria-hidden className="size-4" />
              CSV of all
            </LinkButton>
          ) : (
            <Button
              look="quiet"
              className="h-8"
              onClick={() => saveFile(`${fileName}.csv`, tableText(table, cellText, ','))}
            >
              <Download aria-hidden className="size-4" />
              CSV
            </Button>
          )}
        </span>
      </div>
      {chosen.length > 0 && (
        <div
          role="group"
          aria-label={`Actions for ${label}`}
          data-no-print
          className="flex flex-wrap items-center gap-2 border-b bg-raised px-2 py-1.5 text-sm"
        >
          <span className="mr-2">{count(chosen.length)} chosen</span>
          {paging?.all && isPageChosen && chosen.length < paging.total && (
            <Button
              look="quiet"
              className="h-8 px-2 text-xs"
              onClick={() => {
                void chooseAll();
              }}
            >
              Choose all {count(paging.total)}
            </Button>
          )}
          {actions?.(chosen, () => choose({}))}
          <Button look="quiet" className="ml-auto h-8 px-2 text-xs" onClick={() => choose({})}>
            Clear selection
          </Button>
        </div>
      )}
      {isEmpty && <div className="p-3">{empty}</div>}
      <div
        ref={box}
        hidden={isEmpty}
        className={clsx('overflow-x-auto', long && 'max-h-[68vh] overflow-y-auto')}
        tabIndex={long ? 0 : undefined}
        role={long ? 'region' : undefined}
        aria-label={long ? `${label}, rows` : undefined}
      >
        <table
          aria-label={label}
          aria-rowcount={visible.length + 1}
          className="w-full border-collapse text-sm"
        >
          <Head table={table} choosing={actions !== undefined} folding={folded !== undefined} label={label} />
          <tbody>
            {above > 0 && (
              <tr aria-hidden>
                <td colSpan={width} style={{ height: above }} />
              </tr>
            )}
            {shown.map((row) => (
              <BodyRow
                key={row.id}
                row={row}
                columns={columns}
                visibility={columnVisibility}
                choosing={actions !== undefined}
                isChosen={row.getIsSelected()}
                folding={folded !== undefined}
                isOpen={row.getIsExpanded()}
              />
            ))}
            {below > 0 && (
              <tr aria-hidden>
                <td colSpan={width} style={{ height: below }} />
              </tr>
            )}
            {visible.length === 0 && (
              <tr>
                <td colSpan={width} className="px-3 py-6 text-center text-muted">
                  No row matches. Clear the filter to see all {count(rows.length)}.
                </td>
              </tr>
            )}
          </tbody>
        </table>
      </div>
      {paging && !isEmpty && <Pager label={label} paging={paging} shown={rows.length} />}
    </div>
  );
}

/** Which part of a list is seen, and the ways to the others. */
function Pager<Row>({ label, paging, shown }: { label: string; paging: Paging<Row>; shown: number }) {
  const { total, page, size, onPage, turns: [before, after] = ['Before', 'After'], ordered } = paging;
  const from = (page - 1) * size + 1;
  const pages = Math.max(1, Math.ceil(total / size));
  return (
    <nav
      aria-label={`Pages of ${label}`}
      className="flex flex-wrap items-center gap-2 border-t px-2 py-1.5 text-sm text-muted"
    >
      <span role="status">
        {shown === 0
          ? `none of ${count(total)}`
          : pages === 1
            ? `${count(total)} ${total === 1 ? 'row' : 'rows'}`
            : `${count(from)} to ${count(from + shown - 1)} of ${count(total)}${ordered ? `, ${ordered}` : ''}`}
      </span>
      {pages > 1 && (
        <span data-no-print className="ml-auto flex items-center gap-1">
          <Button look="quiet" className="h-8" disabled={page <= 1} onClick={() => onPage(page - 1)}>
            <ChevronLeft aria-hidden className="size-4" />
            {before}
          </Button>
          <span className="figure">
            {count(page)} / {count(pages)}
          </span>
          <Button look="quiet" className="h-8" disabled={page >= pages} onClick={() => onPage(page + 1)}>
            {after}
            <ChevronRight aria-hidden className="size-4" />
          </Button>
        </span>
      )}
    </nav>
  );
}

interface BodyRowProps<Row> {
  readonly row: TableRow<Row>;
  readonly columns: readonly ColumnDef<Row, never>[];
  readonly visibility: VisibilityState;
  readonly choosing: boolean;
  readonly isChosen: boolean;
  readonly folding: boolean;
  readonly isOpen: boolean;
}

/** A row; drawn again only when something of it has changed, for lists change while somebody types. */
const BodyRow = memo(function BodyRow<Row>({ row, choosing, isChosen, folding, isOpen }: BodyRowProps<Row>) {
  return (
    <tr
      aria-selected={choosing ? isChosen : undefined}
      className={clsx('group/row border-b last:border-b-0 hover:bg-raised/60', isChosen && 'bg-raised')}
    >
      {choosing && (
        <td className="w-8 pl-3">
          <Checkbox
            label={`Choose ${rowName(row)}`}
            checked={isChosen}
            onChange={(on) => row.toggleSelected(on)}
          />
        </td>
      )}
      {folding && (
        <td className="w-7 pl-1">{row.getCanExpand() && <FoldButton row={row} isOpen={isOpen} />}</td>
      )}
      {row.getVisibleCells().map((cell, at) => (
        <td
          key={cell.id}
          className={clsx(
            'py-1.5 pr-2.5 align-middle',
            row.depth > 0 && at === 0 ? 'pl-6' : 'pl-2.5',
            cell.column.columnDef.meta?.wide ? 'w-full' : 'max-w-72',
            cell.column.columnDef.meta?.figures && 'figure whitespace-nowrap text-right',
          )}
        >
          {flexRender(cell.column.columnDef.cell, cell.getContext())}
        </td>
      ))}
    </tr>
  );
}) as <Row>(props: BodyRowProps<Row>) => ReactNode;

/** Opens what is folded under a row, or folds it again. */
function FoldButton<Row>({ row, isOpen }: { row: TableRow<Row>; isOpen: boolean }) {
  return (
    <button
      type="button"
      aria-expanded={isOpen}
      aria-label={`${row.subRows.length} more of ${rowName(row)}`}
      className="inline-flex size-6 items-center justify-center text-muted hover:text-ink"
      onClick={row.getToggleExpandedHandler()}
    >
      {isOpen ? (
        <ChevronDown aria-hidden className="size-4" />
      ) : (
        <ChevronRight aria-hidden className="size-4" />
      )}
    </button>
  );
}

/** What a row is called: the text of its first named column. */
function rowName<Row>(row: TableRow<Row>): string {
  const cell = row.getAllCells().find(({ column }) => column.columnDef.meta?.rowName);
  return cell ? cellText(row.original, cell.getValue(), cell.column.columnDef.meta) : row.id;
}

function Head<Row>({
  table,
  choosing,
  folding,
  label,
}: {
  table: Table<Row>;
  choosing: boolean;
  folding: boolean;
  label: string;
}) {
  const visible = table.getRowModel().rows;
  const marked = visible.filter((row) => row.getIsSelected()).length;
  return (
    <thead className="sticky top-0 z-1 bg-surface">
      {table.getHeaderGroups().map((group) => (
        <tr key={group.id} className="border-b text-left text-xs text-muted">
          {choosing && (
            <th scope="col" className="w-8 pl-3">
              <Checkbox
                label={`Choose all ${label}`}
                checked={visible.length > 0 && marked === visible.length ? true : marked > 0 && 'mixed'}
                onChange={(on) =>
                  table.setRowSelection((before) => ({
                    ...before,
                    ...Object.fromEntries(visible.map(({ id }) => [id, on])),
                  }))
                }
              />
            </th>
          )}
          {folding && <th aria-label="Folded" className="w-7" />}
          {group.headers.map(({ id, column, getContext }) => {
            const sorted = column.getIsSorted();
            const heading = flexRender(column.columnDef.header, getContext());
            return (
              <th
                key={id}
                scope="col"
                aria-sort={sorted === 'asc' ? 'ascending' : sorted === 'desc' ? 'descending' : undefined}
                className={clsx('px-2.5 py-1.5 font-normal', column.columnDef.meta?.figures && 'text-right')}
              >
                {column.getCanSort() ? (
                  <button
                    type="button"
                    className="inline-flex items-center gap-1 whitespace-nowrap hover:text-ink"
                    onClick={column.getToggleSortingHandler()}
                  >
                    {heading}
                    {sorted === 'asc' && <ArrowUp aria-hidden className="size-3" />}
                    {sorted === 'desc' && <ArrowDown aria-hidden className="size-3" />}
                  </button>
                ) : (
                  heading
                )}
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
      <DropdownMenu.Trigger asChild>
        <Button look="quiet" className="h-8">
          <Columns3 aria-hidden className="size-4" />
          Columns
        </Button>
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content
          align="end"
          className="z-50 max-h-[60vh] overflow-auto border border-edge bg-surface p-1 shadow-xl"
        >
          {table
            .getAllLeafColumns()
            .filter((column) => column.getCanHide())
            .map((column) => (
              <DropdownMenu.CheckboxItem
                key={column.id}
                checked={column.getIsVisible()}
                onCheckedChange={(checked) => column.toggleVisibility(checked)}
                onSelect={(event) => event.preventDefault()}
                className="flex cursor-pointer items-center gap-2 px-3 py-1.5 text-sm outline-none data-[highlighted]:bg-raised"
              >
                <span className="w-4">{column.getIsVisible() ? '✓' : ''}</span>
                {String(column.columnDef.header)}
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
