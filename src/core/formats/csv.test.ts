import fc from 'fast-check';
import { csvParseRows, tsvParseRows } from 'd3-dsv';
import { csvOf, tabbedOf } from './csv';

test('cells are quoted where needed, and nothing stands for nothing', () => {
  expect(
    csvOf([
      ['name', 'rate, MB/s'],
      ['a "b"', 1.5],
      ['two\nlines', null],
      [undefined, true],
    ]),
  ).toBe('name,"rate, MB/s"\n"a ""b""",1.5\n"two\nlines",\n,true\n');
  expect(tabbedOf([['a\tb', 'c,d', 2]])).toBe('"a\tb"\tc,d\t2\n');
});

test.each(['=1+1', '+cmd', '-2+3', '@SUM(A1)', '\t=1', '\r=1', '=HYPERLINK("x")', '-1e'])(
  'text that would run as a formula is text: %j',
  (text) => {
    expect(csvParseRows(csvOf([[text]]))).toEqual([[`'${text}`]]);
    expect(tsvParseRows(tabbedOf([[text]]))).toEqual([[`'${text}`]]);
  },
);

test.each(['-3.5', '+2', '-1e-7', -3.5, 'a=b', '3-4', '-', '’=1'])('what is no formula stays: %p', (cell) => {
  expect(csvParseRows(csvOf([[cell]]))).toEqual([[String(cell)]]);
});

test('what is written is read back, whatever it holds', () => {
  fc.assert(
    fc.property(fc.array(fc.array(fc.string(), { minLength: 1 }), { minLength: 1 }), (rows) => {
      const back = csvParseRows(csvOf(rows));
      const guarded = rows.map((row) =>
        row.map((cell) =>
          /^[=+\-@\t\r]./s.test(cell) && (cell.trim() === '' || Number.isNaN(Number(cell)))
            ? `'${cell}`
            : cell,
        ),
      );
      // A single empty cell is an empty line.
      expect(back.map((row) => row.join('\u0001'))).toEqual(guarded.map((row) => row.join('\u0001')));
    }),
  );
});
