import { AV_LOG_QUIET, AV_PIX_FMT_GRAY8, AV_PIX_FMT_YUV420P, type AVPixelFormat } from 'node-av/constants';
import { Log, type HardwareDeviceContext } from 'node-av/lib';
import { DeviceFrames, openDevice } from './deviceFrames';
import { DeviceScaler } from './deviceScaler';
import { proofHeight, proofWidth, rampFrame } from './deviceProof';

/** A device that any host has by Debian's packages: it computes on the processor, and takes the way of all others. */
const name = 'opencl';
let context: HardwareDeviceContext;
beforeAll(() => {
  Log.setLevel(AV_LOG_QUIET);
  context = openDevice(name);
});
afterAll(() => context.free());

const small = { width: proofWidth / 2, height: proofHeight / 2 };

/** Pictures on the device, by their number. */
function onDevice(pixelFormat: AVPixelFormat) {
  const frames = DeviceFrames.on(
    context,
    { codec: 'h264', kind: name, encoder: '', onDevice: true } as unknown as Parameters<
      typeof DeviceFrames.on
    >[1],
    { width: proofWidth, height: proofHeight, pixelFormat },
  );
  return async (number: number) => {
    const here = rampFrame(number, pixelFormat);
    const there = await frames.put(here);
    return { here, there };
  };
}

test('a device scales its pictures and brings the small ones to memory: each its own, under its own number', async () => {
  const put = onDevice(AV_PIX_FMT_YUV420P);
  const scaler = (await DeviceScaler.open({ name, context }, (await put(0)).there, small))!;
  for (const number of [3, 4, 9]) {
    const { here, there } = await put(number);
    expect(there.isHwFrame()).toBe(true);
    const picture = (await scaler.scaled(there))!;
    expect(picture).toMatchObject({ ...small, format: AV_PIX_FMT_YUV420P, pts: BigInt(number) });
    expect(picture.isHwFrame()).toBe(false);
    // The ramp rises by one a pixel: half as large it rises by two.
    const [whole, half] = [here.data![0]!, picture.data![0]!];
    for (let at = 1; at < 90; at++) expect(Math.abs(half[at]! - whole[2 * at]!)).toBeLessThanOrEqual(2);
    for (const frame of [here, there, picture]) frame.free();
  }
  scaler.free();
});

test('what the device does not scale, or nothing scales, comes whole', async () => {
  const { there } = await onDevice(AV_PIX_FMT_GRAY8)(1);
  expect(await DeviceScaler.open({ name, context }, there, small)).toBeNull();
  expect(await DeviceScaler.open({ name: 'drm', context }, there, small)).toBeNull();
  expect(await DeviceScaler.open({ name, context }, rampFrame(1), small)).toBeNull();
  there.free();
});
