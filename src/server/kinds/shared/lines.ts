import { csvOf, type Cell } from '@/core/formats/csv';

type Line = Readonly<Record<string, unknown>>;

const plain = (value: unknown): Cell =>
  Array.isArray(value)
    ? value.join(' ')
    : typeof value === 'object' && value !== null
      ? JSON.stringify(value)
      : (value as Cell);

/** Lines as CSV (RFC 4180). Columns are those of all lines, in the order in which they first come; lists are joined by spaces, what is not told is empty. */
export function linesCsv(lines: readonly Line[]): string {
  const columns = [...new Set(lines.flatMap((line) => Object.keys(line)))];
  return csvOf([columns, ...lines.map((line) => columns.map((name) => plain(line[name])))]);
}
