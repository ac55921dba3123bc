import { causeBit } from '../playback/attribute';
import { disturbanceOf, disturbingLoad } from '../rig/disturbance';
import { count } from '../format';
import { answerSentence, causeLabel, chargeLabel, cureSentence } from './playback';
import type { PlaybackSummary } from '../playback/summary';

const plain = (text: string) => text.replaceAll('\u2009', ' ');

function summary(
  change: Partial<PlaybackSummary> & { charges?: Record<number, number> } = {},
): PlaybackSummary {
  const { charges = {}, ...rest } = change;
  return {
    slots: 1200,
    shown: 1200,
    late: 0,
    dropped: 0,
    wrong: 0,
    grade: 'solid',
    firstDropSlot: null,
    longestGapSlots: 0,
    dropsPerMinute: 0,
    achievedRate: 24,
    timesRealTime: null,
    pacingMs: null,
    serviceMs: { read: 1, decode: 1, process: 1 },
    cures: [],
    attribution: {
      countByCharge: charges,
      dropped: rest.dropped ?? 0,
      agreement: 1,
      policyAgreement: 1,
      droppedWhenFree: {},
    },
    ...rest,
  };
}

test.each([
  [summary(), 'All 1 200 slots were shown.'],
  [summary({ late: 3 }), 'All 1 200 slots were shown, 3 of them late.'],
  [
    summary({ dropped: 46, charges: { [causeBit.read]: 44, [causeBit.decode]: 2 } }),
    '46 of 1 200 slots dropped; the volume was late for 44, decoding was late for 2.',
  ],
  [
    summary({ dropped: 1, slots: 24, charges: { [causeBit.present]: 1 } }),
    '1 of 24 slots dropped; the presenter was late for 1.',
  ],
  [
    summary({ dropped: 5, charges: { [causeBit.decode | causeBit.process]: 5 } }),
    '5 of 1 200 slots dropped; decoding and processing together were late for 5.',
  ],
  [
    summary({ dropped: 5, charges: { [causeBit.media]: 2, [causeBit.process]: 3 } }),
    '5 of 1 200 slots dropped; processing was late for 3, the media could not be decoded for 2.',
  ],
  [
    summary({ doubtful: 1 }),
    'All 1 200 slots were shown. 1 picture is concealed or built on a frame that is missing.',
  ],
  [
    summary({ wrong: 5, doubtful: 6, doubtfulWrong: 4 }),
    'All 1 200 slots were shown. 1 slot showed a wrong frame. 6 pictures are concealed or built on a frame that is missing, 4 of them provably another frame.',
  ],
  [summary({ wrong: 2 }), 'All 1 200 slots were shown. 2 slots showed a wrong frame.'],
  [
    summary({ timesRealTime: 3.456, achievedRate: 82.94 }),
    "Every frame was shown at 82.9 frames per second: 3.46x the clip's 24.",
  ],
])('the answer is one sentence (%#)', (given, sentence) => {
  expect(plain(answerSentence(given, 24))).toBe(sentence);
});

test('charges name who was late, alone or together', () => {
  expect(chargeLabel(causeBit.read)).toBe('the volume');
  expect(causeLabel(causeBit.read | causeBit.decode | causeBit.process)).toBe(
    'the volume, decoding and processing together were late',
  );
  expect(chargeLabel(0)).toBe('nothing');
});

test.each([
  [{ kind: 'scale', scale: 'half', removes: 41, of: 46 }, 'Half scale would have removed 41 of 46 drops.'],
  [{ kind: 'scale', scale: 'quarter', removes: 1, of: 1 }, 'Quarter scale would have removed all 1 drop.'],
  [
    { kind: 'volume', bytesPerSecond: 262_500_000, removes: 46, of: 46 },
    'A volume that sustains 262.5\u202fMB/s would have removed all 46 drops.',
  ],
  [
    { kind: 'faster', stage: 'decode', factor: 1.841, removes: 40, of: 46 },
    'Decoding 1.85x as fast would have removed 40 of 46 drops.',
  ],
  [
    { kind: 'processor', factor: 12.61, removes: 2000, of: 2001 },
    'A processor that decodes and processes 12.7x as fast would have removed 2 000 of 2 001 drops.',
  ],
] as const)(
  'a cure says what it removes, and never promises with too small a factor (%#)',
  (cure, sentence) => {
    expect(plain(cureSentence(cure))).toBe(sentence);
  },
);

test('digits are grouped by threes', () => {
  expect([0, 999, 1000, 1_234_567].map((value) => plain(count(value)))).toEqual([
    '0',
    '999',
    '1 000',
    '1 234 567',
  ]);
});

test('a run is disturbed by the mean load of others, not by a peak', () => {
  expect(disturbanceOf(null)).toBeNull();
  expect(disturbanceOf({ othersMean: disturbingLoad })).toBeNull();
  expect(disturbanceOf({ othersMean: disturbingLoad + 0.01 })).toContain('of all cores');
});
