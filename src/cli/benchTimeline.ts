import { spawnSync } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { Page } from '@playwright/test';
import { AV_LOG_FATAL } from 'node-av/constants';
import { Log } from 'node-av/lib';
import { parseCube, plainCube } from '@/core/formats/cube';
import { decodePacketTable } from '@/core/media/packetTable';
import type { PlaybackSettings, WorkingDepth } from '@/core/playback/settings';
import { median, quantiles } from '@/core/stats/quantiles';
import { rational } from '@/core/time/rational';
import { planCourse } from '@/core/timeline/course';
import { flattenSlot } from '@/core/timeline/flatten';
import { sideBySide } from '@/core/timeline/loads';
import { emptyTimeline, lengthOf, wholePicture, type Item, type Timeline } from '@/core/timeline/model';
import { clipTimelinePrefix, putTimeline, removeTimeline } from '@/db/queries/timelines';
import { demoLook } from '@/demo/timelines';
import { monotonicUs } from '@/engine/clock';
import { Decoder, packetOf } from '@/engine/codec/decoder';
import { thisRigId } from '@/engine/rig';
import { ScrubRun } from '@/engine/scrub/scrubRun';
import { FrameAccess } from '@/engine/codec/frameAccess';
import { OpenTimeline } from '@/engine/timeline/openTimeline';
import { playbackRaster } from '@/engine/codec/processor';
import { forDisplay } from '@/engine/codec/depth';
import { describeGraph, type GraphLayer } from '@/engine/timeline/pictureGraph';
import { SlotAccess } from '@/engine/timeline/slotAccess';
import { SlotProcessor } from '@/engine/timeline/slotProcessor';
import type { TimelineSpec } from '@/engine/timeline/spec';
import type { BenchRow } from './bench';
import { visitTimes, withPage } from './benchPage';
import { mediaAt, playOnce } from './benchTrials';
import { paths } from './home';

const pairs = 5;

/** Plays a timeline once in a trial process. */
async function play(spec: TimelineSpec, how: Pick<PlaybackSettings, 'policy' | 'depth'>, viewers = 0) {
  const course = { from: 0, slots: lengthOf(spec.timeline), speed: 1 };
  const { graph } = planCourse(
    spec.timeline,
    course,
    new Map(Object.entries(spec.media).map(([id, { packets }]) => [id, decodePacketTable(packets)])),
  );
  return (
    await playOnce(
      { spec: { kind: 'timeline', ...spec, course }, graph, rate: spec.timeline.rate },
      { ...how, warm: true },
      viewers,
    )
  ).summary;
}

const item = (id: string, media: string, length: number, effects: Item['effects']): Item => ({
  id,
  name: id,
  start: 0,
  length,
  source: { kind: 'clip', media, in: 0, speed: rational(1) },
  effects,
});

type Media = Awaited<ReturnType<typeof mediaAt>>;

/** Frames that both play. */
const playedFrames = 144;
const raster = { width: 1920, height: 1080 };

/** Two clips, one inset over the other, a look on the lower. */
function twoLayers(wall: Media, kite: Media): Timeline {
  return {
    ...emptyTimeline('bench', rational(24), 1920, 1080),
    media: { wall: wall.ref, kite: kite.ref },
    tracks: [
      {
        id: 'v1',
        name: 'V1',
        on: true,
        items: [
          item('wall', 'wall', playedFrames, [
            { id: 'l', on: true, kind: 'lut', lookId: 'dusk', name: 'dusk' },
          ]),
        ],
      },
      {
        id: 'v2',
        name: 'V2',
        on: true,
        items: [
          item('kite', 'kite', playedFrames, [
            {
              id: 't',
              on: true,
              kind: 'transform',
              crop: wholePicture,
              place: { x: 0.5, y: 0.5, width: 0.5, height: 0.5 },
              opacity: 1,
            },
          ]),
        ],
      },
    ],
  };
}

/** The graph that the engine makes of a timeline, fed from files instead of from memory; what a layer covers is drawn once. */
function nativeGraph(
  timeline: Timeline,
  wall: Media,
  kite: Media,
  look: string,
  depth: WorkingDepth,
): string {
  const layers = flattenSlot(timeline, 0).layers.map((layer): GraphLayer => ({
    layer,
    picture: {
      ...(layer.media === 'wall' ? wall : kite).ref,
      format: 0,
      pixelAspect: { num: 1, den: 1 },
      fields: null,
    },
  }));
  const { text, masks } = describeGraph(
    layers,
    raster,
    { font: '', look: () => [{ path: look, dimensions: 3 }] },
    { deep: depth === 'kept', fields: 'woven', output: forDisplay },
  );
  return text
    .replace(/buffer@(\d)=[^,]*,/g, '[$1:v]')
    .replace(/buffer@mask(\d+)=[^[]*/g, (_, at) => maskSource(masks, Number(at), raster))
    .replace(',buffersink@out', '[out]');
}

/** Frames a second of the native command line. @throws Error with what it said */
function nativeRate(wall: Media, kite: Media, graph: string): number {
  const { stderr, status } = spawnSync(
    'ffmpeg',
    [
      '-hide_banner',
      '-benchmark',
      '-i',
      wall.spec.path,
      '-i',
      kite.spec.path,
      '-filter_complex',
      graph,
      '-map',
      '[out]',
      '-frames:v',
      String(playedFrames),
      '-f',
      'null',
      '-',
    ],
    { encoding: 'utf8' },
  );
  const seconds = Number(/rtime=([\d.]+)s/.exec(stderr)?.[1]);
  if (status !== 0 || !(seconds > 0)) throw new Error(`The reference failed:\n${stderr.slice(-600)}`);
  return playedFrames / seconds;
}

/** A slot of two layers, against the same graph of filters in the native command line. */
async function slotRow(folder: string, depth: WorkingDepth): Promise<BenchRow> {
  const [wall, kite] = await Promise.all([
    mediaAt(join(folder, 'wall-camera/TW_WALL_0107.mov')),
    mediaAt(join(folder, 'kite-camera/TW_KITE_0031.mp4')),
  ]);
  const timeline = twoLayers(wall, kite);
  const spec: TimelineSpec = {
    timeline,
    media: { wall: wall.spec, kite: kite.spec },
    looks: { dusk: demoLook.cube },
  };
  const scratch = mkdtempSync(join(tmpdir(), 'navvy-bench-'));
  try {
    const look = join(scratch, 'dusk.cube');
    writeFileSync(look, demoLook.cube);
    const graph = nativeGraph(timeline, wall, kite, look, depth);
    const ratios: number[] = [];
    for (let pair = 0; pair < pairs; pair++)
      ratios.push(
        (await play(spec, { policy: 'every-frame', depth })).achievedRate / nativeRate(wall, kite, graph),
      );
    const ratio = median(ratios);
    return {
      name: `processing a slot (two layers, LUT, scale) in ${depth === 'kept' ? 16 : 8} bits, engine over native`,
      value: ratio,
      unit: 'x',
      target: 'at least 0.95',
      met: ratio >= 0.95,
      note: `${pairs} pairs, ${Math.min(...ratios).toFixed(2)} to ${Math.max(...ratios).toFixed(2)}`,
    };
  } finally {
    rmSync(scratch, { recursive: true, force: true });
  }
}

/** The native command line's own source of a mask: white where a layer lies, made once and shown for ever. */
function maskSource(
  masks: ReturnType<typeof describeGraph>['masks'],
  at: number,
  { width, height }: { readonly width: number; readonly height: number },
): string {
  const { place } = masks.find((mask) => mask.at === at) as (typeof masks)[number];
  return `color=black:s=${width}x${height}:r=24,format=gbrp16le,drawbox=${place.x}:${place.y}:${place.width}:${place.height}:white:fill,loop=-1:1`;
}

/** A step over an all-intra clip against reading, decoding and processing the same frames with nothing around it. */
async function stepRow(folder: string): Promise<BenchRow> {
  const media = await mediaAt(join(folder, 'wall-camera/TW_WALL_0107.mov'));
  const spec: TimelineSpec = {
    timeline: sideBySide({ id: 'm', ref: media.ref }, 1),
    media: { m: media.spec },
    looks: {},
  };
  const opened = await OpenTimeline.open(spec, { warm: false });
  const raster = playbackRaster(spec.timeline, 'full');
  const packets = decodePacketTable(media.spec.packets);
  const ratios: number[] = [];
  for (let pair = 0; pair < pairs; pair++) {
    const access = new SlotAccess(spec.timeline, opened.media, new SlotProcessor(raster, opened), 0);
    const targets = Array.from({ length: 30 }, (_, at) => pair * 30 + at);
    const requests = await new ScrubRun(
      access,
      { kind: 'step-forward', slots: media.ref.frames, timesMs: targets.map((_, at) => at * 150), targets },
      () => undefined,
    ).run();
    await access.close();
    const latency = quantiles(
      requests.map(({ shownMs, atMs }) => (shownMs ?? Infinity) - atMs),
      [0.5],
    )[0] as number;
    const reader = await (
      opened.media.get('m') as NonNullable<ReturnType<typeof opened.media.get>>
    ).openReader();
    const decoder = await Decoder.open(media.spec.setup, {
      threads: 0,
      lowDelay: true,
      rate: media.spec.rate,
    });
    const processor = new SlotProcessor(raster, opened);
    const times: number[] = [];
    for (const target of targets) {
      const begun = monotonicUs();
      const row = packets.slot.indexOf(target);
      const packet = packetOf(
        await reader.read(packets.offset[row] as number, packets.size[row] as number),
        target,
        true,
      );
      await decoder.send(packet);
      const frame = await decoder.receive();
      processor.release(await processor.process(flattenSlot(spec.timeline, target).layers, [frame]));
      times.push((monotonicUs() - begun) / 1000);
      packet.free();
      frame?.free();
      // As unhurried as the gesture, so that the processor's clock is the same.
      await new Promise((resolve) => {
        setTimeout(resolve, 110);
      });
    }
    decoder.close();
    await processor.close();
    await reader.close();
    ratios.push(latency / median(times));
  }
  await opened.close();
  const ratio = median(ratios);
  return {
    name: 'scrub step on all-intra p50, over bare read, decode, process',
    value: ratio,
    unit: 'x',
    target: 'at most 1.15',
    met: ratio <= 1.15,
    note: `${pairs} pairs of 30 steps, cold`,
  };
}

/** Packets decoded per frame when a long-GOP clip is stepped through. */
async function longGopRow(folder: string): Promise<BenchRow> {
  const media = await mediaAt(join(folder, 'kite-camera/TW_KITE_0031.mp4'));
  const opened = await OpenTimeline.open(
    { timeline: sideBySide({ id: 'm', ref: media.ref }, 1), media: { m: media.spec }, looks: {} },
    { warm: true },
  );
  const access = new FrameAccess(
    opened.media.get('m') as NonNullable<ReturnType<typeof opened.media.get>>,
    0,
  );
  for (let frame = 0; frame < media.ref.frames; frame++) (await access.frame(frame, () => false))?.free();
  const value = access.cost.packets / media.ref.frames;
  await access.close();
  await opened.close();
  return {
    name: 'packets decoded per forward step on long-GOP',
    value,
    unit: 'packets',
    target: 'at most 1',
    met: value <= 1,
    note: `${media.ref.frames} steps`,
  };
}

/** Drops of a light timeline with and without somebody watching. */
async function watchedRow(folder: string): Promise<BenchRow> {
  const media = await mediaAt(join(folder, 'proxies/TW_WALL_0107_proxy.mov'));
  const spec: TimelineSpec = {
    timeline: sideBySide({ id: 'm', ref: media.ref }, 1),
    media: { m: media.spec },
    looks: {},
  };
  const [off, on]: [number[], number[]] = [[], []];
  let slots = 0;
  for (let pair = 0; pair < pairs; pair++) {
    off.push((await play(spec, { policy: 'hold-time' })).dropped);
    const watched = await play(spec, { policy: 'hold-time' }, 1);
    on.push(watched.dropped);
    slots += watched.slots;
  }
  const sum = (values: number[]) => values.reduce((total, value) => total + value, 0);
  const value = (Math.abs(sum(on) - sum(off)) / slots) * 1000;
  return {
    name: 'drops of a timeline, watched against not, per 1 000 slots',
    value,
    unit: 'slots',
    target: 'at most 1',
    met: value <= 1,
    note: `${pairs} pairs, ${slots} slots each`,
  };
}

const manyItems = 5_000;

/** A timeline of five thousand short items of one clip. */
async function seedMany(): Promise<string> {
  const { reelClip } = await import('./seed');
  const ref = await reelClip('TW_WALL_0107_proxy');
  const items = Array.from({ length: manyItems }, (_, at): Item => ({
    id: `i${at}`,
    name: `${ref.name} ${at}`,
    start: at * 20,
    length: 18,
    source: { kind: 'clip', media: 'm', in: at % 150, speed: rational(1) },
    effects: [],
  }));
  const document: Timeline = {
    ...emptyTimeline('Five thousand items', rational(24), 1280, 720),
    media: { m: ref },
    tracks: [{ id: 'v1', name: 'V1', on: true, items }],
  };
  const id = `${clipTimelinePrefix}bench`;
  await putTimeline({
    id,
    rigId: await thisRigId(),
    name: document.name,
    document,
    slots: lengthOf(document),
    demo: 1,
  });
  return id;
}

/** The editor in a browser: frames while five thousand items pan and zoom, and the time from a key to its picture. */
function editorRows(): Promise<BenchRow[]> {
  return withPage(
    join(paths.media, 'edit-room-internal'),
    seedMany,
    (id) => removeTimeline(id),
    async ({ seeded: id, page, address }) => {
      const opened = await visitTimes(
        page,
        `${address}/timelines/${id}`,
        () => page.locator('img[data-slot]').waitFor(),
        2,
      );
      const worst = await panAndZoom(page);
      const beyond = await keyTimes(page);
      return [
        {
          name: `editor of ${manyItems} items, first picture after`,
          value: median(opened),
          unit: 'ms',
          target: 'under 3000',
          met: median(opened) < 3_000,
          note: '2 visits',
        },
        {
          name: `slowest frame, ${manyItems} items zoomed and panned`,
          value: worst,
          unit: 'ms',
          target: 'at most 50',
          met: worst <= 50,
          note: '80 steps of the wheel',
        },
        {
          name: 'key to picture in the viewer, less the slot\u2019s own cost',
          value: median(beyond),
          unit: 'ms',
          target: 'at most 50',
          met: median(beyond) <= 50,
          note: `median of ${beyond.length} steps, JPEG and network included`,
        },
      ];
    },
  );
}

async function panAndZoom(page: Page): Promise<number> {
  const box = await page.getByRole('application', { name: /^Timeline/ }).boundingBox();
  if (!box) throw new Error('The timeline is not on the page.');
  await page.evaluate(
    'window.frames_ = []; { let last = performance.now(); requestAnimationFrame(function tick(now) { window.frames_.push(now - last); last = now; requestAnimationFrame(tick); }); }',
  );
  await page.mouse.move(box.x + box.width / 2, box.y + 40);
  await page.keyboard.down('Control');
  for (let step = 0; step < 40; step++) await page.mouse.wheel(0, step < 25 ? -120 : 120);
  await page.keyboard.up('Control');
  for (let step = 0; step < 40; step++) await page.mouse.wheel(step < 20 ? 200 : -200, 0);
  return Math.max(...(await page.evaluate<number[]>('window.frames_.slice(2)')));
}

/** Times from a key to its picture, less what the viewer says the slot took. */
async function keyTimes(page: Page): Promise<number[]> {
  await page.keyboard.press('Home');
  await page.waitForTimeout(500);
  const times: number[] = [];
  for (let slot = 1; slot <= 15; slot++) {
    const elapsed = await page.evaluate<number>(
      `(async () => { const begun = performance.now(); window.dispatchEvent(new KeyboardEvent('keydown', { key: 'ArrowRight', bubbles: true })); while (document.querySelector('img[data-slot]')?.getAttribute('data-slot') !== '${slot}') await new Promise((resolve) => setTimeout(resolve, 1)); return performance.now() - begun; })()`,
    );
    const took = Number(/took ([\d.]+)/.exec((await page.getByTestId('took').textContent()) ?? '')?.[1] ?? 0);
    times.push(elapsed - took);
  }
  return times;
}

/** A look of 65 points an edge is read: what somebody waits for who chooses its file. */
function lookRow(): BenchRow {
  const edge = 65;
  const values = Float64Array.from({ length: 3 * edge ** 3 }, (_, at) => ((at * 7919) % 10_007) / 10_007);
  const text = plainCube({ dimensions: 3, size: edge, values });
  const tookMs = Array.from({ length: 5 }, () => {
    const begun = performance.now();
    parseCube(text);
    return performance.now() - begun;
  });
  const value = median(tookMs);
  return {
    name: 'a .cube table of 65 is read',
    value,
    unit: 'ms',
    target: '<= 200',
    met: value <= 200,
    note: `${edge ** 3} entries, the first time ${Math.round(tookMs[0] as number)} ms`,
  };
}

/** Rows of the part: one slot, stepping, seeking, watching, looks and the editor. */
export async function timelineRows(folder: string): Promise<BenchRow[]> {
  Log.setLevel(AV_LOG_FATAL);
  return [
    await slotRow(folder, '8-bit'),
    await slotRow(folder, 'kept'),
    await stepRow(folder),
    await longGopRow(folder),
    await watchedRow(folder),
    lookRow(),
    ...(await editorRows()),
  ];
}
