import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { avGetPixFmtFromName } from 'node-av/lib';
import { aheadFolder, removeAhead } from '../task/aheadFile';
import type { DeviceEncoding } from '@/core/decode/device';
import { standInTimes } from '@/core/tasks/encodeDevices';
import type { ExportSettings } from '@/core/kinds/export';
import { openDevice } from './deviceFrames';
import { provesEncoder } from './encodeProof';
import { rampFrame } from './deviceProof';
import { FrameNoter } from '../rendition/notes';
import { colourOf, outputFilter } from '../task/colour';
import { richMedia as rich, writeTestMedia } from '../testing/testMedia';
import { runExport } from '../testing/testTask';
import { streamsOf, testMedia } from '../testing/testTimelineRun';
import { workFolder } from '../testing/testTrial';

const frames = 48;
const folder = aheadFolder('test-encode-device');
afterAll(() => removeAhead(folder));

async function source() {
  const path = join(await workFolder(), 'encode-device.mov');
  await writeTestMedia(path, { ...rich, frames, width: 640, height: 360 });
  return streamsOf(await testMedia(path));
}

/** Exports on a stand-in, as the runner does: first what it gives out is made, then it is measured. */
async function onStandIn(settings: Partial<ExportSettings>, course = {}) {
  const timeline = await source();
  const made = await runExport(timeline, settings, { ahead: { folder, isMade: false }, course });
  const measured = await runExport(timeline, settings, { ahead: { folder, isMade: true }, course });
  return { made, measured };
}

test.each<[string, Partial<ExportSettings>]>([
  ['stand-in-neap', { codec: 'h264', picture: '8-bit 4:2:0' }],
  ['stand-in-spring', { codec: 'hevc', picture: '10-bit 4:2:2' }],
  ['stand-in-spring', { codec: 'av1', picture: '10-bit 4:2:0', quality: 40 }],
])('%s writes what software would have written of %o, at its own times', async (device, choice) => {
  const settings = { ...choice, device, speed: null, sound: 'aac', threads: 1 } as const;
  const { made, measured } = await onStandIn(settings);
  expect(made.end.kind).toBe('done');
  expect(made.record.made).toBeNull(); // nothing of it counts
  expect(made.progress.at(-1)).toMatchObject({ phase: 'preparing', total: frames });
  if (measured.end.kind !== 'done') throw new Error(JSON.stringify(measured.end));
  const { record } = measured;
  expect(record.proof).toMatchObject({ frames, damaged: 0, problems: [] });
  expect(record.made!.encoder).toMatch(/^(Neap|Spring) \(simulated\)$/);

  const software = await runExport(await source(), { ...settings, device: null, speed: 'fast' });
  const [given, own] = await Promise.all(
    [measured, software].map((run) => readFile(join(run.volume, run.record.made!.keptAs!))),
  );
  expect(given!.equals(own!)).toBe(true);

  const { startUs, frameUs } = standInTimes(device, choice as DeviceEncoding, { width: 640, height: 360 })!;
  const { encode } = record.windows.stages;
  const sum = (column: readonly number[]) => column.reduce((total, one) => total + one, 0);
  expect(record.made!.elapsedUs).toBeGreaterThan(startUs + frames * frameUs);
  expect(sum(encode.busyUs)).toBeGreaterThan(0.9 * (startUs + frames * frameUs));
  expect(sum(encode.coreUs)).toBeLessThan(sum(encode.busyUs) / 3);
});

test('what a stand-in gives out is of the part that is exported; without it the export says so', async () => {
  const settings = { device: 'stand-in-neap', speed: null };
  const { measured } = await onStandIn(settings, { from: 8, slots: 20 });
  expect(measured.record.proof).toMatchObject({ frames: 20, problems: [] });
  await removeAhead(folder);
  const without = await runExport(await source(), settings, { ahead: { folder, isMade: true } });
  expect(without.end).toMatchObject({
    kind: 'failed',
    message: expect.stringContaining('are gone. Start again') as string,
  });
  // Nothing is handed to software unannounced.
  const unknown = await runExport(await source(), { device: 'device-nobody', speed: null });
  expect(unknown.end).toMatchObject({
    kind: 'failed',
    message: 'nobody has no encoder for this. Choose another device, or software.',
  });
});

test('an encoder counts when a decoder makes all of its pictures again; one without its device does not', async () => {
  expect(await provesEncoder({ encoder: 'libx264', pixelFormat: 'nv12' }, null)).toBe(true);
  expect(await provesEncoder({ encoder: 'libx265', pixelFormat: 'yuv420p10le' }, null)).toBe(true);
  expect(await provesEncoder({ encoder: 'h264_vaapi', pixelFormat: 'nv12' }, null)).toBe(false);
  expect(await provesEncoder({ encoder: 'gif', pixelFormat: 'nv12' }, null)).toBe(false);
  expect(await provesEncoder({ encoder: 'nobody', pixelFormat: 'nv12' }, null)).toBe(false);
  expect(() => openDevice('nobody')).toThrow('The device nobody cannot be opened');
});

test('pictures as devices take them are looked at and told of as others', async () => {
  const noter = new FrameNoter();
  const notes = [];
  for (const format of ['yuv420p', 'nv12']) {
    const frame = rampFrame(3, avGetPixFmtFromName(format));
    notes.push(await noter.note(frame));
    frame.free();
  }
  noter.close();
  expect(notes[1]).toEqual(notes[0]);
  for (const [device, memory] of [
    ['nv12', 'yuv420p'],
    ['p210le', 'yuv422p10le'],
  ] as const) {
    expect(colourOf(device, 1080)).toEqual(colourOf(memory, 1080));
    expect(outputFilter(device, { width: 1920, height: 1080 })).toBe(
      outputFilter(memory, { width: 1920, height: 1080 }).replace(memory, device),
    );
  }
  expect(colourOf('gbrp10be', 1080)).not.toEqual(colourOf('nv12', 1080));
});
