import fc from 'fast-check';
import { rational } from '../time/rational';
import { bytesPerSlot, dataRate } from './dataRate';
import { codecLabel, containerLabel, formatLabel, pixelFormatFacts, profileLabel } from './format';
import {
  encodeFrameCode,
  frameCodeBits,
  frameCodeLayout,
  highestFrameNumber,
  readFrameCode,
} from './frameCode';
import { frameStructure, frameStructureLabel } from './frameStructure';
import {
  decodePacketTable,
  encodePacketTable,
  joinField,
  packetTableFrom,
  withoutClockBreaks,
  withShownTimes,
  type PacketRow,
} from './packetTable';

const row = (pts: number, key = false, type: PacketRow['type'] = 'P'): PacketRow => ({
  offset: pts * 100,
  size: 10 + pts,
  pts,
  dts: pts,
  key,
  disposable: type === 'B',
  type,
});
/** Decode order I P B B P B B I of display order 0..7. */
const longGop = packetTableFrom([
  row(0, true, 'I'),
  row(3),
  row(1, false, 'B'),
  row(2, false, 'B'),
  row(6),
  row(4, false, 'B'),
  row(5, false, 'B'),
  row(7, true, 'I'),
]);

test('slots are the rank of presentation times', () => {
  expect([...longGop.slot]).toEqual([0, 3, 1, 2, 6, 4, 5, 7]);
  expect([...bytesPerSlot(longGop)]).toEqual([10, 11, 12, 13, 14, 15, 16, 17]);
});

test('a packet table survives packing, also from a view into a larger buffer', () => {
  const packed = encodePacketTable(longGop);
  const inside = new Uint8Array(packed.length + 3);
  inside.set(packed, 3);
  expect(decodePacketTable(inside.subarray(3))).toEqual(longGop);
  expect(decodePacketTable(Buffer.from(packed))).toEqual(longGop);
  expect(() => decodePacketTable(packed.subarray(0, 20))).toThrow('packet table of 8 packets');
});

test('the frame structure is read off the table', () => {
  expect(frameStructure(longGop)).toEqual({
    intra: false,
    keyInterval: { min: 7, mean: 7, max: 7 },
    hasBFrames: true,
    reorderDepth: 1,
    openGop: false,
    referenceDepth: null,
  });
  expect(frameStructureLabel(frameStructure(longGop))).toBe('Long-GOP, key every 7, B-frames');
  expect(frameStructureLabel(frameStructure(packetTableFrom([row(0, true, 'I'), row(1, true, 'I')])))).toBe(
    'Intra',
  );
  expect(frameStructureLabel(frameStructure(packetTableFrom([row(0, true, 'I'), row(1)])))).toBe(
    'Long-GOP, one key frame',
  );
});

test('peak is the largest second, mean the whole', () => {
  const bytes = new Float64Array(50).fill(1000);
  bytes.fill(4000, 10, 20);
  const { meanBitsPerSecond, peakBitsPerSecond } = dataRate(bytes, rational(10));
  expect(peakBitsPerSecond).toBe(4000 * 10 * 8);
  expect(meanBitsPerSecond).toBe(1600 * 10 * 8);
  expect(dataRate(new Float64Array(3).fill(100), rational(25)).peakBitsPerSecond).toBe(100 * 25 * 8);
});

test('the peak is never below the mean', () => {
  fc.assert(
    fc.property(fc.array(fc.integer({ min: 1, max: 1e6 }), { minLength: 1, maxLength: 200 }), (sizes) => {
      const { meanBitsPerSecond, peakBitsPerSecond } = dataRate(Float64Array.from(sizes), rational(24));
      return peakBitsPerSecond >= meanBitsPerSecond * (1 - 1e-9) || sizes.length > 24;
    }),
  );
});

test('formats are named in the words of the trade', () => {
  expect(codecLabel('h264')).toBe('H.264');
  expect(codecLabel('somenewcodec')).toBe('somenewcodec');
  expect(profileLabel('prores', 2)).toBe('Standard');
  expect(profileLabel('h264', 100 | 2048)).toBe('High');
  expect(profileLabel('mjpeg', -99)).toBeNull();
  expect(pixelFormatFacts('yuv422p10le')).toEqual({ bitDepth: 10, chroma: '4:2:2' });
  expect(pixelFormatFacts('yuvj420p')).toEqual({ bitDepth: 8, chroma: '4:2:0' });
  expect(pixelFormatFacts('gbrp12le')).toEqual({ bitDepth: 12, chroma: 'RGB' });
  expect(pixelFormatFacts('nv12')).toEqual({ bitDepth: 8, chroma: '4:2:0' });
  const depths = { p210le: 10, p416le: 16, x2rgb10le: 10, y212le: 12, xv36le: 12, rgba64le: 16, nv20le: 10 };
  for (const [name, bitDepth] of Object.entries(depths))
    expect({ name, bitDepth: pixelFormatFacts(name).bitDepth }).toEqual({ name, bitDepth });
  for (const name of ['rgb565le', 'bgr24', 'yuva420p', 'gray', 'pal8', 'yuyv422'])
    expect({ name, bitDepth: pixelFormatFacts(name).bitDepth }).toEqual({ name, bitDepth: 8 });
  expect(containerLabel('mov,mp4,m4a,3gp,3g2,mj2', 'a/b.MP4')).toBe('MP4');
  expect(containerLabel('mxf', 'a.mxf')).toBe('MXF');
  expect(
    formatLabel({
      container: 'MOV',
      codec: 'ProRes',
      profile: 'Standard',
      bitDepth: 10,
      chroma: '4:2:2',
      width: 1920,
      height: 1080,
      rate: rational(24),
    }),
  ).toBe('ProRes Standard 10-bit 4:2:2, 1920x1080');
});

function draw(frameNumber: number, width: number, height: number): Uint8Array {
  const picture = new Uint8Array(width * height).fill(90);
  const { left, top, block } = frameCodeLayout(width, height);
  encodeFrameCode(frameNumber).forEach((bit, index) => {
    for (let y = Math.round(top); y < Math.round(top + block); y++)
      picture.fill(
        bit ? 235 : 16,
        y * width + Math.round(left + index * block),
        y * width + Math.round(left + (index + 1) * block),
      );
  });
  return picture;
}

test.each([
  [1920, 1080],
  [1280, 720],
  [640, 360],
  [480, 270],
])('a frame code is read back from %d by %d', (width, height) => {
  fc.assert(
    fc.property(fc.integer({ min: 0, max: highestFrameNumber }), (frameNumber) => {
      const picture = draw(frameNumber, width, height);
      return readFrameCode(width, height, (x, y) => picture[y * width + x]!) === frameNumber;
    }),
    { numRuns: 20 },
  );
});

test('a picture without a code, or with a torn one, gives no frame number', () => {
  expect(readFrameCode(640, 360, () => 90)).toBeNull();
  const bits = encodeFrameCode(1234);
  expect(bits).toHaveLength(frameCodeBits);
  const picture = draw(1234, 640, 360);
  const other = draw(4321, 640, 360);
  expect(readFrameCode(640, 360, (x, y) => (x < 200 ? picture : other)[y * 640 + x]!)).not.toBe(1234);
  expect(() => encodeFrameCode(highestFrameNumber + 1)).toThrow('holds 0 to');
});

test('a table of a wrapped stream survives packing with what lies inside', () => {
  const wrapped = packetTableFrom([
    { ...row(0, true, 'I'), inside: { skip: 7, bytes: 90 } },
    { ...row(1), inside: { skip: 0, bytes: 31 } },
  ]);
  expect([...wrapped.inside!.skip, ...wrapped.inside!.bytes]).toEqual([7, 0, 90, 31]);
  const packed = encodePacketTable(wrapped);
  expect(decodePacketTable(packed)).toEqual(wrapped);
  expect(() => decodePacketTable(packed.subarray(0, -1))).toThrow('packet table of 2 packets');
});

test('two fields of a frame are one row; those of two frames, and frames, are not', () => {
  const field = (pts: number, bottom: boolean, frameNum: number): PacketRow => ({
    ...row(pts),
    field: { bottom, frameNum },
  });
  const rows: PacketRow[] = [];
  for (const one of [
    field(0, false, 0),
    field(0, true, 0),
    field(1, false, 1),
    field(2, true, 2),
    row(3),
    row(4),
  ])
    if (!joinField(rows.at(-1), one)) rows.push(one);
  expect(rows.map(({ pts, size }) => [pts, size])).toEqual([
    [0, 20],
    [1, 11],
    [2, 12],
    [3, 13],
    [4, 14],
  ]);
  // A third field begins a frame of its own.
  const [whole] = rows;
  expect(joinField(whole, field(0, true, 0))).toBe(false);
});

test('MPEG video is shown in its order where only some frames have a time', () => {
  const timed = (dts: number, pts: number, type: PacketRow['type']): PacketRow => ({
    ...row(0),
    dts,
    pts,
    type,
  });
  const none = Number.NaN;
  // I P B B P B B in coding order, a tick each.
  const rows = [
    timed(0, 1, 'I'),
    timed(1, none, 'P'),
    timed(2, 2, 'B'),
    timed(3, none, 'B'),
    timed(4, none, 'P'),
    timed(5, none, 'B'),
    timed(6, 6, 'B'),
    timed(7, none, 'I'),
  ];
  expect(withShownTimes(rows).map(({ pts }) => pts)).toEqual([1, 4, 2, 3, 7, 5, 6, 8]);
  expect(withShownTimes([timed(3, none, 'I'), timed(4, none, 'P')]).map(({ pts }) => pts)).toEqual([3, 4]);
});

test('a clock that begins anew goes on at the usual distance', () => {
  const timed = (dts: number, pts: number): PacketRow => ({ ...row(0), dts, pts });
  const rows = withoutClockBreaks([
    timed(100, 110),
    timed(110, 130),
    timed(120, 120),
    timed(5, 15),
    timed(15, 25),
  ]);
  expect(rows.map(({ dts, pts }) => [dts, pts])).toEqual([
    [100, 110],
    [110, 130],
    [120, 120],
    [130, 140],
    [140, 150],
  ]);
  const [none] = withoutClockBreaks([timed(Number.NaN, 4)]);
  expect(none).toMatchObject({ dts: Number.NaN, pts: 4 });
});
