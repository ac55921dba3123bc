'use client';
import type { Table } from '@tanstack/react-table';
import { Columns3, Copy, Download } from 'lucide-react';
import { DropdownMenu } from 'radix-ui';
import type { ReactNode } from 'react';
import { count } from '@/core/format';
import { csvOf, tabbedOf } from '@/core/formats/csv';
import { Button, LinkButton } from '../parts/Button';
import { cellText } from './cellText';
import { saveFile, tableRows } from './export';

interface TableToolsProps<Row> {
  readonly label: string;
  readonly table: Table<Row>;
  /** Rows that there are, unfiltered. */
  readonly rows: number;
  readonly typed: string;
  readonly onType: (text: string) => void;
  readonly filters: ReactNode;
  /** Where all rows are as CSV, of a list that the server narrows; null: the rows are all here. */
  readonly csvHref: string | null;
  readonly fileName: string;
}

/** The row of tools above a table: filter, columns, copy, export. */
export function TableTools<Row>({
  label,
  table,
  rows,
  typed,
  onType,
  filters,
  csvHref,
  fileName,
}: TableToolsProps<Row>) {
  const visible = table.getRowModel().rows;
  return (
    <div data-no-print className="flex flex-wrap items-center gap-2 border-b px-2 py-1.5">
      {csvHref === null && (
        <input
          aria-label={`Filter ${label}`}
          placeholder="Filter"
          value={typed}
          onChange={(event) => onType(event.target.value)}
          className="h-8 w-56 border border-edge bg-ground px-2 text-sm placeholder:text-muted"
        />
      )}
      {filters}
      {csvHref === null && (
        <span role="status" className="text-sm text-muted">
          {visible.length < rows
            ? `${count(visible.length)} of ${count(rows)}`
            : `${count(rows)} ${rows === 1 ? 'row' : 'rows'}`}
        </span>
      )}
      <span className="ml-auto flex items-center gap-2">
        <ColumnChooser table={table} />
        <Button
          look="quiet"
          className="h-8"
          onClick={() => {
            void navigator.clipboard.writeText(tabbedOf(tableRows(table, cellText)));
          }}
        >
          <Copy aria-hidden className="size-4" />
          Copy
        </Button>
        {csvHref !== null ? (
          <LinkButton look="quiet" className="h-8" href={csvHref}>
            <Download aria-hidden className="size-4" />
            CSV of all
          </LinkButton>
        ) : (
          <Button
            look="quiet"
            className="h-8"
            onClick={() => saveFile(`${fileName}.csv`, csvOf(tableRows(table, cellText)))}
          >
            <Download aria-hidden className="size-4" />
            CSV
          </Button>
        )}
      </span>
    </div>
  );
}

/**
 * What can be done with the rows that are chosen.
 * @param unseen of the chosen, those that are on other pages or no longer match
 * @param total rows that may be chosen in all
 */
export function ChosenBar({
  label,
  chosen,
  unseen,
  total,
  chooseAll,
  clear,
  children,
}: {
  readonly label: string;
  readonly chosen: number;
  readonly unseen: number;
  readonly total: number;
  readonly chooseAll: () => void;
  readonly clear: () => void;
  readonly children: ReactNode;
}) {
  return (
    <div
      role="group"
      aria-label={`Actions for ${label}`}
      data-no-print
      className="flex flex-wrap items-center gap-2 border-b bg-raised px-2 py-1.5 text-sm"
    >
      <span className="mr-2">
        {count(chosen)} chosen{unseen > 0 && `, ${count(unseen)} not shown`}
      </span>
      {chosen < total && (
        <Button look="quiet" className="h-8 px-2 text-xs" onClick={chooseAll}>
          Choose all {count(total)}
        </Button>
      )}
      {children}
      <Button look="quiet" className="ml-auto h-8 px-2 text-xs" onClick={clear}>
        Clear selection
      </Button>
    </div>
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
