import {
  gestureInput,
  importInput,
  loadInput,
  lookInput,
  timelineInput,
  timelineNameInput,
  timelineSaveInput,
} from './timelines';
import { timelinePlaybackInput } from '@/core/kinds/playback';
import { scrubInput } from '@/core/kinds/scrub';
import { rampInput } from '@/core/kinds/ramp';
import { costsInput } from '@/core/kinds/calibration';

const rate = { num: 24, den: 1 };

/** What is refused, and with which words: the form shows them as they are. */
const refused: readonly (readonly [string, () => Promise<unknown>, string])[] = [
  [
    'a timeline without a name',
    () => timelineInput.validate({ name: ' ', rate, width: 1920, height: 1080 }),
    'Give the timeline a name.',
  ],
  [
    'a width that is no number',
    () => timelineInput.validate({ name: 'x', rate, width: 'wide', height: 1080 }),
    'The width must be a number.',
  ],
  [
    'a height of one line',
    () => timelineInput.validate({ name: 'x', rate, width: 1920, height: 1 }),
    'At least 16 pixels high.',
  ],
  [
    'a rate that is a decimal',
    () => timelineInput.validate({ name: 'x', rate: { num: 23.976, den: 1 }, width: 1920, height: 1080 }),
    'A rate is a ratio of whole numbers.',
  ],
  [
    'a document without tracks',
    () => timelineSaveInput.validate({ revision: 1, document: { name: 'x' } }),
    'document',
  ],
  [
    'a name of three hundred letters',
    () => timelineNameInput.validate({ name: 'x'.repeat(300) }),
    'A name has at most 200 characters.',
  ],
  ['an empty file', () => importInput.validate({ fileName: 'a.edl', text: '' }), 'The file is empty.'],
  ['a look without text', () => lookInput.validate({ name: 'a.cube' }), 'The file is empty.'],
  ['a load of nothing', () => loadInput.validate({ clipIds: ['a'] }), 'Choose what to build.'],
  ['streams of no clip', () => loadInput.validate({ kind: 'streams', clipIds: [] }), 'Choose a clip.'],
  ['another rate of no timeline', () => loadInput.validate({ kind: 'conform', rate }), 'Choose a timeline.'],
  [
    'a hundred streams',
    () => loadInput.validate({ kind: 'streams', clipIds: ['a'], count: 100 }),
    'At most 64.',
  ],
  [
    'a load of no time',
    () => loadInput.validate({ kind: 'streams', clipIds: ['a'], seconds: 0 }),
    'At least half a second.',
  ],
  [
    'a scale that is none',
    () => timelinePlaybackInput.validate({ scale: 'eighth' }),
    'Choose full, half or quarter.',
  ],
  [
    'three times as fast',
    () => timelinePlaybackInput.validate({ scale: 'full', speed: 3 }),
    'Choose 1, 2, 4 or 8 times, forwards or backwards.',
  ],
  ['no time round', () => timelinePlaybackInput.validate({ scale: 'full', loops: 0 }), 'At least once.'],
  [
    'a start before the first slot',
    () => timelinePlaybackInput.validate({ scale: 'full', from: -1 }),
    'The start cannot be before the first slot.',
  ],
  [
    'half a slot',
    () => timelinePlaybackInput.validate({ scale: 'full', to: 2.5 }),
    'The end must be a whole slot.',
  ],
  [
    'media that are neither',
    () => timelinePlaybackInput.validate({ scale: 'full', read: 'copies' }),
    'Choose originals or proxies.',
  ],
  ['no gesture', () => scrubInput.validate({ clipId: 'a', gestures: [] }), 'Choose at least one gesture.'],
  [
    'a gesture that is none',
    () => scrubInput.validate({ clipId: 'a', gestures: ['wiggle'] }),
    'Choose a gesture.',
  ],
  [
    'a shuttle at once',
    () => scrubInput.validate({ clipId: 'a', gestures: ['shuttle'], speed: 1 }),
    'Shuttle at 2, 4 or 8 times, forwards or backwards.',
  ],
  ['a ramp of nothing', () => rampInput.validate({ clipId: 'a' }), 'Choose what to add.'],
  [
    'a ramp at no scale',
    () => rampInput.validate({ clipId: 'a', family: 'streams', scales: [] }),
    'Choose at least one scale.',
  ],
  [
    'a ramp in no time',
    () => rampInput.validate({ clipId: 'a', family: 'grades', seconds: 0.2 }),
    'Play each for at least 1 s.',
  ],
  [
    'threads below none',
    () => costsInput.validate({ clipId: 'a', threads: -1 }),
    'Threads cannot be negative.',
  ],
  [
    'a gesture without a name',
    () => gestureInput.validate({ name: '', slots: 10, timesMs: [0, 1], targets: [0, 1] }),
    'Give the gesture a name.',
  ],
  [
    'a gesture over one slot',
    () => gestureInput.validate({ name: 'x', slots: 1, timesMs: [0, 1], targets: [0, 0] }),
    'There is nothing to scrub over.',
  ],
];

test.each(refused)('%s is refused in words', async (_what, validate, message) => {
  await expect(validate()).rejects.toThrow(message);
});

test('what is left out is filled in as the method says', async () => {
  expect(await timelinePlaybackInput.validate({ scale: 'half' })).toEqual({
    scale: 'half',
    policy: 'hold-time',
    depth: 'kept',
    fields: 'woven',
    decodeOn: [],
    cache: 'past',
    underWay: null,
    prerendered: false,
    meanwhile: 'nothing',
    sound: 'on',
    from: 0,
    to: null,
    speed: 1,
    loops: 1,
    read: 'originals',
    volumeId: null,
    threads: 0,
    warm: false,
  });
  expect(await scrubInput.validate({ clipId: 'a', gestures: ['jumps'] })).toEqual({
    clipId: 'a',
    depth: 'kept',
    fields: 'woven',
    decodeOn: [],
    cache: 'past',
    underWay: null,
    timelineId: null,
    gestures: ['jumps'],
    gestureId: null,
    seed: 1,
    speed: 4,
    scale: 'full',
    read: 'originals',
    volumeId: null,
    threads: 0,
    warm: false,
  });
  expect(await rampInput.validate({ clipId: 'a', family: 'streams' })).toMatchObject({
    most: 16,
    seconds: 3,
    scales: ['full', 'half', 'quarter'],
    warm: false,
  });
  expect(await importInput.validate({ fileName: 'a.edl', text: 'TITLE: X' })).toMatchObject({
    rate: { num: 24, den: 1 },
  });
});
