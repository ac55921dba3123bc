'use client';
import {
  flexRender,
  type ColumnDef,
  type Row as TableRow,
  type Table,
  type VisibilityState,
} from '@tanstack/react-table';
import { useVirtualizer } from '@tanstack/react-virtual';
import { clsx } from 'clsx';
import { ArrowDown, ArrowUp, ChevronDown, ChevronRight } from 'lucide-react';
import { createContext, memo, useContext, useRef, type ComponentProps, type ReactNode } from 'react';
import { count } from '@/core/format';
import { Checkbox } from '../parts/Checkbox';
import { cellText } from './cellText';

/** Beyond so many rows only those in sight are drawn, in a box of their own. */
const mostDrawn = 60;
const rowHeight = 45;

interface RowsProps<Row> {
  readonly label: string;
  readonly table: Table<Row>;
  readonly columns: readonly ColumnDef<Row, never>[];
  /** Rows that there are, unfiltered. */
  readonly total: number;
  readonly choosing: boolean;
  readonly folding: boolean;
  /** Whether these are the rows that were asked for; until then none can be chosen. */
  readonly isAnswer: boolean;
}

/** The rows of a table under its head; of long lists those in sight. */
export function Rows<Row>({ label, table, columns, total, choosing, folding, isAnswer }: RowsProps<Row>) {
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
  const items = virtual.getVirtualItems();
  const shown = long
    ? items
        .map(({ index }) => visible[index])
        .filter((row): row is (typeof visible)[number] => row !== undefined)
    : visible;
  const above = long ? (items[0]?.start ?? 0) : 0;
  const below = long ? virtual.getTotalSize() - (items.at(-1)?.end ?? 0) : 0;
  const width = table.getVisibleLeafColumns().length + (choosing ? 1 : 0) + (folding ? 1 : 0);
  return (
    <AnswerContext value={isAnswer}>
      <div
        ref={box}
        className={clsx('overflow-x-auto', long && 'max-h-[68vh] overflow-y-auto')}
        tabIndex={long ? 0 : undefined}
        role={long ? 'region' : undefined}
        aria-label={long ? `${label}, rows` : undefined}
      >
        <table
          aria-label={label}
          aria-rowcount={visible.length + 1}
          aria-busy={!isAnswer}
          className="w-full border-collapse text-sm"
        >
          <Head table={table} choosing={choosing} folding={folding} label={label} />
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
                visibility={table.getState().columnVisibility}
                choosing={choosing}
                isChosen={row.getIsSelected()}
                folding={folding}
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
                  No row matches. Clear the filter to see all {count(total)}.
                </td>
              </tr>
            )}
          </tbody>
        </table>
      </div>
    </AnswerContext>
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

/** Apart from the rows, which are not drawn again for it. */
const AnswerContext = createContext(true);

/** Chooses rows, once they are those that were asked for. */
const ChoiceBox = (props: ComponentProps<typeof Checkbox>) => (
  <Checkbox {...props} disabled={!useContext(AnswerContext)} />
);

/** A row; drawn again only when something of it has changed, for lists change while somebody types. */
const BodyRow = memo(function BodyRow<Row>({ row, choosing, isChosen, folding, isOpen }: BodyRowProps<Row>) {
  return (
    <tr
      aria-selected={choosing ? isChosen : undefined}
      className={clsx('group/row border-b last:border-b-0 hover:bg-raised/60', isChosen && 'bg-raised')}
    >
      {choosing && (
        <td className="w-8 pl-3">
          <ChoiceBox
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

/** The names of the columns, by which rows are ordered. */
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
              <ChoiceBox
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
                className={clsx(
                  'px-2.5 py-1.5 font-normal',
                  column.columnDef.meta?.figures && 'min-w-24 text-right',
                )}
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
