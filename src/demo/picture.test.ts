import { readFrameCode } from '@/core/media/frameCode';
import { demoClips } from './clips';
import { glyphDot } from './glyphs';
import { SceneryPainter, type PictureFormat } from './picture';

const small: PictureFormat = { width: 320, height: 180, bitDepth: 8, chromaShiftX: 1, chromaShiftY: 1 };
const paint = (seed: number, frame: number, format = small) =>
  Buffer.from(new SceneryPainter(format, 'WALL', seed, 10, 4).paint(frame, '01:00:00:00'));

test('the same seed paints the same picture, another seed or frame another', () => {
  expect(paint(1, 5).equals(paint(1, 5))).toBe(true);
  expect(paint(1, 5).equals(paint(2, 5))).toBe(false);
  expect(paint(1, 5).equals(paint(1, 6))).toBe(false);
});

test('planes have the size of their format', () => {
  expect(paint(1, 0).length).toBe(320 * 180 * 1.5);
  expect(paint(1, 0, { ...small, chromaShiftY: 0, bitDepth: 10 }).length).toBe(320 * 180 * 2 * 2);
});

test.each([8, 10] as const)('the frame number can be read off %i-bit luma', (bitDepth) => {
  for (const frame of [0, 1, 77, 4095]) {
    const bytes = paint(3, frame, { ...small, bitDepth });
    const luma = (x: number, y: number) =>
      bitDepth === 8 ? bytes[y * 320 + x]! : bytes.readUInt16LE((y * 320 + x) * 2) / 4;
    expect(readFrameCode(320, 180, luma)).toBe(frame);
  }
});

test('samples stay within the video range', () => {
  const luma = paint(9, 30).subarray(0, 320 * 180);
  expect(Math.min(...luma)).toBeGreaterThanOrEqual(8);
  expect(Math.max(...luma)).toBeLessThanOrEqual(243);
});

test('the letters of all clip names and timecodes can be drawn', () => {
  for (const { label, startTimecode } of demoClips) {
    for (const character of `${label}${startTimecode}`) {
      if (character === ' ') continue;
      const dots = Array.from({ length: 35 }, (_, at) =>
        glyphDot(character, at % 5, Math.floor(at / 5)),
      ).filter(Boolean);
      expect([character, dots.length > 1]).toEqual([character, true]);
    }
  }
  expect(glyphDot('?', 0, 0)).toBe(false);
});

test('the demo has the formats of its three cameras and a proxy', () => {
  const kinds = demoClips.map(
    ({ encoder, picture, keyInterval, rate }) =>
      `${encoder} ${picture.height} ${picture.bitDepth}-bit ${keyInterval ? 'long-GOP' : 'intra'} ${rate.num}`,
  );
  expect(kinds).toEqual(
    expect.arrayContaining([
      'prores_aw 1080 10-bit intra 24',
      'libx264 1080 8-bit long-GOP 24',
      'libx265 1080 10-bit long-GOP 25',
      'mjpeg 720 8-bit intra 24',
    ]),
  );
  expect(demoClips.find(({ encoder }) => encoder === 'libx264')!.bFrames).toBeGreaterThan(0);
  expect(new Set(demoClips.map(({ file }) => file)).size).toBe(demoClips.length);
});
