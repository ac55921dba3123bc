import fc from 'fast-check';
import {
  decodeSoundTable,
  encodeSoundTable,
  endOfRead,
  firstPacketFor,
  joinedSound,
  soundTableFrom,
  type SoundRow,
} from './soundTable';

const row = (offset: number, size: number, at: number): SoundRow => ({ offset, size, at });

test('what is packed is unpacked as it was, out of any memory', () => {
  const rows = fc.array(
    fc.record({
      offset: fc.nat(2 ** 40),
      size: fc.nat(2 ** 24),
      at: fc.double({ min: -1, max: 1e5, noNaN: true }),
    }),
    { maxLength: 40 },
  );
  fc.assert(
    fc.property(rows, (given) => {
      const table = soundTableFrom(given);
      // A database gives bytes somewhere in a larger piece of memory.
      const packed = Buffer.concat([Buffer.of(7), encodeSoundTable(table)]).subarray(1);
      expect(decodeSoundTable(packed)).toEqual(table);
    }),
  );
  expect(() => decodeSoundTable(new Uint8Array(21))).toThrow('20 bytes per packet');
});

test('times never go back: a packet without one, or with an earlier one, follows the one before', () => {
  const { at } = soundTableFrom([
    row(0, 1, -0.02),
    row(1, 1, Number.NaN),
    row(2, 1, 0.04),
    row(3, 1, 0.01),
    row(4, 1, 0.1),
  ]);
  expect([...at]).toEqual([-0.02, -0.02, 0.04, 0.04, 0.1]);
});

test('a moment is decoded from the packet that holds it, or some before', () => {
  const table = soundTableFrom([0, 0.5, 1, 1.5].map((at, index) => row(index, 1, at)));
  expect(firstPacketFor(table, 1.2, 0)).toBe(2);
  expect(firstPacketFor(table, 1, 0)).toBe(2);
  expect(firstPacketFor(table, 1.2, 2)).toBe(0);
  expect(firstPacketFor(table, -1, 2)).toBe(0);
  expect(firstPacketFor(table, 99, 0)).toBe(3);
});

test('read at once is what adjoins, up to a size and up to what is heard', () => {
  const table = soundTableFrom([row(0, 100, 0), row(100, 100, 1), row(200, 100, 2), row(900, 100, 3)]);
  expect(endOfRead(table, 0, 1_000, 99)).toBe(3);
  expect(endOfRead(table, 0, 250, 99)).toBe(2);
  // One packet is read whatever its size.
  expect(endOfRead(table, 0, 10, 99)).toBe(1);
  expect(endOfRead(table, 0, 1_000, 2)).toBe(2);
  expect(endOfRead(table, 3, 1_000, 99)).toBe(4);
});

test('a take sounds file after file, at their places in the files end to end', () => {
  const one = soundTableFrom([row(10, 5, -0.02), row(60, 5, 1)]);
  const joined = joinedSound([one, one], [100, 80], [2, 2]);
  expect([...joined.offset]).toEqual([10, 60, 110, 160]);
  expect([...joined.at]).toEqual([-0.02, 1, 1.98, 3]);
});
