import type { ColumnMeta, Table } from '@tanstack/react-table';

type CellText<Row> = (row: Row, value: unknown, meta: ColumnMeta<Row, never> | undefined) => string;

/** What a table shows: the visible columns of the filtered rows in their order, under their names. */
export function tableRows<Row>(table: Table<Row>, textOf: CellText<Row>): string[][] {
  const columns = table
    .getVisibleLeafColumns()
    .filter((column) => String(column.columnDef.header ?? '') !== '');
  return [
    columns.map((column) => String(column.columnDef.header)),
    ...table
      .getRowModel()
      .rows.map((row) =>
        columns.map((column) => textOf(row.original, row.getValue(column.id), column.columnDef.meta)),
      ),
  ];
}

/** Hands a text to the person as a file. */
export function saveFile(name: string, text: string, type = 'text/csv'): void {
  const link = document.createElement('a');
  link.href = URL.createObjectURL(new Blob([text], { type }));
  link.download = name;
  link.click();
  URL.revokeObjectURL(link.href);
}
