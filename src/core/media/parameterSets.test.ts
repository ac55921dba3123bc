import { headerReader } from './frameHeaders';
import fc from 'fast-check';
import { BitReader, withoutEmulation } from './bits';
import { referenceDepth } from './referenceDepth';

/** Writes the bits of a coded header, as the standards' tables list them. */
class Bits {
  private readonly written: number[] = [];

  u(count: number, value = 0): this {
    for (let at = count - 1; at >= 0; at--) this.written.push(Math.floor(value / 2 ** at) % 2);
    return this;
  }

  ue(value: number): this {
    const length = Math.floor(Math.log2(value + 1));
    return this.u(length).u(length + 1, value + 1);
  }

  se(value: number): this {
    return this.ue(value > 0 ? 2 * value - 1 : -2 * value);
  }

  /** With the stop bit that ends a set, and the bytes that keep start codes out of it. */
  unit(...head: number[]): Uint8Array {
    const bits = [...this.written, 1];
    while (bits.length % 8 !== 0) bits.push(0);
    const plain = [
      ...head,
      ...Array.from({ length: bits.length / 8 }, (_, at) =>
        bits.slice(at * 8, at * 8 + 8).reduce((byte, bit) => byte * 2 + bit, 0),
      ),
    ];
    const out: number[] = [];
    let zeros = 0;
    for (const byte of plain) {
      if (zeros >= 2 && byte <= 3) {
        out.push(3);
        zeros = 0;
      }
      out.push(byte);
      zeros = byte === 0 ? zeros + 1 : 0;
    }
    return Uint8Array.from(out);
  }
}

const annexB = (...units: Uint8Array[]) => Uint8Array.from(units.flatMap((unit) => [0, 0, 0, 1, ...unit]));
const avc = (unit: Uint8Array) =>
  Uint8Array.from([1, 100, 0, 40, 0xff, 0xe1, unit.length >> 8, unit.length & 255, ...unit, 0]);
const hvc = (unit: Uint8Array) =>
  Uint8Array.from([
    1,
    ...new Array<number>(20).fill(0),
    3,
    1,
    33,
    0,
    1,
    unit.length >> 8,
    unit.length & 255,
    ...unit,
  ]);

test.each([0, 1, 2, 7, 254, 65_534])('%d comes back from its Exp-Golomb code', (value) => {
  expect(new BitReader(new Bits().ue(value).unit()).ue()).toBe(value);
});

test('signed codes come back, and a code that never ends is damage', () => {
  for (const value of [0, 1, -1, 17, -300])
    expect(new BitReader(new Bits().se(value).unit()).se()).toBe(value === 0 ? -0 : value);
  const torn = new BitReader(new Uint8Array(8));
  expect(torn.ue()).toBe(0);
});

test('bytes that keep start codes out are taken out again, whatever the data', () => {
  fc.assert(
    fc.property(fc.array(fc.integer({ min: 0, max: 4 }), { maxLength: 60 }), (bytes) => {
      const bits = new Bits();
      for (const byte of bytes) bits.u(8, byte);
      expect([...withoutEmulation(bits.unit()).subarray(0, bytes.length)]).toEqual(bytes);
    }),
  );
});

describe('H.264', () => {
  const sps = (
    profile: number,
    order: (bits: Bits) => Bits,
    depth: number,
    chroma = (bits: Bits) => bits,
    framesOnly = 1,
  ) =>
    order(chroma(new Bits().u(8, profile).u(8).u(8, 40).ue(0)).ue(4))
      .ue(depth)
      .u(1)
      .ue(119)
      .ue(33)
      .u(1, framesOnly)
      .unit(0x67);
  const plain = (bits: Bits) => bits.ue(0).ue(2);

  test('the number of reference pictures is read in every order of pictures', () => {
    expect(referenceDepth('h264', annexB(sps(66, plain, 3)))).toBe(3);
    expect(
      referenceDepth('h264', annexB(sps(77, (bits) => bits.ue(1).u(1).se(-2).se(1).ue(2).se(3).se(-3), 4))),
    ).toBe(4);
    expect(referenceDepth('h264', annexB(sps(77, (bits) => bits.ue(2), 1)))).toBe(1);
  });

  test('high profiles with their chroma, depth and scaling lists are passed over', () => {
    const high = (format: number, lists: (bits: Bits) => Bits) => (bits: Bits) =>
      lists((format === 3 ? bits.ue(3).u(1) : bits.ue(format)).ue(2).ue(2).u(1));
    expect(
      referenceDepth(
        'h264',
        annexB(
          sps(
            100,
            plain,
            4,
            high(1, (bits) => bits.u(1, 0)),
          ),
        ),
      ),
    ).toBe(4);
    // The first of eight lists stands there: one step, then the rest as before; the others do not.
    expect(
      referenceDepth(
        'h264',
        annexB(
          sps(
            122,
            plain,
            2,
            high(2, (bits) => bits.u(1, 1).u(1, 1).se(4).se(-12).u(7)),
          ),
        ),
      ),
    ).toBe(2);
    expect(
      referenceDepth(
        'h264',
        annexB(
          sps(
            244,
            plain,
            5,
            high(3, (bits) => bits.u(1, 1).u(12)),
          ),
        ),
      ),
    ).toBe(5);
  });

  test('is read from the record of a container just as from a stream', () => {
    expect(
      referenceDepth('h264', avc(sps(100, plain, 6, (bits) => bits.ue(1).ue(0).ue(0).u(1).u(1, 0)))),
    ).toBe(6);
  });

  test('a field is told from a frame, and which it is, where the set allows fields', () => {
    const slice = (isField: boolean, bottom: number, frameNum: number) => {
      const bits = new Bits()
        .ue(0)
        .ue(5)
        .ue(0)
        .u(8, frameNum)
        .u(1, isField ? 1 : 0);
      return annexB((isField ? bits.u(1, bottom) : bits).u(8, 0xff).unit(0x41));
    };
    const fields = headerReader('h264', annexB(sps(77, plain, 4, undefined, 0)))!;
    expect(fields(slice(true, 0, 200))).toEqual({
      type: 'P',
      disposable: false,
      field: { bottom: false, frameNum: 200 },
    });
    expect(fields(slice(true, 1, 3))?.field).toEqual({ bottom: true, frameNum: 3 });
    expect(fields(slice(false, 0, 3))?.field).toBeUndefined();
    const frames = headerReader('h264', annexB(sps(77, plain, 4)))!;
    expect(frames(slice(true, 1, 3))?.field).toBeUndefined();
  });

  test('what is cut short, absurd or not there gives no number', () => {
    const whole = sps(66, plain, 3);
    expect(referenceDepth('h264', annexB(whole.subarray(0, 4)))).toBeNull();
    expect(referenceDepth('h264', annexB(sps(66, plain, 40)))).toBeNull();
    expect(referenceDepth('h264', annexB(Uint8Array.from([0x68, 1, 2])))).toBeNull();
    expect(referenceDepth('h264', new Uint8Array(0))).toBeNull();
    expect(referenceDepth('prores', annexB(whole))).toBeNull();
  });
});

describe('HEVC', () => {
  const sps = (subLayers: number, ordering: boolean, depths: readonly number[], window = false) => {
    const bits = new Bits().u(4).u(3, subLayers).u(1, 1).u(88, 1).u(8, 120);
    for (let layer = 0; layer < subLayers; layer++) bits.u(1, 1).u(1, 1);
    if (subLayers > 0) bits.u(2 * (8 - subLayers));
    for (let layer = 0; layer < subLayers; layer++) bits.u(88, 1).u(8, 90);
    bits
      .ue(0)
      .ue(1)
      .ue(1_920)
      .ue(1_080)
      .u(1, window ? 1 : 0);
    if (window) bits.ue(0).ue(0).ue(0).ue(4);
    bits
      .ue(2)
      .ue(2)
      .ue(4)
      .u(1, ordering ? 1 : 0);
    for (const depth of depths) bits.ue(depth).ue(2).ue(0);
    return bits.unit(0x42, 1);
  };

  test('the last sub-layer tells how many pictures are kept', () => {
    expect(referenceDepth('hevc', annexB(sps(0, true, [4])))).toBe(4);
    expect(referenceDepth('hevc', annexB(sps(2, true, [1, 2, 5])))).toBe(5);
    expect(referenceDepth('hevc', annexB(sps(2, false, [3], true)))).toBe(3);
  });

  test('is read from the record of a container, and from no other unit', () => {
    expect(referenceDepth('hevc', hvc(sps(0, true, [6])))).toBe(6);
    expect(referenceDepth('hevc', annexB(Uint8Array.from([0x40, 1, 0xff])))).toBeNull();
  });
});
