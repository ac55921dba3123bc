import type { ColumnMeta, Table } from '@tanstack/react-table';

type CellText<Row> = (row: Row, value: unknown, meta: ColumnMeta<Row, never> | undefined) => string;

/** What a table shows, as text: the visible columns of the filtered rows in their order. Cells are quoted where needed (RFC 4180). */
export function tableText<Row>(table: Table<Row>, textOf: CellText<Row>, separator: ',' | '\t'): string {
  const columns = table.getVisibleLeafColumns().filter((column) => String(column.columnDef.header ?? '') !== '');
  const quote = (text: string) => (/["\n\r]/.test(text) || text.includes(separator) ? `"${text.replaceAll('"', '""')}"` : text);
  const lines = [columns.map((column) => quote(String(column.columnDef.header)))];
  for (const row of table.getRowModel().rows) {
    lines.push(columns.map((column) => quote(textOf(row.original, row.getValue(column.id), column.columnDef.meta))));
  }
  return `${lines.map((cells) => cells.join(separator)).join('\n')}\n`;
}
