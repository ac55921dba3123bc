'use client';
import {
  functionalUpdate,
  getCoreRowModel,
  getExpandedRowModel,
  getFilteredRowModel,
  getSortedRowModel,
  useReactTable,
  type ColumnDef,
  type ExpandedState,
  type SortingState,
  type Table,
  type VisibilityState,
} from '@tanstack/react-table';
import { useDeferredValue, useState, type ReactNode } from 'react';
import { cellText } from './cellText';
import { Pager, type Paging } from './Pager';
import { Rows } from './Rows';
import { ChosenBar, TableTools } from './TableTools';
import { useChosenRows } from './useChosenRows';

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

/** A table that sorts, filters, chooses columns and rows, copies and exports what is seen. */
export function DataTable<Row>(props: DataTableProps<Row>) {
  const { label, rows, columns, empty, fileName, actions, filters, paging, folded } = props;
  const { table, typed, setTyped, chosen, choose, chooseThese } = useTableModel(props);
  const visible = table.getRowModel().rows;
  const isEmpty = rows.length === 0;
  // Where the server narrows them, the ways to do so stay in their place while somebody types.
  if (isEmpty && !(paging && filters))
    return (
      <>
        {filters}
        {empty}
      </>
    );
  const here = table.getCoreRowModel().rowsById;
  const isPageChosen = chosen.length > 0 && visible.every((row) => row.getIsSelected());
  const chooseAll = async () => chooseThese((await paging?.all?.()) ?? []);
  const clear = () => choose({});
  return (
    <div className="border bg-surface">
      <TableTools
        label={label}
        table={table}
        rows={rows.length}
        typed={typed}
        onType={setTyped}
        filters={filters}
        csvHref={paging?.csvHref ?? null}
        fileName={fileName}
      />
      {chosen.length > 0 && (
        <ChosenBar
          label={label}
          chosen={chosen.length}
          unseen={chosen.filter((row) => !(props.rowId(row) in here)).length}
          total={isPageChosen && paging?.all ? paging.total : chosen.length}
          chooseAll={() => void chooseAll()}
          clear={clear}
        >
          {actions?.(chosen, clear)}
        </ChosenBar>
      )}
      {isEmpty && <div className="p-3">{empty}</div>}
      <div hidden={isEmpty}>
        <Rows
          label={label}
          table={table}
          columns={columns}
          total={rows.length}
          choosing={actions !== undefined}
          isAnswer={paging?.isAnswer ?? true}
          folding={folded !== undefined}
        />
      </div>
      {paging && !isEmpty && <Pager label={label} paging={paging} shown={rows.length} />}
    </div>
  );
}

/** What a table shows of its rows, in which order, and which of them are chosen. */
function useTableModel<Row>({
  rows,
  columns,
  rowId,
  initialSort = [],
  hidden = {},
  actions,
  paging,
  folded,
}: DataTableProps<Row>) {
  const [ownSorting, setOwnSorting] = useState<SortingState>(initialSort);
  const sorting = paging?.sorting ?? ownSorting;
  const [expanded, setExpanded] = useState<ExpandedState>({});
  const [typed, setTyped] = useState('');
  const filter = useDeferredValue(typed);
  const [columnVisibility, setColumnVisibility] = useState<VisibilityState>(hidden);
  const { rowSelection, chosenRows, choose, chooseThese } = useChosenRows(rows, rowId, folded);
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
  const chosen = !actions
    ? []
    : paging
      ? [...chosenRows.values()]
      : table.getFilteredSelectedRowModel().rows.map(({ original }) => original);
  return { table, typed, setTyped, chosen, choose, chooseThese };
}
