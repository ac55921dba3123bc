/**
 * Records kept as columns of figures, one after the other in one piece of memory, little-endian: how traces, requests and
 * packet tables are stored and travel. Wide columns come first, so that all stay aligned.
 */
const kinds = {
  f64: Float64Array,
  i32: Int32Array,
  u32: Uint32Array,
  u16: Uint16Array,
  u8: Uint8Array,
} as const;
export type ColumnKind = keyof typeof kinds;
interface Figures {
  readonly f64: Float64Array;
  readonly i32: Int32Array;
  readonly u32: Uint32Array;
  readonly u16: Uint16Array;
  readonly u8: Uint8Array;
}

/** Names of columns with what their figures are, in the order in which they are stored. */
export type Layout = readonly (readonly [name: string, kind: ColumnKind])[];

/** The columns of a layout by their names. */
export type ColumnsOf<Own extends Layout> = {
  readonly [Column in Own[number] as Column[0]]: Figures[Column[1]];
};

const columnOf = (columns: object, name: string) =>
  (columns as Readonly<Record<string, unknown>>)[name] as Figures[ColumnKind];

/** Bytes of one row of all columns. */
export const rowBytes = (layout: Layout): number =>
  layout.reduce((sum, [, kind]) => sum + kinds[kind].BYTES_PER_ELEMENT, 0);

/** Columns over a piece of memory. @param offset of the first, bytes: a multiple of the widest figure */
export function columnsOver<Own extends Layout>(
  layout: Own,
  length: number,
  buffer: ArrayBuffer = new ArrayBuffer(length * rowBytes(layout)),
  offset = 0,
): ColumnsOf<Own> {
  let at = offset;
  const columns: Record<string, unknown> = {};
  for (const [name, kind] of layout) {
    columns[name] = new kinds[kind](buffer, at, length);
    at += kinds[kind].BYTES_PER_ELEMENT * length;
  }
  return columns as ColumnsOf<Own>;
}

/** Rows `from` to before `to` of some columns, as one piece of memory. @param head bytes to leave free in front */
export function packColumns<Own extends Layout>(
  layout: Own,
  columns: ColumnsOf<Own>,
  from: number,
  to: number,
  head = 0,
): Uint8Array {
  const bytes = new Uint8Array(head + (to - from) * rowBytes(layout));
  let at = head;
  for (const [name] of layout) {
    const part = columnOf(columns, name).subarray(from, to);
    bytes.set(new Uint8Array(part.buffer, part.byteOffset, part.byteLength), at);
    at += part.byteLength;
  }
  return bytes;
}

/** Copies rows of some columns into others of the same layout. @param at the first row there */
export function putColumns<Own extends Layout>(
  layout: Own,
  from: ColumnsOf<Own>,
  into: ColumnsOf<Own>,
  at: number,
): void {
  for (const [name] of layout) columnOf(into, name).set(columnOf(from, name), at);
}
