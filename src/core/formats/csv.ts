import { csvFormatRows, tsvFormatRows } from 'd3-dsv';

/** A figure or a text of a table; nothing where there is none. */
export type Cell = string | number | boolean | null | undefined;

/** What a spreadsheet would take for a formula: text that begins so and is no number. Source: what spreadsheets evaluate, among them control characters that they leave out. */
const formula = /^[=+\-@\t\r]./s;

/** A cell as text that a spreadsheet takes for what it says: text that it would work out as a formula has an apostrophe in front. */
function plain(cell: Cell): string {
  if (typeof cell !== 'string') return cell === null || cell === undefined ? '' : String(cell);
  return formula.test(cell) && (cell.trim() === '' || Number.isNaN(Number(cell))) ? `'${cell}` : cell;
}

const plainRows = (rows: readonly (readonly Cell[])[]) => rows.map((row) => row.map(plain));

/** Rows as CSV (RFC 4180), each line ended. No text in it runs as a formula. */
export function csvOf(rows: readonly (readonly Cell[])[]): string {
  return `${csvFormatRows(plainRows(rows))}\n`;
}

/** The same parted by tabs, as what is copied into a spreadsheet. */
export function tabbedOf(rows: readonly (readonly Cell[])[]): string {
  return `${tsvFormatRows(plainRows(rows))}\n`;
}
