import { deviceRaster } from './deviceRaster';
import type { Effect, Item } from './model';

const uhd = { width: 3_840, height: 2_160 };
const raster = { width: 960, height: 540 };
const whole = { x: 0, y: 0, width: 1, height: 1 };
const item = (effects: Effect[], kind: 'clip' | 'still' = 'clip') =>
  ({ source: { kind }, effects }) as unknown as Item;
const transform = (change: Partial<Extract<Effect, { kind: 'transform' }>>): Effect => ({
  id: 't',
  on: true,
  kind: 'transform',
  crop: whole,
  place: whole,
  opacity: 1,
  ...change,
});

test.each<[string, Item | null, { width: number; height: number } | null]>([
  ['a clip by itself fills the raster', null, raster],
  ['an item without effects too', item([]), raster],
  [
    'a smaller place needs less',
    item([transform({ place: { x: 0.5, y: 0, width: 0.5, height: 0.5 } })]),
    { width: 480, height: 270 },
  ],
  [
    'one that was switched off places nothing',
    item([transform({ on: false, crop: { ...whole, width: 0.5 } })]),
    raster,
  ],
  ['what is cut out comes whole', item([transform({ crop: { ...whole, width: 0.5 } })]), null],
  ['a still that is moved over comes whole', item([], 'still'), null],
])('%s', (_, of, expected) => expect(deviceRaster(of, uhd, raster)).toEqual(expected));

test('a picture of another shape fills its place both ways, in even pixels', () => {
  const found = deviceRaster(null, { width: 2_048, height: 858 }, raster)!;
  expect(found.height).toBe(540);
  expect(found.width).toBeGreaterThanOrEqual(raster.width);
  expect(found.width % 2).toBe(0);
  expect(found.width / found.height).toBeCloseTo(2_048 / 858, 2);
});

test('a raster that was rounded is met exactly, so that nothing is left to scale', () => {
  expect(deviceRaster(null, { width: 480, height: 270 }, { width: 120, height: 68 })).toEqual({
    width: 120,
    height: 68,
  });
});

test('nothing is made larger, nor brought to its own size', () => {
  expect(deviceRaster(null, raster, uhd)).toBeNull();
  expect(deviceRaster(null, uhd, uhd)).toBeNull();
});
