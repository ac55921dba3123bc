import { createTable, getCoreRowModel, type ColumnDef } from '@tanstack/react-table';
import { csvOf, tabbedOf } from '@/core/formats/csv';
import fc from 'fast-check';
import { withOtherNames } from '@/core/media/fileName';
import { tableRows } from './table/export';
import { PictureParser } from './trial/livePictures';
import { coldWords, endTitles, policyWords, statusWords } from './trialWords';

const plain = (text: string) => text.replaceAll('\u202f', ' ').replaceAll('\u2009', ' ');

test('all that a trial can be has words', () => {
  expect(Object.keys(statusWords).sort()).toEqual(Object.keys(endTitles).sort());
  expect(Object.values(policyWords)).toEqual(['hold time', 'every frame']);
  expect(plain(coldWords({ method: 'direct', residentBefore: 1, residentAtStart: 0 }))).toBe(
    "Cold: every read went to the device past the system's cache. In memory before: 100.0 %; at the start: 0.0 %.",
  );
  expect(coldWords({ method: 'warm', residentBefore: null, residentAtStart: null })).toContain(
    'Warm: reads may have come from memory',
  );
  expect(coldWords({ method: 'evicted', residentBefore: 0.5, residentAtStart: 0 })).toContain(
    'dropped from memory first',
  );
});

test('a table exports what is seen, quoted where needed', () => {
  interface Row {
    name: string;
    rate: number;
  }
  const columns: ColumnDef<Row>[] = [
    { id: 'play', header: '' },
    { accessorKey: 'name', header: 'Name, whole' },
    { accessorKey: 'rate', header: 'Rate' },
  ];
  const table = createTable<Row>({
    data: [
      { name: 'plain', rate: 1 },
      { name: 'with, comma and "quotes"', rate: 2 },
    ],
    columns,
    state: { columnVisibility: {}, columnPinning: {} },
    onStateChange: () => undefined,
    renderFallbackValue: null,
    getCoreRowModel: getCoreRowModel(),
  });
  const text = (_row: Row, value: unknown) => (typeof value === 'number' ? `${value} /s` : String(value));
  expect(csvOf(tableRows(table, text))).toBe(
    '"Name, whole",Rate\nplain,1 /s\n"with, comma and ""quotes""",2 /s\n',
  );
  expect(tabbedOf(tableRows(table, text)).split('\n')[1]).toBe('plain\t1 /s');
});

test('live pictures are put together from pieces of any size', () => {
  const pictures = [
    [7, [1, 2, 3]],
    [8, []],
    [70_000, Array.from({ length: 300 }, (_, i) => i % 256)],
  ] as const;
  const stream = pictures.flatMap(([frame, bytes]) => {
    const head = new DataView(new ArrayBuffer(8));
    head.setUint32(0, bytes.length, true);
    head.setUint32(4, frame, true);
    return [...new Uint8Array(head.buffer), ...bytes];
  });
  fc.assert(
    fc.property(fc.array(fc.integer({ min: 1, max: 80 }), { minLength: 1, maxLength: 40 }), (cuts) => {
      const parser = new PictureParser();
      const found: [number, number[]][] = [];
      for (let at = 0, turn = 0; at < stream.length; turn++) {
        const length = cuts[turn % cuts.length]!;
        for (const { frame, jpeg } of parser.push(Uint8Array.from(stream.slice(at, at + length))))
          found.push([frame, [...jpeg]]);
        at += length;
      }
      expect(found).toEqual(pictures);
    }),
    { numRuns: 50 },
  );
});

test('a file is named with the names that its content bears elsewhere, two at most', () => {
  expect(withOtherNames('A.mov', [])).toBe('A.mov');
  expect(withOtherNames('A.mov', ['B.mov'])).toBe('A.mov, also B.mov');
  expect(withOtherNames('A.mov', ['B.mov', 'C.mov', 'D.mov', 'E.mov'])).toBe(
    'A.mov, also B.mov, C.mov and 2 more',
  );
});
