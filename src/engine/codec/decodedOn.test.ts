import type { DeviceUse } from '@/core/decode/decoding';
import { frameTimeUs, standInDevices, supportFor, type StandInDevice } from '@/core/decode/standIns';
import { slotState } from '@/core/playback/slots';
import { smallLongGop, smallTenBit } from '@/demo/smallClips';
import { runTrial, smallClip, startProcess, type TestRun } from '../testing/testTrial';
import { runTimeline, streamsOf, testMedia } from '../testing/testTimelineRun';
import type { TimelineTrialRecord } from '@/core/kinds/shared/timeline';

const standIn = (name: 'neap' | 'spring', share = 1): DeviceUse => ({
  deviceId: `stand-in-${name}`,
  name: name === 'neap' ? 'Neap' : 'Spring',
  simulated: true,
  share,
});
const processor = (share = 1): DeviceUse => ({
  deviceId: 'software',
  name: 'software',
  simulated: false,
  share,
});

/** Slots that showed a wrong frame than their own. */
const wrong = ({ trace }: Pick<TestRun, 'trace'>) =>
  [...trace.state].filter((state) => state === slotState.wrong);

test('a clip decoded on a stand-in shows its own pictures, proved, and says that they came from the device', async () => {
  const run = await runTrial(await smallClip(smallLongGop), {
    settings: { decoding: [standIn('neap')], scale: 'quarter', policy: 'every-frame' },
  });
  expect(run.end.kind).toBe('done');
  expect(run.conditions?.decoder).toBe('Neap (simulated)');
  expect(run.findings?.frameCode).toBe(true);
  expect(wrong(run)).toEqual([]);
  expect(run.trace.state.every((state) => state === slotState.shown)).toBe(true);
  const frames = run.probed.packets.length;
  expect(run.streams).toEqual([
    {
      item: '',
      track: 0,
      clip: '',
      device: 0,
      decoder: 'Neap (simulated)',
      frames,
      onDevice: frames,
      scaled: 0,
    },
  ]);
});

test('a device that scales brings small pictures to memory, which prove their frames as well', async () => {
  const path = await smallClip(smallLongGop);
  const played = (scale: 'full' | 'half', decoding: readonly DeviceUse[]) =>
    runTrial(path, { settings: { decoding, scale, policy: 'every-frame' } });
  const scaling: DeviceUse = { ...standIn('neap'), frames: 'scaled' };
  const half = await played('half', [scaling]);
  expect(half.end.kind).toBe('done');
  expect(half.findings?.frameCode).toBe(true);
  expect(wrong(half)).toEqual([]);
  const frames = half.probed.packets.length;
  expect(half.streams).toMatchObject([{ frames, onDevice: frames, scaled: frames }]);
  // Shown as large as it is, there is nothing to scale.
  expect((await played('full', [scaling])).streams).toMatchObject([{ onDevice: frames, scaled: 0 }]);
  // Nor is there for the processor.
  expect((await played('half', [processor()])).streams).toMatchObject([{ onDevice: 0, scaled: 0 }]);
});

test('of what is cut out of a picture the device scales nothing; what falls back is scaled by the processor', async () => {
  const scaling: DeviceUse = { ...standIn('neap'), frames: 'scaled' };
  const source = streamsOf(await testMedia(await smallClip(smallLongGop)), 2);
  const [below, above] = source.timeline.tracks;
  const cut = {
    id: 'cut',
    on: true,
    kind: 'transform' as const,
    crop: { x: 0, y: 0, width: 0.5, height: 1 },
    place: { x: 0.5, y: 0, width: 0.5, height: 1 },
    opacity: 1,
  };
  const tracks = [below!, { ...above!, items: above!.items.map((item) => ({ ...item, effects: [cut] })) }];
  const run = await runTimeline(
    { ...source, timeline: { ...source.timeline, tracks } },
    {},
    { decoding: [scaling], policy: 'every-frame', scale: 'half' },
  );
  expect(run.end.kind).toBe('done');
  expect(wrong(run)).toEqual([]);
  const [whole, part] = run.streams;
  expect(whole!.scaled).toBe(whole!.onDevice);
  expect(part).toMatchObject({ scaled: 0, onDevice: part!.frames });
  const fallen = await runTrial(await smallClip(smallTenBit), {
    settings: { decoding: [scaling], scale: 'quarter', policy: 'every-frame' },
  });
  expect(fallen.end.kind).toBe('done');
  expect(fallen.streams).toMatchObject([{ onDevice: 0, scaled: 0 }]);
  expect(wrong(fallen)).toEqual([]);
});

test('what the device does not take falls back to software without a word, and the result says so', async () => {
  const run = await runTrial(await smallClip(smallTenBit), {
    settings: { decoding: [standIn('neap')], policy: 'every-frame' },
  });
  expect(run.end.kind).toBe('done');
  expect(run.conditions?.decoder).toBe('prores');
  expect(run.streams).toMatchObject([{ decoder: 'prores', frames: run.probed.packets.length, onDevice: 0 }]);
  expect(wrong(run)).toEqual([]);
});

test('a run is no faster than its device', async () => {
  const path = await smallClip(smallLongGop);
  const run = await runTrial(path, {
    settings: { decoding: [standIn('neap')], policy: 'every-frame', processing: false, warm: true },
  });
  const neap = standInDevices.find(({ id }) => id === 'stand-in-neap') as StandInDevice;
  const { format } = run.probed;
  const line = supportFor(neap, format)!;
  const [first, last] = [run.trace.presentedAt[0]!, run.trace.presentedAt.at(-1)!];
  // Waits are kept to less than a millisecond; the first frames are read ahead of the first presentation.
  expect(last - first).toBeGreaterThan(0.9 * (run.trace.length - 12) * frameTimeUs(neap, line, format));
});

test('streams are shared out as asked, each shows its own pictures, and the result says which drew which', async () => {
  const media = await testMedia(await smallClip(smallLongGop));
  const run = await runTimeline(
    streamsOf(media, 3),
    {},
    { decoding: [standIn('spring', 2), processor()], policy: 'every-frame', scale: 'quarter' },
  );
  expect(run.end.kind).toBe('done');
  expect(run.conditions?.decoder).toBe('Spring (simulated) x2, h264');
  expect(run.streams.map(({ device }) => device)).toEqual([0, 1, 0]);
  for (const { device, frames, onDevice, clip } of run.streams) {
    expect(clip).toBe(media.ref.name);
    expect(frames).toBe(media.probed.packets.length);
    expect(onDevice).toBe(device === 0 ? frames : 0);
  }
  expect(run.streams.map(({ track }) => track)).toEqual([0, 1, 2]);
  expect(wrong(run)).toEqual([]);
  expect(run.findings?.frameCode).toBe(true);
});

test('eight times forwards, frames that are decoded for others’ sake only take the device’s time and show nothing', async () => {
  const media = await testMedia(await smallClip(smallLongGop));
  const run = await runTimeline(
    streamsOf(media),
    { speed: 8 },
    { decoding: [standIn('neap')], policy: 'every-frame', scale: 'quarter' },
  );
  expect(run.end.kind).toBe('done');
  expect(wrong(run)).toEqual([]);
  expect(run.trace.state.every((state) => state === slotState.shown)).toBe(true);
  expect(run.streams[0]!.frames).toBeGreaterThan(run.trace.length);
});

test('a scrub and a ramp are decoded on the device too', async () => {
  const source = streamsOf(await testMedia(await smallClip(smallLongGop)));
  const record = async (settings: Parameters<typeof startProcess<'timeline'>>[1]['settings']) => {
    let told: Partial<TimelineTrialRecord> = {};
    const gesture =
      settings.kind === 'scrub'
        ? { kind: 'recorded' as const, slots: 120, timesMs: [0, 400, 800], targets: [30, 29, 100] }
        : null;
    const host = await startProcess(
      'timeline',
      { source, settings, gesture },
      {
        record: (message) => {
          told = { ...told, ...message.record };
        },
      },
      90_000,
    );
    expect((await host.ended).kind).toBe('done');
    return told;
  };
  const common = { threads: 1, warm: true, decoding: [standIn('neap')] };
  const scrubbed = await record({
    ...common,
    kind: 'scrub',
    scale: 'quarter',
    gesture: { kind: 'recorded', gestureId: '', name: '' },
  });
  const shown = scrubbed.requests!.filter(({ end }) => end === 'shown');
  expect(shown.length).toBeGreaterThan(0);
  for (const { wanted, proved, target } of shown) expect([wanted, proved]).toEqual([target, target]);
  expect(scrubbed.streams).toMatchObject([{ decoder: 'Neap (simulated)' }]);
  expect(scrubbed.streams![0]!.onDevice).toBe(scrubbed.streams![0]!.frames);

  const ramped = await record({
    ...common,
    kind: 'ramp',
    family: 'streams',
    most: 2,
    seconds: 1,
    scales: ['quarter'],
  });
  expect(ramped.probes!.length).toBeGreaterThan(0);
  expect(ramped.streams!.length).toBe(Math.max(...ramped.probes!.map(({ level }) => level)));
  for (const { frames, onDevice } of ramped.streams!) expect(onDevice).toBe(frames);
});
