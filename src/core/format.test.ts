import fc from 'fast-check';
import {
  clockTime,
  count,
  dateTime,
  duration,
  fixed,
  megabits,
  megabitsPerSecond,
  megabytesPerSecond,
  memory,
  milliseconds,
  none,
  percent,
  quantity,
  rounded,
  significant,
  size,
  times,
  upTo,
} from './format';

/** With plain spaces. */
const plain = (text: string) => text.replaceAll('\u202f', ' ').replaceAll('\u2009', ' ');
const all = <Value>(values: readonly Value[], write: (value: Value) => string) =>
  values.map((value) => plain(write(value)));
const numbers = fc.double({ min: -1e9, max: 1e9, noNaN: true });

describe('numbers', () => {
  test('have the digits that are asked for, and no minus before a nought', () => {
    expect([fixed(12.5, 2), fixed(1234.5, 0), fixed(-0.04, 1), fixed(Number.NaN, 1)]).toEqual([
      '12.50',
      '1235',
      '0.0',
      'NaN',
    ]);
    expect([upTo(23.976_023, 3), upTo(25, 3), upTo(0.1 + 0.2, 3)]).toEqual(['23.976', '25', '0.3']);
    expect([significant(0.012_345, 3), significant(123.456, 3), significant(100, 3)]).toEqual([
      '0.0123',
      '123',
      '100',
    ]);
    expect(all([0, 999, 1_200, 1_234_567.5, -4_200], count)).toEqual([
      '0',
      '999',
      '1 200',
      '1 234 568',
      '-4 200',
    ]);
    expect(times(1.256)).toBe('1.26x');
  });

  test('read back within half of their last digit', () => {
    fc.assert(
      fc.property(numbers, fc.integer({ min: 0, max: 6 }), (value, digits) => {
        const written = fixed(value, digits);
        expect(written).toMatch(digits === 0 ? /^-?\d+$/ : new RegExp(`^-?\\d+\\.\\d{${digits}}$`));
        expect(Math.abs(Number(written) - value)).toBeLessThanOrEqual(0.5 * 10 ** -digits * 1.000_001 + 1e-7);
        expect(Number(upTo(value, digits))).toBe(Number(written));
        expect(Number(count(value).replaceAll('\u2009', ''))).toBeCloseTo(Math.round(value), -0.31);
      }),
    );
  });
});

describe('figures with units', () => {
  test('have a narrow space before the unit', () => {
    expect(quantity(12.345_67, 'ms')).toBe('12.346\u202fms');
    expect(quantity(2, 's', 1)).toBe('2.0\u202fs');
    expect(quantity('2 to 4', 'GHz')).toBe('2 to 4\u202fGHz');
  });

  test('rates, times, sizes and shares', () => {
    expect(all([185_387_095, 14_721_813, null], megabitsPerSecond)).toEqual(['185 Mb/s', '14.7 Mb/s', none]);
    expect(
      all([96_540_000, 1_240_000_000, Number.NaN, undefined], (rate) => megabytesPerSecond(rate)),
    ).toEqual(['96.5 MB/s', '1 240 MB/s', none, none]);
    expect(plain(megabytesPerSecond(96_540_000, 0))).toBe('97 MB/s');
    expect(all([0.1234, 12.34, 123.4, Number.NaN], milliseconds)).toEqual([
      '0.12 ms',
      '12.3 ms',
      '123 ms',
      none,
    ]);
    expect(all([0, 999, 1_500_000, 85_000_000_000, 2.5e12, 4e15], size)).toEqual([
      '0 B',
      '999 B',
      '1.5 MB',
      '85.0 GB',
      '2.5 TB',
      '4000.0 TB',
    ]);
    expect(all([24 * 2 ** 30, 512 * 2 ** 20], memory)).toEqual(['24.0 GiB', '512 MiB']);
    expect([plain(percent(0.0213)), plain(percent(0.5, 0)), percent(null)]).toEqual(['2.1 %', '50 %', none]);
  });

  test('what rounds up to a thousand, a hundred or a minute is told as that', () => {
    expect(all([999_499, 999_500, 999_949_999, 999_950_000], size)).toEqual([
      '999 kB',
      '1.0 MB',
      '999.9 MB',
      '1.0 GB',
    ]);
    expect(plain(memory(1_023.6 * 2 ** 20))).toBe('1.0 GiB');
    expect([rounded(99.94), rounded(99.96), megabits(99_960_000)]).toEqual(['99.9', '100', '100']);
    expect(all([9.994, 9.996, 99.94, 99.96], milliseconds)).toEqual([
      '9.99 ms',
      '10.0 ms',
      '99.9 ms',
      '100 ms',
    ]);
    expect(all([999.4, 999.6, 59_940, 59_960], duration)).toEqual(['999 ms', '1.0 s', '59.9 s', '1:00 min']);
    fc.assert(
      fc.property(fc.double({ min: 0, max: 9e14, noNaN: true }), (bytes) => {
        expect(Number.parseFloat(size(bytes))).toBeLessThan(1_000);
      }),
    );
  });
});

describe('times', () => {
  test('are written as clocks, and as people say them', () => {
    expect([0, 59_400, 60_000, 3_599_000, 3_600_000, 36_061_000, -5].map(clockTime)).toEqual([
      '0:00',
      '0:59',
      '1:00',
      '59:59',
      '1:00:00',
      '10:01:01',
      '0:00',
    ]);
    expect(all([850, 12_400, 185_000, 3_723_000], duration)).toEqual([
      '850 ms',
      '12.4 s',
      '3:05 min',
      '1:02:03 h',
    ]);
  });

  test('a moment has its date and its time, wherever it came from', () => {
    expect(dateTime(new Date(2026, 10, 4, 9, 5))).toBe('2026-11-04 09:05');
    expect(dateTime(new Date(2026, 10, 4, 0, 0).toISOString())).toBe('2026-11-04 00:00');
    expect(dateTime('')).toBe(none);
  });
});
