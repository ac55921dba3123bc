import {
  AV_FRAME_FLAG_INTERLACED,
  AV_FRAME_FLAG_TOP_FIELD_FIRST,
  AV_PIX_FMT_YUV420P,
  AV_PIX_FMT_YUV422P10LE,
  type AVPixelFormat,
} from 'node-av/constants';
import type { Frame } from 'node-av/lib';
import { join } from 'node:path';
import type { FieldsWay } from '@/core/playback/settings';
import { playbackScales } from '@/core/playback/slots';
import { rational } from '@/core/time/rational';
import { flattenSlot } from '@/core/timeline/flatten';
import { fieldBySlot } from '@/core/timeline/loads';
import { lengthOf, type Timeline } from '@/core/timeline/model';
import { firstField } from './fields';
import { emptyPicture } from './framePool';
import { greenAt, playbackRaster, Processor, type ProcessedPicture } from './processor';
import { OpenTimeline } from '../timeline/openTimeline';
import { SlotAccess } from '../timeline/slotAccess';
import { SlotProcessor } from '../timeline/slotProcessor';
import { writeTestMedia } from '../testing/testMedia';
import { runTimeline, specOf, testMedia } from '../testing/testTimelineRun';
import { workFolder } from '../testing/testTrial';

const raster = { width: 64, height: 48 };
const files = { font: '', look: () => [] };

/** Luma of a line, 0 to 255: the lines of each field rise, and the two fields lie far from each other. */
const lineLuma = (y: number) => (y % 2 === 0 ? 40 + y : 160 + y);

/** An interlaced grey picture whose every line is even. */
function fieldsOf(format: AVPixelFormat, first: 'top' | 'bottom' = 'top', luma = lineLuma): Frame {
  const frame = emptyPicture(raster.width, raster.height, format);
  const deep = format === AV_PIX_FMT_YUV422P10LE;
  for (const [index, plane] of (frame.data ?? []).entries()) {
    const stride = frame.linesize[index] ?? 0;
    const lines = index > 0 && format === AV_PIX_FMT_YUV420P ? raster.height / 2 : raster.height;
    for (let y = 0; y < lines && plane; y++) {
      const level = index === 0 ? luma(y) : 128;
      for (let x = 0; x < stride / (deep ? 2 : 1); x++)
        if (deep) plane.writeUInt16LE(level * 4, y * stride + 2 * x);
        else plane[y * stride + x] = level;
    }
  }
  frame.setFlags(AV_FRAME_FLAG_INTERLACED, ...(first === 'top' ? [AV_FRAME_FLAG_TOP_FIELD_FIRST] : []));
  return frame;
}

/** Grey of narrow range as a display has it. Source: Rec. ITU-R BT.601. */
const shown = (luma: number) => ((luma - 16) * 255) / 219;
const greens = (picture: ProcessedPicture) =>
  Array.from({ length: picture.height }, (_, y) => greenAt(picture, picture.width / 2, y));

/** Holds lines to what they are to be, within three levels. */
function expectLines(got: readonly number[], luma: (y: number) => number) {
  got.forEach((value, y) => {
    const wanted = Math.min(255, Math.max(0, shown(luma(y))));
    if (Math.abs(value - wanted) > 3) throw new Error(`Line ${y} is ${value}, not ${wanted}`);
  });
}

/** Lines of one field, and between them the mean of those above and below; at the edge the nearest. */
const ofField = (isTop: boolean) => (y: number) => {
  const own = (line: number) => Math.min(raster.height - 1, Math.max(0, line));
  if ((y % 2 === 0) === isTop) return lineLuma(y);
  const [above, below] = [y - 1, y + 1];
  const has = (line: number) => line >= 0 && line < raster.height;
  return (lineLuma(own(has(above) ? above : below)) + lineLuma(own(has(below) ? below : above))) / 2;
};

function timelineAt(num: number): Timeline {
  const ref = {
    clipId: 'c',
    name: 'm',
    reel: null,
    startTimecode: null,
    contentHash: null,
    rate: rational(25),
    frames: 100,
    ...raster,
  };
  return { ...fieldBySlot({ id: 'm', ref }), rate: rational(num) };
}

/** What a slot of a timeline makes of an interlaced frame. */
async function slotOf(frame: Frame, fields: FieldsWay, slot = 0, at = raster): Promise<ProcessedPicture> {
  const processor = new SlotProcessor(at, { files, depth: 'kept', fields });
  const picture = await processor.process(flattenSlot(timelineAt(50), slot).layers, [frame]);
  const copy = { ...picture, pixels: Buffer.from(picture.pixels) };
  processor.release(picture);
  await processor.close();
  return copy;
}

const formats = [
  ['4:2:0 of 8 bits', AV_PIX_FMT_YUV420P],
  ['4:2:2 of 10 bits', AV_PIX_FMT_YUV422P10LE],
] as const;

describe.each(formats)('interlaced %s', (_, format) => {
  test('each slot at field rate shows its own field, with the lines between worked out', async () => {
    for (const first of ['top', 'bottom'] as const) {
      const frame = fieldsOf(format, first);
      expect(firstField(frame)).toBe(first);
      expectLines(greens(await slotOf(frame, 'deinterlaced', 0)), ofField(first === 'top'));
      expectLines(greens(await slotOf(frame, 'deinterlaced', 1)), ofField(first !== 'top'));
      frame.free();
    }
  });

  test('a clip by itself is deinterlaced to its first field', async () => {
    const frame = fieldsOf(format, 'bottom');
    const processor = new Processor(raster.width, raster.height, 'full', { fields: 'deinterlaced' });
    const picture = await processor.process(frame);
    expectLines(greens(picture), ofField(false));
    processor.release(picture);
    processor.close();
    frame.free();
  });

  test('both fields in one picture stay apart at every raster', async () => {
    const [low, high] = [60, 200];
    const frame = fieldsOf(format, 'top', (y) => (y % 2 === 0 ? low : high));
    for (const scale of playbackScales) {
      const at = playbackRaster(raster, scale);
      const processor = new Processor(raster.width, raster.height, scale, { depth: 'kept' });
      const alone = await processor.process(frame);
      const pictures = [alone, await slotOf(frame, 'woven', 0, at)];
      for (const picture of pictures) {
        expect(picture.height).toBe(at.height);
        expectLines(greens(picture), (y) => (y % 2 === 0 ? low : high));
      }
      processor.release(alone);
      processor.close();
    }
    frame.free();
  });
});

test('a picture that is not interlaced is worked on as a whole, whatever is asked', async () => {
  const frame = fieldsOf(AV_PIX_FMT_YUV420P, 'top', (y) => (y % 2 === 0 ? 60 : 200));
  frame.clearFlags(AV_FRAME_FLAG_INTERLACED);
  const got = greens(await slotOf(frame, 'deinterlaced', 0));
  expect(Math.abs((got[0] as number) - (got[1] as number))).toBeGreaterThan(100);
  frame.free();
});

test('a timeline at twice the rate of its media counts their fields', () => {
  const shownBy = (rate: number, slots: number) =>
    Array.from({ length: slots }, (_, slot) => {
      const [layer] = flattenSlot(timelineAt(rate), slot).layers;
      return [layer?.frame, layer?.field];
    });
  expect(shownBy(50, 4)).toEqual([
    [0, 0],
    [0, 1],
    [1, 0],
    [1, 1],
  ]);
  expect(shownBy(25, 2)).toEqual([
    [0, 0],
    [1, 0],
  ]);
});

test('an interlaced file played field by field: every frame twice, decoded once, first one field and then the other', async () => {
  const path = join(await workFolder(), 'fields', 'tape.mov');
  // The upper field is dark, the lower bright; both grow brighter.
  await writeTestMedia(path, {
    encoder: 'prores_ks',
    pixelFormat: 'yuv422p10le',
    width: 128,
    height: 96,
    frames: 12,
    interlaced: 'top',
    options: { profile: '2' },
    rgb: (_x, y, index) => {
      const grey = (y % 2 === 0 ? 40 : 170) + 5 * index;
      return [grey, grey, grey];
    },
  });
  const media = await testMedia(path);
  expect(media.probed.identity.scan).toBe('top field first');
  const spec = specOf(fieldBySlot({ id: 'm', ref: media.ref }), { m: media });
  expect(lengthOf(spec.timeline)).toBe(24);
  const { end, trace, plan } = await runTimeline(spec, {}, { policy: 'every-frame', fields: 'deinterlaced' });
  expect(end.kind).toBe('done');
  expect([...trace.state].length).toBe(24);
  // Half of the slots ask for nothing new.
  expect(plan.uses.filter((used) => used.length > 0)).toHaveLength(24);
  expect([...trace.bytes].filter((bytes) => bytes > 0)).toHaveLength(12);
  const opened = await OpenTimeline.open(spec, { warm: true, fields: 'deinterlaced' });
  const access = new SlotAccess(
    spec.timeline,
    opened.media,
    new SlotProcessor(playbackRaster(spec.timeline, 'half'), opened),
    1,
  );
  const brightness: number[] = [];
  for (let slot = 0; slot < 24; slot++) {
    const { picture } = (await access.fetch(slot))!;
    brightness.push(greenAt(picture, 20, 20));
    access.release(picture);
  }
  await access.close();
  await opened.close();
  brightness.forEach((value, slot) => {
    const wanted = (slot % 2 === 0 ? 40 : 170) + 5 * Math.floor(slot / 2);
    expect(Math.abs(value - wanted)).toBeLessThan(8);
  });
});
