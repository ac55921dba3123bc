import { columnsOver, packColumns, putColumns, rowBytes } from './columns';

const layout = [
  ['time', 'f64'],
  ['lost', 'i32'],
  ['size', 'u32'],
  ['depth', 'u16'],
  ['state', 'u8'],
] as const;

test('columns lie one after the other, wide ones first, little-endian', () => {
  expect(rowBytes(layout)).toBe(19);
  const columns = columnsOver(layout, 2);
  columns.time.set([1, Number.NaN]);
  columns.lost.set([-1, 2]);
  columns.size.set([4_294_967_295, 3]);
  columns.depth.set([258, 4]);
  columns.state.set([5, 6]);
  const packed = packColumns(layout, columns, 0, 2);
  expect(packed).toHaveLength(38);
  expect([...packed.slice(16, 24)]).toEqual([255, 255, 255, 255, 2, 0, 0, 0]);
  expect([...packed.slice(32)]).toEqual([2, 1, 4, 0, 5, 6]);
  expect(columnsOver(layout, 2, packed.buffer as ArrayBuffer)).toEqual(columns);
});

test('a part is packed behind a head, and put into another record', () => {
  const columns = columnsOver(layout, 3);
  columns.time.set([1, 2, 3]);
  columns.state.set([7, 8, 9]);
  const packed = packColumns(layout, columns, 1, 3, 8);
  expect([...packed.slice(0, 8)]).toEqual([0, 0, 0, 0, 0, 0, 0, 0]);
  const part = columnsOver(layout, 2, packed.buffer as ArrayBuffer, 8);
  const joined = columnsOver(layout, 4);
  putColumns(layout, part, joined, 1);
  expect([...joined.time]).toEqual([0, 2, 3, 0]);
  expect([...joined.state]).toEqual([0, 8, 9, 0]);
});
