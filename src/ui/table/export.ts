import type { ColumnMeta, Table } from '@tanstack/react-table';

type CellText<Row> = (row: Row, value: unknown, meta: ColumnMeta<Row, never> | undefined) => string;

/** A cell with quotes where it needs them (RFC 4180). */
export function quoted(text: string, separator: ',' | '\t'): string {
  return /["\n\r]/.test(text) || text.includes(separator) ? `"${text.replaceAll('"', '""')}"` : text;
}

/** What a table shows, as text: the visible columns of the filtered rows in their order. Cells are quoted where needed (RFC 4180). */
export function tableText<Row>(table: Table<Row>, textOf: CellText<Row>, separator: ',' | '\t'): string {
  const columns = table
    .getVisibleLeafColumns()
    .filter((column) => String(column.columnDef.header ?? '') !== '');
  const quote = (text: string) => quoted(text, separator);
  const lines = [columns.map((column) => quote(String(column.columnDef.header)))];
  for (const row of table.getRowModel().rows) {
    lines.push(
      columns.map((column) => quote(textOf(row.original, row.getValue(column.id), column.columnDef.meta))),
    );
  }
  return `${lines.map((cells) => cells.join(separator)).join('\n')}\n`;
}

/** Hands a text to the person as a file. */
export function saveFile(name: string, text: string, type = 'text/csv'): void {
  const link = document.createElement('a');
  link.href = URL.createObjectURL(new Blob([text], { type }));
  link.download = name;
  link.click();
  URL.revokeObjectURL(link.href);
}
