import fc from 'fast-check';
import { BitReader, withoutEmulation } from './bits';
import { fingerprintDistance, pictureHash } from './fingerprint';
import { formatClass, hasAlpha, pixelFormatFacts, rasterClass } from './format';
import { headerReader } from './frameHeaders';
import { frameStructure } from './frameStructure';
import {
  audioLabel,
  colourTags,
  levelLabel,
  rasterLabel,
  rotationOf,
  timingLabel,
  type ClipIdentity,
} from './identity';
import { boxesIn, editList, readBox } from './isoBoxes';
import { nalUnits, parameterSets } from './nalUnits';
import { packetTableFrom, type PacketRow } from './packetTable';
import { referenceDepth } from './referenceDepth';
import { timingOf } from './timing';
import { clipUses } from './uses';
import { clipWarnings } from './warnings';

const bytes = (...values: number[]) => Uint8Array.from(values);

test('Exp-Golomb codes are read as the standard writes them, and damaged ones end', () => {
  const bits = new BitReader(bytes(0b1_010_011_0, 0b0100_0010, 0b1_0000000));
  expect([bits.ue(), bits.ue(), bits.ue(), bits.ue(), bits.ue()]).toEqual([0, 1, 2, 3, 4]);
  expect(new BitReader(bytes(0b00100_011, 0)).se()).toBe(2);
  expect(new BitReader(bytes(0, 0, 0, 0, 0, 0, 0, 0)).ue()).toBe(0);
  expect(withoutEmulation(bytes(1, 0, 0, 3, 1, 0, 0, 3))).toEqual(bytes(1, 0, 0, 1, 0, 0));
});

test('NAL units are told apart with sizes and with start codes', () => {
  expect([...nalUnits(bytes(0, 0, 0, 2, 9, 9, 0, 0, 0, 1, 7), 4)]).toEqual([bytes(9, 9), bytes(7)]);
  expect([...nalUnits(bytes(0, 0, 0, 1, 9, 9, 0, 0, 1, 7), 0)].map(([first]) => first)).toEqual([9, 7]);
  expect([...nalUnits(bytes(0, 0, 0, 0, 9), 4)]).toEqual([]);
  const record = bytes(1, 100, 0, 40, 0xff, 0xe1, 0, 2, 0x67, 5, 1, 0, 1, 0x68);
  expect(parameterSets('h264', record)).toEqual({ lengthSize: 4, units: [bytes(0x67, 5), bytes(0x68)] });
});

test('frame types come from the frames’ own headers', () => {
  const h264 = headerReader('h264', bytes(1, 100, 0, 40, 0xff, 0xe0, 0))!;
  const slice = (header: number, sliceType: number) =>
    bytes(
      0,
      0,
      0,
      3,
      header,
      ...({ 0: [0b1_1_000000], 1: [0b1_010_0000], 2: [0b1_011_0000] } as Record<number, number[]>)[
        sliceType
      ]!,
      0,
    );
  expect(h264(slice(0x41, 0))).toEqual({ type: 'P', disposable: false });
  expect(h264(slice(0x01, 1))).toEqual({ type: 'B', disposable: true });
  expect(h264(slice(0x65, 2))).toEqual({ type: 'I', disposable: false });
  expect(h264(bytes(0, 0, 0, 1, 6))).toBeNull();
  const hevc = headerReader('hevc', new Uint8Array(0))!;
  expect(hevc(bytes(0, 0, 1, 0x02, 1, 0b1_1_010_000))).toEqual({ type: 'P', disposable: false }); // TRAIL_R
  expect(hevc(bytes(0, 0, 1, 0x00, 1, 0b1_1_1_00000))).toEqual({ type: 'B', disposable: true }); // TRAIL_N
  expect(headerReader('mpeg2video', new Uint8Array(0))!(bytes(0, 0, 1, 0, 0, 0b00_011_000))).toEqual({
    type: 'B',
    disposable: true,
  });
  expect(headerReader('mpeg4', new Uint8Array(0))!(bytes(0, 0, 1, 0xb6, 0b01_000000))).toEqual({
    type: 'P',
    disposable: false,
  });
  expect(headerReader('prores', new Uint8Array(0))).toBeNull();
});

test('headers of any bytes are survived', () => {
  const readers = ['h264', 'hevc', 'mpeg2video', 'mpeg4'] as const;
  fc.assert(
    fc.property(fc.uint8Array({ maxLength: 80 }), fc.uint8Array({ maxLength: 60 }), (extradata, packet) => {
      for (const codec of readers) headerReader(codec, extradata)!(packet);
      const depths = [referenceDepth('h264', extradata), referenceDepth('hevc', extradata)];
      return depths.every((depth) => depth === null || (depth >= 0 && depth <= 16));
    }),
  );
});

const row = (pts: number, key = false): PacketRow => ({
  offset: 0,
  size: 1,
  pts,
  dts: pts,
  key,
  disposable: false,
  type: key ? 'I' : 'P',
});

test('a group is open when frames coded behind a key frame are shown before it', () => {
  expect(frameStructure(packetTableFrom([row(0, true), row(3, true), row(1), row(2)])).openGop).toBe(true);
  expect(frameStructure(packetTableFrom([row(0, true), row(2), row(1), row(3, true)])).openGop).toBe(false);
});

test('timing tells constant from variable, and counts missing and double times', () => {
  const timeBase = { num: 1, den: 1000 };
  expect(timingOf(packetTableFrom([row(0), row(40), row(81), row(120)]), timeBase)).toMatchObject({
    constant: false,
    shortestMs: 39,
    longestMs: 41,
  });
  expect(timingOf(packetTableFrom([row(0), row(33), row(67), row(100)]), timeBase)).toMatchObject({
    constant: true,
  });
  expect(
    timingOf(packetTableFrom([row(0), row(40), row(40), { ...row(0), pts: Number.NaN }]), timeBase),
  ).toMatchObject({ missing: 1, duplicate: 1 });
  expect([...packetTableFrom([row(0), { ...row(1), pts: Number.NaN }, row(2)]).slot]).toEqual([0, 1, 2]);
});

function box(type: string, ...content: Uint8Array[]): Uint8Array {
  const size = 8 + content.reduce((sum, part) => sum + part.length, 0);
  const out = new Uint8Array(size);
  new DataView(out.buffer).setUint32(0, size);
  out.set(new TextEncoder().encode(type), 4);
  let at = 8;
  for (const part of content) {
    out.set(part, at);
    at += part.length;
  }
  return out;
}

test('boxes and edit lists are read, and lying sizes end the reading', () => {
  const words = (...values: number[]) => {
    const out = new Uint8Array(values.length * 4);
    const view = new DataView(out.buffer);
    values.forEach((value, at) => view.setInt32(at * 4, value));
    return out;
  };
  const handler = box('hdlr', words(0, 0), new TextEncoder().encode('vide'), words(0, 0, 0));
  const moov = box(
    'moov',
    box('mvhd', words(0)),
    box(
      'trak',
      box('edts', box('elst', words(0, 2, 50, -1, 65_536, 100, 512, 65_536))),
      box('mdia', handler),
    ),
  );
  expect(editList(moov)).toEqual([
    { duration: 50, mediaTime: -1, rate: 1 },
    { duration: 100, mediaTime: 512, rate: 1 },
  ]);
  expect([...boxesIn(moov, 8, moov.length)].map(({ type }) => type)).toEqual(['mvhd', 'trak']);
  expect(readBox(bytes(0, 0, 0, 4, 1, 1, 1, 1), 0, 8)).toBeNull();
  fc.assert(
    fc.property(fc.uint8Array({ maxLength: 200 }), (any) => {
      editList(any);
      return true;
    }),
  );
});

const identity: ClipIdentity = {
  codecString: null,
  pixelFormat: 'yuv420p',
  level: null,
  pixelAspect: { num: 1, den: 1 },
  scan: 'progressive',
  timing: { constant: true, shortestMs: 40, longestMs: 40, missing: 0, duplicate: 0 },
  dropFrame: false,
  colour: { primaries: null, transfer: null, matrix: null, range: null },
  rotation: 0,
  alpha: false,
  audio: [],
  indexAtEnd: false,
  edits: null,
  missingFrames: 0,
  decodeProblem: null,
};
const format = {
  container: 'MP4',
  codec: 'H.264',
  profile: 'High',
  bitDepth: 8,
  chroma: '4:2:0',
  width: 1920,
  height: 1080,
  rate: { num: 25, den: 1 },
};
const intra = {
  intra: true,
  keyInterval: null,
  hasBFrames: false,
  reorderDepth: 0,
  openGop: false,
  referenceDepth: 0,
};

test('warnings name what matters for playback, the gravest first, and nothing else', () => {
  expect(clipWarnings(format, intra, 100, identity)).toEqual([]);
  const bad: ClipIdentity = {
    ...identity,
    timing: { constant: false, shortestMs: 20, longestMs: 60, missing: 2, duplicate: 3 },
    missingFrames: 4,
    indexAtEnd: true,
    edits: 'An edit list joins 2 pieces.',
    rotation: 90,
    pixelAspect: { num: 16, den: 15 },
  };
  const kinds = clipWarnings(
    { ...format, width: 719 },
    { ...intra, intra: false, openGop: true, keyInterval: { min: 10, mean: 40, max: 100 } },
    300,
    bad,
  ).map(({ kind }) => kind);
  expect(kinds).toEqual([
    'truncated',
    'missing-times',
    'duplicate-times',
    'variable-rate',
    'sparse-keys',
    'open-gop',
    'edit-list',
    'odd-raster',
    'not-square',
    'rotated',
    'index-at-end',
  ]);
  expect(clipWarnings(format, { ...intra, intra: false }, 300, identity)[0]).toMatchObject({
    kind: 'sparse-keys',
    text: expect.stringContaining('Up to 300 frames (12.0\u202fs)') as string,
  });
});

test('identity in words', () => {
  expect(colourTags(9, 18, 9, 2)).toEqual({
    primaries: 'BT.2020',
    transfer: 'HLG (ARIB B67)',
    matrix: 'BT.2020',
    range: 'full',
  });
  expect(colourTags(2, 2, 2, 0)).toEqual({ primaries: null, transfer: null, matrix: null, range: null });
  expect([
    levelLabel('h264', 51),
    levelLabel('hevc', 153),
    levelLabel('prores', 3),
    levelLabel('mpeg2video', 8),
  ]).toEqual(['5.1', '5.1', null, 'Main']);
  expect(
    rasterLabel({ ...format, width: 720, height: 576 }, { pixelAspect: { num: 16, den: 15 }, rotation: 90 }),
  ).toBe('720x576, pixels 16:15, shown 768x576, turned 90° when shown');
  expect(timingLabel({ num: 30_000, den: 1001 }, identity.timing)).toBe('29.97 (30000/1001), constant');
  expect(
    audioLabel({ codec: 'PCM', channels: 2, layout: 'stereo', samplesPerSecond: 48_000, bitDepth: 24 }),
  ).toBe('stereo PCM 24-bit, 48\u202fkHz');
  expect(rotationOf(null)).toBe(0);
  expect([hasAlpha('yuva444p12le'), hasAlpha('yuv444p12le'), hasAlpha('gbrap16le')]).toEqual([
    true,
    false,
    true,
  ]);
  expect(pixelFormatFacts('xyz12le')).toEqual({ bitDepth: 12, chroma: 'XYZ' });
  expect([
    rasterClass({ width: 720, height: 576 }),
    rasterClass({ width: 1920, height: 1080 }),
    rasterClass({ width: 3840, height: 2160 }),
    rasterClass({ width: 7680, height: 4320 }),
  ]).toEqual(['SD', 'HD 1080', 'UHD', '8K']);
  expect(formatClass(format)).toBe('H.264 8-bit 4:2:0, HD 1080');
});

test('a file serves for what is known of it', () => {
  const possible = (known: Parameters<typeof clipUses>[0]) => clipUses(known).map((use) => use.possible);
  expect(possible({ status: 'ready', hasPackets: true, hasDecoder: true })).toEqual([
    true,
    true,
    true,
    true,
    true,
  ]);
  expect(possible({ status: 'unplayable', hasPackets: true, hasDecoder: false })).toEqual([
    false,
    false,
    true,
    true,
    true,
  ]);
  expect(possible({ status: 'unplayable', hasPackets: false, hasDecoder: true })).toEqual([
    false,
    false,
    false,
    false,
    true,
  ]);
  expect(possible({ status: 'missing', hasPackets: true, hasDecoder: true })).toEqual([
    false,
    false,
    true,
    false,
    false,
  ]);
});

test('hashes follow the picture and not its brightness', () => {
  const picture = Uint8Array.from({ length: 72 }, (_, at) => (at * 37) % 200);
  const brighter = picture.map((value) => value + 30);
  expect(fingerprintDistance(pictureHash(picture), pictureHash(brighter))).toBe(0);
  expect(fingerprintDistance(pictureHash(picture), pictureHash(picture.slice().reverse()))).toBeGreaterThan(
    0.2,
  );
  expect(fingerprintDistance(bytes(1), bytes(1, 2))).toBeNull();
});
