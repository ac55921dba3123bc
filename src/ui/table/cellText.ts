import type { ColumnMeta, RowData } from '@tanstack/react-table';

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

/** A cell's text for copying, export and filtering. */
export function cellText<Row>(row: Row, value: unknown, meta: ColumnMeta<Row, never> | undefined): string {
  return meta?.text?.(row) ?? (typeof value === 'string' || typeof value === 'number' ? String(value) : '');
}
