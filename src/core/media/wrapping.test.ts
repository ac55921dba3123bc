import fc from 'fast-check';
import { soundUnitsOf, transportPackets, unwrap, UnitMap, wrappedPlaces, type Wrapping } from './wrapping';

/*
 * Streams are written here by hand after ISO/IEC 13818-1 (and 11172-1), with other streams, stuffing and noise between.
 */

const pid = 0x1011;
const streamId = 0xe0;
const unitHeader = [0, 0, 1, streamId, 0, 0, 0x80, 0x80, 5, 0x21, 0, 1, 0, 1];

/** One transport packet, filled up by its adaptation field. */
function transportPacket(
  of: number,
  payload: readonly number[],
  startsUnit: boolean,
  lead: number,
): number[] {
  const stuffing = 184 - payload.length;
  const adaptation =
    stuffing === 0 ? [] : stuffing === 1 ? [0] : [stuffing - 1, 0, ...Array<number>(stuffing - 2).fill(0xff)];
  const control = (adaptation.length > 0 ? 0x20 : 0) | (payload.length > 0 ? 0x10 : 0);
  const header = [0x47, (startsUnit ? 0x40 : 0) | (of >> 8), of & 0xff, control];
  return [...Array<number>(lead).fill(7), ...header, ...adaptation, ...payload];
}

/** A unit in transport packets of at most so many bytes of it each, with packets of another stream between. */
function transportUnit(payload: readonly number[], lead: number, most: number, others: number): number[] {
  const unit = [...unitHeader, ...payload];
  const bytes: number[] = [];
  for (let at = 0; at < unit.length; at += most) {
    bytes.push(...transportPacket(pid, unit.slice(at, at + most), at === 0, lead));
    for (let other = 0; other < others; other++)
      bytes.push(...transportPacket(0x100 + other, [...unitHeader, 1, 2, 3], true, lead));
  }
  return bytes;
}

function programUnit(payload: readonly number[], edition: 1 | 2, others: number): number[] {
  const pack =
    edition === 2
      ? [0, 0, 1, 0xba, 0x44, 0, 4, 0, 4, 1, 0, 1, 3, 0xf8 | others, ...Array<number>(others).fill(0xff)]
      : [0, 0, 1, 0xba, 0x21, 0, 1, 0, 1, 0x80, 0, 1];
  const header = edition === 2 ? [0x81, 0x80, 5, 0x21, 0, 1, 0, 1] : [0xff, 0xff, 0x60, 4, 0x21, 0, 1, 0, 1];
  const length = header.length + payload.length;
  const sound = Array.from({ length: others }, () => [0, 0, 1, 0xc0, 0, 4, 0x0f, 1, 2, 3]).flat();
  return [...pack, ...sound, 0, 0, 1, streamId, length >> 8, length & 0xff, ...header, ...payload];
}

interface Made {
  readonly wrapping: Wrapping;
  readonly bytes: Uint8Array;
  readonly frames: readonly (readonly number[])[];
  /** Where the unit begins in which each frame does; -1 for all but the first frame in it. */
  readonly places: readonly number[];
}

const container = fc.constantFrom('188', '192', 'program 1', 'program 2');

/** Frames cut into units of given sizes wherever they come to end, or a unit each. */
function made(
  kind: string,
  frames: readonly (readonly number[])[],
  unitBytes: number | null,
  others: number,
): Made {
  const essence = frames.flat();
  const sizes = unitBytes === null ? frames.map(({ length }) => length) : [];
  for (let at = 0; unitBytes !== null && at < essence.length; at += unitBytes)
    sizes.push(Math.min(unitBytes, essence.length - at));
  const lead = kind === '192' ? 4 : 0;
  const bytes: number[] = [];
  const units: { place: number; from: number; to: number }[] = [];
  let from = 0;
  for (const size of sizes) {
    const payload = essence.slice(from, from + size);
    const unit = kind.startsWith('program')
      ? programUnit(payload, kind.endsWith('1') ? 1 : 2, others)
      : transportUnit(payload, lead, 184 - (size % 3), others);
    // A program's unit stands behind its pack's header and what else is in the pack.
    const before = kind.startsWith('program')
      ? unit.length - payload.length - (kind.endsWith('1') ? 15 : 14)
      : 0;
    units.push({ place: bytes.length + before, from, to: from + size });
    bytes.push(...unit);
    from += size;
  }
  let at = 0;
  let last = -1;
  const places = frames.map(({ length }) => {
    const unit = units.findIndex((one) => at >= one.from && at < one.to);
    at += length;
    const place = unit === last ? -1 : units[unit]!.place;
    last = unit;
    return place;
  });
  const wrapping: Wrapping = kind.startsWith('program')
    ? { kind: 'program', streamId }
    : { kind: 'transport', packetBytes: lead > 0 ? 192 : 188, lead, pid };
  return { wrapping, bytes: Uint8Array.from(bytes), frames, places };
}

function mapped({ wrapping, bytes }: Made, pieceBytes: number): UnitMap {
  const map = new UnitMap(wrapping);
  let given = 0;
  let held = new Uint8Array(0);
  while (given < bytes.length) {
    const next = bytes.subarray(given, given + pieceBytes);
    given += next.length;
    const joined = new Uint8Array(held.length + next.length);
    joined.set(held);
    joined.set(next, held.length);
    held = joined.slice(map.add(joined, false));
  }
  map.add(held, true);
  return map;
}

const framesOf = fc.array(fc.array(fc.integer({ min: 0, max: 255 }), { minLength: 1, maxLength: 700 }), {
  minLength: 1,
  maxLength: 9,
});

test('each frame is taken out of its bytes whole, whatever stands between and however units cut it', () => {
  fc.assert(
    fc.property(
      container,
      framesOf,
      fc.option(fc.integer({ min: 30, max: 900 })),
      fc.integer({ min: 0, max: 3 }),
      fc.integer({ min: 300, max: 5_000 }),
      (kind, frames, unitBytes, others, pieceBytes) => {
        const stream = made(kind, frames, unitBytes, others);
        const map = mapped(stream, pieceBytes);
        const places = wrappedPlaces(
          map,
          frames.map(({ length }, at) => ({ place: stream.places[at]!, bytes: length })),
        )!;
        frames.forEach((frame, at) => {
          const { offset, bytes, skip } = places[at]!;
          const read = stream.bytes.subarray(offset, offset + bytes);
          expect(read).toHaveLength(bytes);
          expect([...unwrap(stream.wrapping, read, skip, frame.length)]).toEqual([...frame]);
        });
        // All is read from the first unit on: what stands between counts as read.
        const last = places.at(-1)!;
        expect(last.offset + last.bytes).toBe(stream.bytes.length);
        if (unitBytes === null)
          places.slice(1).forEach(({ offset }, at) => {
            expect(offset).toBe(places[at]!.offset + places[at]!.bytes);
          });
      },
    ),
    { numRuns: 300 },
  );
});

test('a stream with noise in it goes on behind it, where frames begin with their units', () => {
  const frames = Array.from({ length: 6 }, (_, at) =>
    Array.from({ length: 400 + at }, (__, i) => (i * 7 + at) % 251),
  );
  for (const kind of ['188', '192', 'program 2']) {
    const whole = made(kind, frames, null, 1);
    const cut = whole.places[3]!;
    // Bytes of frame 2 are lost and noise stands there: its own end is gone, those behind are whole.
    const noise = Array.from({ length: 333 }, (_, i) => (i * 31) % 200);
    const bytes = Uint8Array.from([
      ...whole.bytes.subarray(0, cut - 250),
      ...noise,
      ...whole.bytes.subarray(cut),
    ]);
    const shift = 250 - noise.length;
    const map = mapped({ ...whole, bytes }, 1_000);
    const told = frames.map((frame, at) => ({
      place: at < 3 ? whole.places[at]! : whole.places[at]! - shift,
      bytes: at === 2 ? map.essenceBefore(3) - map.essenceBefore(2) : frame.length,
    }));
    const places = wrappedPlaces(map, told)!;
    for (const at of [0, 1, 3, 4, 5]) {
      const { offset, bytes: length, skip } = places[at]!;
      expect([
        ...unwrap(whole.wrapping, bytes.subarray(offset, offset + length), skip, frames[at]!.length),
      ]).toEqual(frames[at]);
    }
  }
});

test('frames that do not begin with their units and do not fit them have no place', () => {
  const stream = made('188', [Array<number>(300).fill(1), Array<number>(300).fill(2)], 200, 0);
  const map = mapped(stream, 4_096);
  expect(map.essenceBytes).toBe(600);
  const [first, second] = stream.places;
  expect(
    wrappedPlaces(map, [
      { place: first!, bytes: 300 },
      { place: second!, bytes: 300 },
    ]),
  ).not.toBeNull();
  expect(
    wrappedPlaces(map, [
      { place: first!, bytes: 300 },
      { place: second!, bytes: 20 },
      { place: map.placeOf(2), bytes: 20 },
    ]),
  ).toBeNull();
  expect(wrappedPlaces(new UnitMap(stream.wrapping), [{ place: 0, bytes: 1 }])).toBeNull();
});

test('what stands before the first unit belongs to none, and a frame that is cut off ends early', () => {
  const stream = made('188', [[1, 2, 3, 4]], null, 0);
  const orphan = transportPacket(pid, [9, 9, 9], false, 0);
  const bytes = Uint8Array.from([...orphan, ...stream.bytes]);
  const map = mapped({ ...stream, bytes }, 500);
  expect([map.length, map.essenceBytes, map.placeOf(0)]).toEqual([1, 4, 188]);
  expect([...unwrap(stream.wrapping, bytes, 1, 20)]).toEqual([2, 3, 4]);
  expect([...unwrap(stream.wrapping, bytes.subarray(0, 200), 0, 20)]).toEqual([]);
});

test('packets of all three lengths are found in a head, also behind noise, and none where there are none', () => {
  const packets = (lead: number, tail: number) =>
    Array.from({ length: 24 }, () => [
      ...transportPacket(5, [1], true, lead),
      ...Array<number>(tail).fill(1),
    ]).flat();
  expect(transportPackets(Uint8Array.from(packets(0, 0)))).toEqual({ packetBytes: 188, lead: 0 });
  expect(transportPackets(Uint8Array.from(packets(4, 0)))).toEqual({ packetBytes: 192, lead: 4 });
  expect(transportPackets(Uint8Array.from(packets(0, 16)))).toEqual({ packetBytes: 204, lead: 0 });
  expect(transportPackets(Uint8Array.from([1, 2, 3, ...packets(0, 0)]))).toEqual({
    packetBytes: 188,
    lead: 0,
  });
  expect(transportPackets(new Uint8Array(5_000))).toBeNull();
  expect(transportPackets(new Uint8Array(3))).toBeNull();
});

test('the time that walking takes grows with the bytes, whatever they are', () => {
  // Bytes that look like the beginning of something at every place.
  for (const [kind, byte] of [
    ['188', 0x47],
    ['program 2', 0],
  ] as const) {
    const { wrapping } = made(kind, [[1]], null, 0);
    const bytes = new Uint8Array(2_000_000).fill(byte);
    expect(mapped({ wrapping, bytes, frames: [], places: [] }, 1 << 20).length).toBe(0);
  }
});

describe('units of sound, found beside the pictures', () => {
  const soundPid = 0x1100;
  /** A unit's header with a time: 33 bits, three in the first byte. */
  const headerAt = (ticks: number) => [
    0,
    0,
    1,
    0xc0,
    0,
    0,
    0x80,
    0x80,
    5,
    0x21 | ((Math.floor(ticks / 2 ** 30) & 7) << 1),
    (ticks >> 22) & 0xff,
    ((ticks >> 14) & 0xfe) | 1,
    (ticks >> 7) & 0xff,
    ((ticks << 1) & 0xfe) | 1,
  ];

  test.each([[0], [4]])('in a transport stream with %i bytes in front of each packet', (lead) => {
    const packetBytes = 188 + lead;
    const pictures = { kind: 'transport', packetBytes, lead, pid } as const;
    const bytes = Uint8Array.from([
      // What goes on from before the first unit belongs to none.
      ...transportPacket(soundPid, [9, 9], false, lead),
      ...transportPacket(soundPid, [...headerAt(90_000), 1, 2, 3], true, lead),
      ...transportUnit([5, 6, 7], lead, 184, 0),
      ...transportPacket(soundPid, [4, 5], false, lead),
      ...transportUnit([8], lead, 184, 1),
      ...transportPacket(soundPid, [...headerAt(93_600), 6], true, lead),
    ]);
    const sound = soundUnitsOf(pictures, soundPid)!;
    const map = new UnitMap(pictures, sound);
    // In two pieces: places are those in the file.
    const cut = 3 * packetBytes + 10;
    const taken = map.add(bytes.subarray(0, cut), false);
    map.add(bytes.subarray(taken), true);
    expect(sound.rows).toEqual([
      { offset: packetBytes, end: 4 * packetBytes, pts: 90_000 },
      { offset: 6 * packetBytes, end: 7 * packetBytes, pts: 93_600 },
    ]);
    const first = sound.rows[0]!;
    const read = bytes.subarray(first.offset, first.end);
    expect([...unwrap(sound.wrapping, read, 0, read.length)]).toEqual([1, 2, 3, 4, 5]);
    sound.clear();
    expect(sound.rows).toEqual([]);
  });

  test('in a program stream of either edition; private streams are not taken for sound', () => {
    const pictures = { kind: 'program', streamId } as const;
    const second = [0, 0, 1, 0xc0, 0, 10, ...headerAt(180_000).slice(6), 7, 8];
    const first = [0, 0, 1, 0xc0, 0, 9, 0xff, 0x60, 4, ...headerAt(3_600).slice(9), 7];
    const timeless = [0, 0, 1, 0xc0, 0, 2, 0x0f, 7];
    const sound = soundUnitsOf(pictures, 0x1c0)!;
    new UnitMap(pictures, sound).add(Uint8Array.from([...second, ...first, ...timeless]), true);
    expect(sound.rows).toEqual([
      { offset: 0, end: 16, pts: 180_000 },
      { offset: 16, end: 31, pts: 3_600 },
      { offset: 31, end: 39, pts: Number.NaN },
    ]);
    expect(soundUnitsOf(pictures, 0x80)).toBeNull();
  });
});
