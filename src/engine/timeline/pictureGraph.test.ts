import { wholePicture, type Effect, type EffectSettings, type Source } from '@/core/timeline/model';
import { layersAt as layersOf } from '../testing/testLayers';
import {
  describeGraph,
  filterOf,
  graphCommands,
  graphKey,
  pixelsOf,
  placeOf,
  type GraphFiles,
  type GraphLayer,
} from './pictureGraph';

const files: GraphFiles = {
  font: '/fonts/a b.woff2',
  look: (id) => (id === 'gone' ? [] : [{ path: `/looks/${id}.cube`, dimensions: id === 'curve' ? 1 : 3 }]),
};
const raster = { width: 1920, height: 1080 };
const square = { num: 1, den: 1 };
const effect = (settings: EffectSettings): Effect => ({ id: settings.kind, on: true, ...settings });

const layersAt = (slot: number, ...items: Parameters<typeof layersOf>[2][]): GraphLayer[] =>
  layersOf(raster, slot, ...items).map((layer) => ({
    layer,
    picture:
      layer.media === null
        ? null
        : { width: 1920, height: 1080, format: 4, pixelAspect: square, fields: null },
  }));

test('rectangles become whole pixels within the picture', () => {
  expect(pixelsOf(wholePicture, raster)).toEqual({ x: 0, y: 0, width: 1920, height: 1080 });
  expect(pixelsOf({ x: 0.9, y: 0.9, width: 0.5, height: 0.5 }, raster)).toEqual({
    x: 960,
    y: 540,
    width: 960,
    height: 540,
  });
  expect(pixelsOf({ x: 0, y: 0, width: 0, height: 0 }, raster)).toMatchObject({ width: 2, height: 2 });
});

test('a picture keeps its shape in its place, pixel aspect included', () => {
  expect(placeOf({ width: 1440, height: 1080, pixelAspect: square }, wholePicture, raster)).toEqual({
    x: 240,
    y: 0,
    width: 1440,
    height: 1080,
  });
  expect(
    placeOf({ width: 1440, height: 1080, pixelAspect: { num: 4, den: 3 } }, wholePicture, raster),
  ).toEqual({ x: 0, y: 0, width: 1920, height: 1080 });
  expect(
    placeOf(
      { width: 1920, height: 800, pixelAspect: { num: 0, den: 1 } },
      { x: 0.5, y: 0.5, width: 0.5, height: 0.5 },
      raster,
    ),
  ).toEqual({ x: 960, y: 610, width: 960, height: 400 });
});

test.each<[EffectSettings, string | null]>([
  [{ kind: 'white-balance', gains: [1.1, 1, 0.9] }, 'colorchannelmixer=rr=1.1:gg=1:bb=0.9'],
  [{ kind: 'saturation', amount: 1 }, 'colorchannelmixer=rr=1:rg=0:rb=0:gr=0:gg=1:gb=0:br=0:bg=0:bb=1'],
  [
    { kind: 'saturation', amount: 0 },
    'colorchannelmixer=rr=0.2126:rg=0.7152:rb=0.0722:gr=0.2126:gg=0.7152:gb=0.0722:br=0.2126:bg=0.7152:bb=0.0722',
  ],
  [{ kind: 'lut', lookId: 'cube', name: '' }, 'lut3d=file=/looks/cube.cube:interp=tetrahedral'],
  [{ kind: 'lut', lookId: 'curve', name: '' }, 'lut1d=file=/looks/curve.cube:interp=linear'],
  [{ kind: 'lut', lookId: 'gone', name: '' }, null],
  [{ kind: 'lut', lookId: null, name: '' }, null],
  [{ kind: 'blur', radius: 0.01 }, 'gblur=sigma=10.8'],
  [{ kind: 'blur', radius: 0 }, null],
  [{ kind: 'title', text: '  ', size: 0.1, x: 0.5, y: 0.5 }, null],
])('%j becomes a filter', (settings, filter) => {
  expect(filterOf(effect(settings), raster, files)).toBe(filter);
});

test('lift, gamma and gain that leave all as is say so channel by channel', () => {
  const filter = filterOf(
    effect({ kind: 'lift-gamma-gain', lift: [0, 0, 0.1], gamma: [1, 2, 1], gain: [1, 1, 1] }),
    raster,
    files,
  );
  expect(filter).toContain("r='round(255*pow(clip(1*(val/255+0*(1-val/255)),0,1),1))'");
  expect(filter).toContain('0,1),0.5)');
  expect(filter).toContain("b='round(255*pow(clip(1*(val/255+0.1*(1-val/255)),0,1),1))'");
});

test('a title may hold any signs', () => {
  const filter = filterOf(
    effect({ kind: 'title', text: "a:b'c,d[e]", size: 0.1, x: 0.5, y: 0.5 }),
    raster,
    files,
  );
  expect(filter).toContain('fontsize=108');
  for (const sign of [':', "'", ',', '[', ']']) expect(filter).toContain(`\\${sign}`);
});

test('one whole picture needs neither ground nor overlay', () => {
  const { text, base } = describeGraph(layersAt(0, {}), raster, files);
  expect(base).toBe(false);
  expect(text).not.toContain('overlay');
  expect(text).toContain('buffer@0=video_size=1920x1080:pix_fmt=4');
  expect(text).toMatch(/format=rgba,buffersink@out$/);
});

test('an inset lies over the picture below; alone it needs a black ground', () => {
  const inset = {
    effects: [
      effect({
        kind: 'transform',
        crop: wholePicture,
        place: { x: 0.5, y: 0, width: 0.5, height: 0.5 },
        opacity: 1,
      }),
    ],
  };
  const both = describeGraph(layersAt(0, {}, inset), raster, files);
  expect(both.base).toBe(false);
  expect(both.text).toContain('[layer0][layer1]overlay=x=960:y=0:format=gbrp');
  expect(describeGraph(layersAt(0, inset), raster, files)).toMatchObject({ base: true });
});

test('titles draw on what lies below, and a gap is the ground alone', () => {
  const title = {
    source: { kind: 'title' as const },
    effects: [effect({ kind: 'title', text: 'Tidewrack', size: 0.1, x: 0.5, y: 0.5 })],
  };
  expect(describeGraph(layersAt(0, {}, title), raster, files).text).toContain('[layer0]drawtext=');
  expect(describeGraph([], raster, files)).toMatchObject({
    base: true,
    text: expect.stringContaining('[base]format=rgba') as string,
  });
});

test('what changes from slot to slot is commanded; what does not shares its graph', () => {
  const still: Source = {
    kind: 'still',
    media: 'm',
    from: wholePicture,
    to: { x: 0.5, y: 0.5, width: 0.5, height: 0.5 },
  };
  const [first, last] = [layersAt(0, { source: still }), layersAt(99, { source: still })];
  expect(graphKey(first)).toBe(graphKey(last));
  expect(graphCommands(first).slice(2)).toEqual(
    [
      ['w', '1920'],
      ['h', '1080'],
      ['x', '0'],
      ['y', '0'],
    ].map(([command, value]) => ({ target: 'crop@view0', command, value })),
  );
  expect(
    graphCommands(last)
      .slice(2)
      .map(({ value }) => value),
  ).toEqual(['960', '540', '960', '540']);
  expect(graphCommands(layersAt(5, {}))).toEqual([]);
  const faded = layersAt(0, {}).map(({ layer, picture }) => ({ layer: { ...layer, fade: 0.25 }, picture }));
  expect(graphCommands(faded)).toEqual([{ target: 'colorchannelmixer@fade0', command: 'aa', value: '0.25' }]);
  expect(graphKey(faded)).not.toBe(graphKey(layersAt(0, {})));
});
