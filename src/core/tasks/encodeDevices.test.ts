import type { DeviceReport } from '../decode/device';
import { deviceName, standInDevices } from '../decode/standIns';
import { rational } from '../time/rational';
import {
  deviceProblem,
  encodersOfKind,
  isStandInEncoder,
  standInEncodings,
  standInTimes,
  taskEncoder,
} from './encodeDevices';
import { deliveries, encoderTold, type ExportChoice } from './exportCodecs';

const choice: ExportChoice = { ...deliveries[0]!.choice, speed: null };
const hd = { width: 1920, height: 1080 };
const report = (id: string, change: Partial<DeviceReport> = {}): DeviceReport => ({
  id,
  name: id,
  simulated: isStandInEncoder(id),
  usable: true,
  about: '',
  encodes: standInEncodings(id),
  ...change,
});

test.each(standInDevices.map(({ id }) => id))('%s takes what its table says, in its time', (id) => {
  const encodings = standInEncodings(id);
  expect(encodings.length).toBeGreaterThan(0);
  for (const encoding of encodings) {
    expect(deviceProblem(report(id), { ...choice, ...encoding }, hd)).toBeNull();
    const [small, large] = [{ width: 960, height: 540 }, hd].map((raster) =>
      standInTimes(id, encoding, raster)!,
    );
    expect(small!.frameUs).toBeGreaterThan(0);
    expect(large!.frameUs).toBeGreaterThan(1.5 * small!.frameUs);
    expect(large!.startUs).toBe(small!.startUs);
  }
});

test('the newer stand-in is the faster one', () => {
  const [neap, spring] = standInDevices.map(({ id }) => standInTimes(id, choice, hd)!);
  expect(spring!.frameUs).toBeLessThan(neap!.frameUs / 2);
});

test.each<[string, DeviceReport | undefined, Partial<ExportChoice>, typeof hd, string, RegExp]>([
  ['a device that is gone', undefined, {}, hd, 'device', /no such encode device/],
  ['one that only decodes', report('device-vaapi'), {}, hd, 'device', /encodes nothing/],
  [
    'another codec',
    report('stand-in-neap'),
    { codec: 'prores' },
    hd,
    'device',
    /does not encode ProRes\. Choose another codec/,
  ],
  [
    'other pictures',
    report('stand-in-neap'),
    { picture: '10-bit 4:2:0' },
    hd,
    'device',
    /encodes H\.264 as 8-bit 4:2:0\. Choose that/,
  ],
  [
    'more pixels',
    report('stand-in-neap'),
    {},
    { width: 8192, height: 4320 },
    'device',
    /8192x4320 is more than/,
  ],
  ['a speed', report('stand-in-spring'), { speed: 'fast' }, hd, 'speed', /no choice of speed/],
])('%s is refused with the field at fault', (_, device, change, raster, field, message) => {
  const problem = deviceProblem(device, { ...choice, ...change }, raster);
  expect(problem).toMatchObject({ field });
  expect(problem!.message).toMatch(message);
});

test('software is told as ever, a stand-in as the software whose pictures it gives out, a real device as its own encoder', () => {
  const rate = rational(25);
  expect(taskEncoder(choice, rate, null)).toEqual({ ...encoderTold(choice, rate), device: null });
  expect(taskEncoder(choice, rate, 'stand-in-neap')).toEqual({
    ...encoderTold({ ...choice, speed: 'fast' }, rate),
    device: null,
  });
  expect(taskEncoder(choice, rate, 'device-vaapi')).toMatchObject({
    encoder: 'h264_vaapi',
    pixelFormat: 'nv12',
    keyDistance: 50,
    options: { rc_mode: 'CQP', qp: '24' },
    device: { kind: 'vaapi', onDevice: true },
  });
  const byRate: ExportChoice = {
    ...choice,
    codec: 'hevc',
    picture: '10-bit 4:2:0',
    control: 'rate',
    megabits: 8,
  };
  expect(taskEncoder(byRate, rate, 'device-cuda')).toMatchObject({
    encoder: 'hevc_nvenc',
    pixelFormat: 'p010le',
    options: { b: '8000000', maxrate: '8000000', bufsize: '8000000' },
    device: { kind: 'cuda', onDevice: false },
  });
  expect(encodersOfKind('drm')).toEqual([]);
});

test('a device is named as the system names it, and one that is made up says so', () => {
  expect(['stand-in-neap', 'device-vaapi', null].map(deviceName)).toEqual([
    'Neap (simulated)',
    'vaapi',
    'software',
  ]);
});
