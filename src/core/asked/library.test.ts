import { clipActionInput } from './library';
import { decodeRateInput } from '@/core/kinds/decodeRate';
import { decodeSupportInput } from '@/core/kinds/decodeSupport';
import { decodeStreamsInput } from '@/core/kinds/decodeStreams';
import { renditionInput } from '@/core/kinds/renditions';

/** What is refused, and with which words: the form shows them as they are. */
const refused: readonly (readonly [string, () => Promise<unknown>, string])[] = [
  [
    'no clip chosen',
    () => clipActionInput.validate({ action: 'group', clipIds: [] }),
    'Choose at least one clip.',
  ],
  [
    'an action that is none',
    () => clipActionInput.validate({ action: 'burn', clipIds: ['a'] }),
    '“action” is one of group, take-out',
  ],
  [
    'too many clips',
    () => decodeRateInput.validate({ clipIds: Array.from({ length: 10_001 }, (_, index) => String(index)) }),
    'At most 10 000 clips at once.',
  ],
  [
    'a pass without length',
    () => decodeRateInput.validate({ clipIds: ['a'], passSeconds: 0 }),
    'A pass takes at least 0.2 s.',
  ],
  [
    'a pass that is no number',
    () => decodeRateInput.validate({ clipIds: ['a'], passSeconds: 'long' }),
    'The length of a pass must be a number.',
  ],
  [
    'half a pass',
    () => decodeRateInput.validate({ clipIds: ['a'], passes: 1.5 }),
    'Passes must be a whole number.',
  ],
  ['two pairs', () => decodeSupportInput.validate({ mostPairs: 2 }), 'At least 3 pairs.'],
  ['streams of no clip', () => decodeStreamsInput.validate({}), 'Choose a clip.'],
  [
    'no stream at all',
    () => decodeStreamsInput.validate({ clipId: 'a', mostStreams: 0 }),
    'At least one stream.',
  ],
  [
    'more streams than threads',
    () => decodeStreamsInput.validate({ clipId: 'a', mostStreams: 1_000 }),
    'At most 48 streams.',
  ],
  [
    'a scale that is none',
    () => decodeStreamsInput.validate({ clipId: 'a', scale: 'eighth' }),
    'Choose full, half or quarter.',
  ],
  [
    'a rate over nothing',
    () => decodeStreamsInput.validate({ clipId: 'a', rate: { num: 25, den: 0 } }),
    '“rate.den” is at least 1.',
  ],
  [
    'a preset that is none',
    () => renditionInput.validate({ clipIds: ['a'], volumeId: 'v', presetId: 'best' }),
    'Choose a preset.',
  ],
  ['no volume', () => renditionInput.validate({ clipIds: ['a'], presetId: 'mjpeg' }), 'Choose a volume.'],
  [
    'no lane',
    () => renditionInput.validate({ clipIds: ['a'], volumeId: 'v', presetId: 'mjpeg', lanes: 0 }),
    'At least one at a time.',
  ],
];

test.each(refused)('%s is refused in words', async (_what, validate, message) => {
  await expect(validate()).rejects.toThrow(message);
});

test('what is left out is filled in as the method says', async () => {
  expect(await decodeRateInput.validate({ clipIds: ['a'] })).toEqual({
    clipIds: ['a'],
    passSeconds: 2,
    passes: 3,
  });
  expect(await decodeSupportInput.validate({})).toEqual({
    clipIds: [],
    deviceIds: [],
    passSeconds: 1,
    mostPairs: 15,
  });
  expect(await decodeStreamsInput.validate({ clipId: 'a' })).toEqual({
    clipId: 'a',
    decodeOn: [],
    depth: 'kept',
    scale: 'full',
    rate: null,
    seconds: 4,
    mostStreams: 16,
  });
  expect(await renditionInput.validate({ clipIds: ['a'], volumeId: 'v', presetId: 'mjpeg' })).toEqual({
    clipIds: ['a'],
    volumeId: 'v',
    presetId: 'mjpeg',
    raster: 'full',
    folder: 'proxies',
    lanes: null,
  });
});
