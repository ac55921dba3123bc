import fc from 'fast-check';
import { CubeError, parseCube, tablesOf, writeCube } from './cube';

const identity2 = ['0 0 0', '1 0 0', '0 1 0', '1 1 0', '0 0 1', '1 0 1', '0 1 1', '1 1 1'];
const cube3 = (lines: readonly string[]) =>
  [
    '# made up',
    'TITLE "Salt marsh"',
    'LUT_3D_SIZE 2',
    'DOMAIN_MIN 0 0 0',
    'DOMAIN_MAX 1 1 1',
    '',
    ...lines,
  ].join('\n');

test('a 3D table is read with its title, domain and entries, red fastest', () => {
  const cube = parseCube(cube3(identity2));
  expect(cube).toMatchObject({ title: 'Salt marsh', dimensions: 3, size: 2, domainMax: [1, 1, 1] });
  expect([...cube.values.subarray(3, 9)]).toEqual([1, 0, 0, 0, 1, 0]);
});

test('a 1D table, tabs, Windows line ends, exponents and the one-range keyword', () => {
  const cube = parseCube(
    'LUT_1D_SIZE 3\r\nLUT_1D_INPUT_RANGE 0.0 2.0\r\n0\t0\t0\r\n5e-1 .5 0.5\r\n1. 1 1\r\n',
  );
  expect(cube).toMatchObject({ dimensions: 1, size: 3, domainMin: [0, 0, 0], domainMax: [2, 2, 2] });
  expect([...cube.values.subarray(3, 6)]).toEqual([0.5, 0.5, 0.5]);
});

test.each([
  ['LUT_3D_SIZE two', 'Line 1: LUT_3D_SIZE takes one whole number.'],
  ['LUT_3D_SIZE 300', 'Line 1: LUT_3D_SIZE is 300; it may be 2 to 256.'],
  ['LUT_1D_SIZE 2\nLUT_1D_SIZE 2', 'Line 2: the size was given on line 1 already.'],
  ['LUT_1D_SIZE 2\nLUT_3D_SIZE 2\n0 0 0\n1 1 1\n0 0 0', 'Line 5: the file ends after 1 of 8 entries.'],
  ['0 0 0', 'Line 1: table entries come before'],
  ['LUT_1D_SIZE 2\n0 0 0\n1 1', 'Line 3: a table entry takes three numbers, here are 2.'],
  ['LUT_1D_SIZE 2\n0 0 0\n1 one 1', 'Line 3: "one" is not a number.'],
  ['LUT_1D_SIZE 2\n0 0 0\n1 nan 1', 'Line 3: "nan" is not a number.'],
  ['LUT_1D_SIZE 2\n0 0 0', 'Line 2: the file ends after 1 of 2 entries.'],
  ['LUT_1D_SIZE 2\n0 0 0\n1 1 1\n1 1 1', 'Line 4: there are more entries than the 2'],
  ['LUT_1D_SIZE 2\n0 0 0\nTITLE "late"', 'Line 3: the keyword TITLE comes after table entries.'],
  ['LUT_1D_SIZE 2\nGAMMA 2', 'Line 2: the keyword GAMMA is not known'],
  ['LUT_1D_SIZE 2\n0 0 0 0 # four', 'Line 2: a table entry takes three numbers, here are 4.'],
  ['LUT_1D_SIZE 2\n0 # 0 0', 'Line 2: a table entry takes three numbers, here are 1.'],
  ['# nothing', 'There is no LUT_1D_SIZE or LUT_3D_SIZE.'],
  ['LUT_1D_SIZE 2\nDOMAIN_MIN 1 0 0\n0 0 0\n1 1 1', 'DOMAIN_MIN is not below DOMAIN_MAX for channel 1.'],
])('%j is refused: %s', (text, message) => {
  expect(() => parseCube(text)).toThrow(CubeError);
  expect(() => parseCube(text)).toThrow(message);
});

test('what is written is read back the same to nine decimals', () => {
  fc.assert(
    fc.property(
      fc.constantFrom(1 as const, 3 as const),
      fc.array(fc.double({ min: -4, max: 4, noNaN: true }), { minLength: 24, maxLength: 24 }),
      (dimensions, values) => {
        const back = parseCube(
          writeCube({
            title: null,
            shaper: null,
            dimensions,
            size: dimensions === 1 ? 8 : 2,
            domainMin: [0, 0, 0],
            domainMax: [1, 1, 1.5],
            values: Float64Array.from(values),
          }),
        );
        return (
          back.dimensions === dimensions &&
          back.values.every((value, at) => Math.abs(value - values[at]!) <= 5.1e-10)
        );
      },
    ),
  );
});

test('titles without quotes and comments behind values and keywords are taken', () => {
  const cube = parseCube(
    'TITLE Salt marsh, dusk\nLUT_1D_SIZE 2 # two\nDOMAIN_MAX 2 2 2# wide\n0 0 0 # black\n1 1 1#white\n# end\n',
  );
  expect(cube).toMatchObject({ title: 'Salt marsh, dusk', size: 2, domainMax: [2, 2, 2], shaper: null });
  expect([...cube.values]).toEqual([0, 0, 0, 1, 1, 1]);
  expect(parseCube('TITLE "# 7" # seven\nLUT_1D_SIZE 2\n0 0 0\n1 1 1').title).toBe('# 7');
});

const both = [
  'LUT_3D_SIZE 2',
  'LUT_1D_SIZE 3',
  'LUT_1D_INPUT_RANGE 0 4',
  'LUT_3D_INPUT_RANGE 0 2',
  '0 0 0',
  '1 1 1',
  '2 2 2',
  ...identity2,
].join('\n');

test('curves before a grid are read first, and a picture goes through both', () => {
  const cube = parseCube(both);
  expect(cube).toMatchObject({ dimensions: 3, size: 2, domainMax: [2, 2, 2] });
  expect(cube.shaper).toMatchObject({ size: 3, domainMin: [0, 0, 0], domainMax: [4, 4, 4] });
  expect([...cube.shaper!.values]).toEqual([0, 0, 0, 1, 1, 1, 2, 2, 2]);
  expect([...cube.values.subarray(3, 6)]).toEqual([1, 0, 0]);
  expect(parseCube(writeCube(cube))).toEqual(cube);
});

test('numbers are what they are written as, however many digits they have', () => {
  fc.assert(
    fc.property(
      fc.array(fc.double({ noNaN: true, noDefaultInfinity: true }), { minLength: 6, maxLength: 6 }),
      (values) => {
        const texts = values.map((value, at) => (at % 2 ? String(value) : value.toFixed(12)));
        const finite = texts.map((text) => (text.length <= 64 ? text : '0.1'));
        const rows = [finite.slice(0, 3).join(' '), finite.slice(3).join('\t')];
        expect([...parseCube(`LUT_1D_SIZE 2\n${rows.join('\n')}`).values]).toEqual(finite.map(Number));
      },
    ),
  );
});

test('tables for filters take 0 to 1: domains are looked up, and what is between two tables is brought there', () => {
  const shaped = tablesOf(parseCube(both));
  expect(shaped.map(({ dimensions, size }) => [dimensions, size])).toEqual([
    [1, 65_536],
    [3, 2],
  ]);
  // The curves reach 2 at 4, so a picture's 1 becomes 0.5 of the 2 that the grid takes: a quarter.
  expect(shaped[0]!.values.at(-1)).toBeCloseTo(0.25, 12);
  const curve = tablesOf(parseCube('LUT_1D_SIZE 2\nDOMAIN_MIN -1 0 0.5\nDOMAIN_MAX 1 2 0.75\n0 0 0\n1 1 1'));
  const at = (level: number) => [...curve[0]!.values.subarray(level * 3, level * 3 + 3)];
  expect(at(0)).toEqual([0.5, 0, 0]);
  expect(at(65_535)).toEqual([1, 0.5, 1]);
  const grid = tablesOf(
    parseCube(`LUT_3D_SIZE 2\nDOMAIN_MIN -1 -1 -1\nDOMAIN_MAX 1 1 1\n${identity2.join('\n')}`),
  );
  expect(grid.map(({ size, values }) => [size, ...values.subarray(0, 6)])).toEqual([
    [2, 0.5, 0.5, 0.5, 1, 1, 1],
    [2, 0, 0, 0, 1, 0, 0],
  ]);
  expect(tablesOf(parseCube('LUT_1D_SIZE 2\n0 0 0\n1 1 1'))).toEqual([
    { dimensions: 1, size: 2, values: Float64Array.of(0, 0, 0, 1, 1, 1) },
  ]);
});
