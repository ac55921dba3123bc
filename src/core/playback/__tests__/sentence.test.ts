import { stageBit } from '../attribute';
import { isDisturbed, disturbingLoad } from '../disturbance';
import { answerSentence, chargeLabel, cureSentence, groupDigits, lateLabel } from '../sentence';
import type { PlaybackSummary } from '../summary';

const plain = (text: string) => text.replaceAll('\u2009', ' ');

function summary(change: Partial<PlaybackSummary> & { charges?: Record<number, number> } = {}): PlaybackSummary {
  const { charges = {}, ...rest } = change;
  return {
    slots: 1200, shown: 1200, late: 0, dropped: 0, wrong: 0, grade: 'solid', firstDropSlot: null, longestGapSlots: 0, dropsPerMinute: 0, achievedRate: 24, timesRealTime: null, pacingMs: null,
    serviceMs: { read: 1, decode: 1, process: 1 }, cures: [], attribution: { countByCharge: charges, dropped: rest.dropped ?? 0, agreement: 1, policyAgreement: 1, droppedWhenFree: {} }, ...rest,
  };
}

test.each([
  [summary(), 'All 1 200 slots were shown.'],
  [summary({ late: 3 }), 'All 1 200 slots were shown, 3 of them late.'],
  [summary({ dropped: 46, charges: { [stageBit.read]: 44, [stageBit.decode]: 2 } }), '46 of 1 200 slots dropped; the volume was late for 44, decoding was late for 2.'],
  [summary({ dropped: 1, slots: 24, charges: { [stageBit.present]: 1 } }), '1 of 24 slots dropped; the presenter was late for 1.'],
  [summary({ dropped: 5, charges: { [stageBit.decode | stageBit.process]: 5 } }), '5 of 1 200 slots dropped; decoding and processing together were late for 5.'],
  [summary({ wrong: 2 }), 'All 1 200 slots were shown. 2 slots showed a wrong frame.'],
  [summary({ timesRealTime: 3.456, achievedRate: 82.94 }), "Every frame was shown at 82.9 frames per second: 3.46x the clip's 24."],
])('the answer is one sentence (%#)', (given, sentence) => {
  expect(plain(answerSentence(given, 24))).toBe(sentence);
});

test('charges name who was late, alone or together', () => {
  expect(chargeLabel(stageBit.read)).toBe('the volume');
  expect(lateLabel(stageBit.read | stageBit.decode | stageBit.process)).toBe('the volume, decoding and processing together were late');
  expect(chargeLabel(0)).toBe('nothing');
});

test.each([
  [{ kind: 'scale', scale: 'half', removes: 41, of: 46 }, 'Half scale would have removed 41 of 46 drops.'],
  [{ kind: 'scale', scale: 'quarter', removes: 1, of: 1 }, 'Quarter scale would have removed all 1 drop.'],
  [{ kind: 'volume', bytesPerSecond: 262_500_000, removes: 46, of: 46 }, 'A volume that sustains 262.5 MB/s would have removed all 46 drops.'],
  [{ kind: 'faster', stage: 'decode', factor: 1.841, removes: 40, of: 46 }, 'Decoding 1.85x as fast would have removed 40 of 46 drops.'],
  [{ kind: 'processor', factor: 12.61, removes: 2000, of: 2001 }, 'A processor that decodes and processes 12.7x as fast would have removed 2 000 of 2 001 drops.'],
] as const)('a cure says what it removes, and never promises with too small a factor (%#)', (cure, sentence) => {
  expect(plain(cureSentence(cure))).toBe(sentence);
});

test('digits are grouped by threes', () => {
  expect([0, 999, 1000, 1_234_567].map((value) => plain(groupDigits(value)))).toEqual(['0', '999', '1 000', '1 234 567']);
});

test('a run is disturbed by the mean load of others, not by a peak', () => {
  expect(isDisturbed(null)).toBe(false);
  expect(isDisturbed({ othersMean: disturbingLoad })).toBe(false);
  expect(isDisturbed({ othersMean: disturbingLoad + 0.01 })).toBe(true);
});
