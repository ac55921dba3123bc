import { defaultBufferDepths } from '../playback/slots';
import { settingConditions } from './kinds';
import type { PlaybackSettings } from '../playback/settings';
import type { TimelineTrialSettings } from './shared/timeline';
import type { DecodeSettings } from './shared/decode';
import type { StorageSettings } from './shared/storage';

const playbackConditions = (settings: PlaybackSettings) => settingConditions({ kind: 'playback', settings });
/** Of settings that name their kind. */
const conditions = (settings: StorageSettings | DecodeSettings | TimelineTrialSettings) =>
  settingConditions({ kind: settings.kind, settings });

const playback: PlaybackSettings = {
  scale: 'full',
  policy: 'hold-time',
  threads: 0,
  warm: false,
  processing: true,
  buffers: defaultBufferDepths,
  slotLimit: null,
  faults: [],
};
const throughput: StorageSettings = {
  kind: 'throughput',
  test: 'frame-paced',
  blockBytes: 4_096,
  bytes: 1e6,
  seconds: 2,
  repeats: 3,
  streams: 1,
  clipId: 'c',
  clipPath: 'a.mov',
};
const common = { threads: 0, warm: false };

/** What changes of the conditions with a setting. */
function changed<Settings extends object>(
  tell: (settings: Settings) => Record<string, string>,
  settings: Settings,
  change: Partial<Settings>,
): string[] {
  const [before, after] = [tell(settings), tell({ ...settings, ...change })];
  return [...new Set([...Object.keys(before), ...Object.keys(after)])].filter(
    (name) => before[name] !== after[name],
  );
}

test.each<[Partial<PlaybackSettings>, string]>([
  [{ scale: 'half' }, 'Playback scale'],
  [{ policy: 'every-frame' }, 'Late frames'],
  [{ threads: 2 }, 'Decoder threads'],
  [{ warm: true }, 'System cache'],
  [{ processing: false }, 'Processing'],
  [{ buffers: { ...defaultBufferDepths, ready: 1 } }, 'Buffers'],
  [{ slotLimit: 48 }, 'Played slots'],
  [{ faults: [{ stage: 'read', slot: 4, slots: 1 }] }, 'Injected faults'],
])('playback with %o differs in one condition', (change, name) => {
  expect(changed(playbackConditions, playback, change)).toEqual([name]);
});

test.each<[Partial<StorageSettings>, string[]]>([
  [{ streams: 8 }, ['Streams']],
  [{ blockBytes: 8_192 }, ['Block']],
  [{ bytes: 2e6 }, ['Length']],
  [{ seconds: 9 }, ['Length']],
  [{ repeats: 1 }, ['Repeats in a trial']],
  [{ clipPath: 'b.mov' }, ['Reads']],
  [{ clipPath: null }, ['Reads']],
])('a frame-paced test with %o is another one', (change, names) => {
  expect(changed<StorageSettings>(conditions, throughput, change)).toEqual(names);
});

test('readers side by side are told of frame-paced tests, which alone have them', () => {
  expect(conditions({ ...throughput, streams: 8 })).toMatchObject({ Streams: '8' });
  expect(conditions({ ...throughput, test: 'sequential-read', streams: 8 })).toMatchObject({
    Streams: '1',
  });
});

test('every setting of the other kinds that can matter is told', () => {
  const scrub: TimelineTrialSettings = {
    ...common,
    kind: 'scrub',
    scale: 'full',
    gesture: { kind: 'jumps', seed: 1, speed: 4 },
  };
  for (const [gesture, name] of [
    [{ kind: 'jumps', seed: 2, speed: 4 }, 'Gesture'],
    [{ kind: 'jumps', seed: 1, speed: 8 }, 'Gesture'],
    [{ kind: 'recorded', gestureId: 'g', name: 'mine' }, 'Gesture'],
  ] as const)
    expect(changed<TimelineTrialSettings>(conditions, scrub, { gesture })).toEqual([name]);
  const ramp: TimelineTrialSettings = {
    ...common,
    kind: 'ramp',
    family: 'streams',
    most: 8,
    seconds: 2,
    scales: ['full'],
  };
  for (const change of [
    { family: 'grades' },
    { most: 9 },
    { seconds: 3 },
    { scales: ['full', 'half'] },
    { threads: 1 },
    { warm: true },
  ] as Partial<TimelineTrialSettings>[])
    expect(changed<TimelineTrialSettings>(conditions, ramp, change)).toHaveLength(1);
  expect(
    changed<TimelineTrialSettings>(conditions, { ...common, kind: 'calibration' }, { threads: 3 }),
  ).toEqual(['Decoder threads']);
  const streams: DecodeSettings = {
    kind: 'decode-streams',
    rate: { num: 25, den: 1 },
    scale: 'full',
    seconds: 2,
    mostStreams: 4,
  };
  for (const change of [
    { rate: { num: 50, den: 1 } },
    { scale: 'half' },
    { seconds: 3 },
    { mostStreams: 5 },
  ] as Partial<DecodeSettings>[])
    expect(changed<DecodeSettings>(conditions, streams, change)).toHaveLength(1);
  expect(
    changed<DecodeSettings>(
      conditions,
      { kind: 'decode-rate', passSeconds: 1, passes: 3 },
      { passSeconds: 2 },
    ),
  ).toEqual(['Length of a pass']);
  // The same figure, surer: no other condition.
  expect(
    changed<DecodeSettings>(conditions, { kind: 'decode-rate', passSeconds: 1, passes: 3 }, { passes: 9 }),
  ).toEqual([]);
  const copy: StorageSettings = { kind: 'copy', folder: '', destinations: [], verify: true };
  for (const change of [
    { folder: 'A' },
    { verify: false },
    { destinations: [{ volumeId: 'v', volumeName: 'Pair', folder: 'x', simulated: false }] },
  ] as Partial<StorageSettings>[])
    expect(changed<StorageSettings>(conditions, copy, change)).toHaveLength(1);
});
