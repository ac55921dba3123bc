import { csvFormat } from 'd3';

type Line = Readonly<Record<string, unknown>>;

/** Lines as CSV (RFC 4180). Columns are those of all lines, in the order in which they first come; lists are joined by spaces, what is not told is empty. */
export function linesCsv(lines: readonly Line[]): string {
  const columns = [...new Set(lines.flatMap((line) => Object.keys(line)))];
  const plain = (value: unknown) =>
    Array.isArray(value)
      ? value.join(' ')
      : typeof value === 'object' && value !== null
        ? JSON.stringify(value)
        : value;
  const rows = lines.map((line) =>
    Object.fromEntries(Object.entries(line).map(([name, value]) => [name, plain(value)])),
  );
  return `${csvFormat(rows, columns)}\n`;
}
