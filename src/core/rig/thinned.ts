/**
 * So many rows of figures at most, each for as many neighbours: figures as their means, marks where any has them, the rest as the
 * last has it. Nulls are no figures. @param rows in order of time
 */
export function thinned<Row extends object>(rows: readonly Row[], most: number): readonly Row[] {
  const each = Math.ceil(rows.length / most);
  if (each <= 1) return rows;
  return Array.from({ length: Math.ceil(rows.length / each) }, (_, at) =>
    joined(rows.slice(at * each, (at + 1) * each)),
  );
}

function joined<Row extends object>(rows: readonly Row[]): Row {
  const last = rows.at(-1) as Row;
  const columns = Object.keys(last) as (keyof Row)[];
  return Object.fromEntries(
    columns.map((column) => {
      const values = rows.map((row) => row[column]);
      const figures = values.filter((value): value is Row[keyof Row] & number => typeof value === 'number');
      if (figures.length > 0)
        return [column, figures.reduce((sum: number, value) => sum + value, 0) / figures.length];
      return [column, values.includes(true as Row[keyof Row]) ? true : last[column]];
    }),
  ) as Row;
}
