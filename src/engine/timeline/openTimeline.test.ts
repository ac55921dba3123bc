import { access } from 'node:fs/promises';
import { bytesPerSlot, dataRate } from '@/core/media/dataRate';
import { slotState } from '@/core/playback/slots';
import { excerpt } from '@/core/timeline/edits';
import { sideBySide } from '@/core/timeline/loads';
import type { Timeline } from '@/core/timeline/model';
import { smallIntra, smallLongGop } from '@/demo/smallClips';
import { OpenTimeline } from './openTimeline';
import type { LookFile } from './pictureGraph';
import { steadyModel } from '../testing/testStorage';
import { smallClip } from '../testing/testTrial';
import { runTimeline, specOf, testMedia, type TestMedia } from '../testing/testTimelineRun';

let intra: TestMedia;
beforeAll(async () => {
  intra = await testMedia(await smallClip(smallIntra));
});

/** Some seconds of some streams of one clip. */
function streams(media: TestMedia, count: number, slots = 48): Timeline {
  return excerpt(sideBySide({ id: 'm', ref: media.ref }, count), 0, slots);
}

test('every reader of a simulated volume takes its share of one link', async () => {
  const { packets, format } = intra.probed;
  const needs = dataRate(bytesPerSlot(packets), format.rate).meanBitsPerSecond / 8e6;
  // Enough for one stream and a half, where six are read: each with a link of its own would keep the timeline's pace.
  const model = steadyModel(needs * 1.5, {
    drive: { ...steadyModel(1).drive, readBytesPerSecond: needs * 1.5e6 },
  });
  const media = { ...intra, spec: { ...intra.spec, standIn: model } };
  const spec = specOf(streams(media, 6, 96), { m: media });
  const begun = performance.now();
  const run = await runTimeline(spec, {}, { scale: 'quarter', policy: 'every-frame' });
  const seconds = (performance.now() - begun) / 1000;
  expect(run.end.kind).toBe('done');
  const bytes =
    6 *
    bytesPerSlot(packets)
      .subarray(0, 96)
      .reduce((sum, size) => sum + size, 0);
  expect(seconds).toBeGreaterThan((0.9 * bytes) / (needs * 1.5e6));
});

test('side by side every stream is read and decoded by itself, and all are proved', async () => {
  const run = await runTimeline(specOf(streams(intra, 3), { m: intra }), {}, { policy: 'every-frame' });
  expect(run.plan.feeds).toHaveLength(3);
  expect(run.plan.graph.bytes[0]).toBe(3 * (intra.probed.packets.size[0] as number));
  expect(run.trace.state.every((state) => state === slotState.shown)).toBe(true);
  expect(run.conditions?.decoder).toBe('mjpeg x3');
  expect(run.findings?.parts?.readUs).toHaveLength(3 * 48);
  expect([...run.findings!.parts!.decodeUs].every((us) => us > 0)).toBe(true);
});

test('two angles of one clip are read apart', async () => {
  const long = await testMedia(await smallClip(smallLongGop));
  const base = sideBySide({ id: 'm', ref: long.ref }, 1);
  const timeline: Timeline = {
    ...base,
    tracks: [
      {
        ...base.tracks[0]!,
        items: [
          {
            id: 'a',
            name: 'a',
            start: 0,
            length: 40,
            effects: [],
            source: {
              kind: 'angles',
              angles: [
                { media: 'm', in: 0 },
                { media: 'm', in: 50 },
              ],
              switches: [
                { at: 0, angle: 0 },
                { at: 20, angle: 1 },
              ],
            },
          },
        ],
      },
    ],
  };
  const { trace, plan, end } = await runTimeline(
    specOf(timeline, { m: long }),
    {},
    { policy: 'every-frame' },
  );
  expect(end.kind).toBe('done');
  expect([...trace.shownFrame]).toEqual(
    Array.from({ length: 40 }, (_, slot) => (slot < 20 ? slot : slot + 50)),
  );
  // Both are decoded throughout, each once.
  expect(plan.feeds.map((feed) => feed.plan.frames.length)).toEqual([40, 40]);
});

test('looks lie in files while a timeline is open, and go with it', async () => {
  const opened = await OpenTimeline.open(
    specOf(
      streams(intra, 1),
      { m: intra },
      {
        dusk: 'LUT_1D_SIZE 2\n0 0 0\n1 1 1\n',
        cube: `LUT_3D_SIZE 2\n${'0 0 0\n'.repeat(8)}`,
        both: `LUT_1D_SIZE 2\nLUT_3D_SIZE 2\n0 0 0\n1 1 1\n${'0 0 0\n'.repeat(8)}`,
      },
    ),
    { warm: true },
  );
  const kinds = (id: string) => opened.files.look(id).map(({ dimensions }) => dimensions);
  expect(['dusk', 'cube', 'both', 'none'].map(kinds)).toEqual([[1], [3], [1, 3], []]);
  const [dusk] = opened.files.look('dusk') as [LookFile];
  await access(dusk.path);
  await access(opened.files.font);
  expect(opened.cold.method).toBe('warm');
  await opened.close();
  await expect(access(dusk.path)).rejects.toThrow();
});

test('a file that is gone or replaced is named', async () => {
  const gone = { ...intra, spec: { ...intra.spec, path: '/nowhere/TW_WALL_0107.mov' } };
  await expect(OpenTimeline.open(specOf(streams(gone, 1), { m: gone }), { warm: false })).rejects.toThrow(
    '/nowhere/TW_WALL_0107.mov',
  );
  const { end } = await runTimeline(specOf(streams(gone, 1), { m: gone }));
  expect(end).toMatchObject({
    kind: 'failed',
    message: expect.stringContaining('/nowhere/TW_WALL_0107.mov') as string,
  });
});
