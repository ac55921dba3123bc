import { chargesByDrops, stagesOf } from './attribute';
import type { Cure } from './cures';
import type { Stage } from './slots';
import type { PlaybackSummary } from './summary';

const subjects: Record<Stage, string> = { read: 'the volume', decode: 'decoding', process: 'processing', present: 'the presenter' };

/** Groups digits by threes with a thin space: 1 200. */
export function groupDigits(value: number): string {
  return String(Math.round(value)).replace(/\B(?=(\d{3})+(?!\d))/g, '\u2009');
}

function slots(count: number): string {
  return `${groupDigits(count)} ${count === 1 ? 'slot' : 'slots'}`;
}

/** A charge in words: "decoding", "the volume and processing together". */
export function chargeLabel(charge: number): string {
  const names = stagesOf(charge).map((stage) => subjects[stage]);
  return names.length > 1 ? `${names.slice(0, -1).join(', ')} and ${names.at(-1)} together` : (names[0] ?? 'nothing');
}

/** Who was late, in words: "decoding was late", "the volume and processing together were late". */
export function lateLabel(charge: number): string {
  return `${chargeLabel(charge)} ${stagesOf(charge).length > 1 ? 'were' : 'was'} late`;
}

/** The answer of a playback trial in a sentence. */
export function answerSentence(summary: Pick<PlaybackSummary, 'slots' | 'late' | 'dropped' | 'wrong' | 'achievedRate' | 'timesRealTime'> & { readonly attribution: { readonly countByCharge: Readonly<Record<number, number>> | null } | null }, rate: number): string {
  if (summary.timesRealTime !== null) {
    return `Every frame was shown at ${summary.achievedRate.toFixed(1)} frames per second: ${summary.timesRealTime.toFixed(2)}x the clip's ${Number(rate.toFixed(3))}.`;
  }
  const wrong = summary.wrong > 0 ? ` ${slots(summary.wrong)} showed a wrong frame.` : '';
  if (summary.dropped === 0) return `All ${slots(summary.slots)} were shown${summary.late > 0 ? `, ${groupDigits(summary.late)} of them late` : ''}.${wrong}`;
  const blame = chargesByDrops(summary.attribution?.countByCharge ?? {}).map(({ charge, drops }) => `${lateLabel(charge)} for ${groupDigits(drops)}`).join(', ');
  return `${groupDigits(summary.dropped)} of ${slots(summary.slots)} dropped; ${blame}.${wrong}`;
}

/** A factor to three figures, rounded up so that it still suffices: 1.84x, 12.7x. */
function times(factor: number): string {
  const step = factor < 10 ? 100 : 10;
  return `${(Math.ceil(factor * step) / step).toFixed(factor < 10 ? 2 : 1)}x`;
}

/** A cure as a sentence. */
export function cureSentence(cure: Cure): string {
  const effect = cure.removes === cure.of ? `all ${groupDigits(cure.of)}` : `${groupDigits(cure.removes)} of ${groupDigits(cure.of)}`;
  const verb = `would have removed ${effect} ${cure.of === 1 ? 'drop' : 'drops'}`;
  switch (cure.kind) {
    case 'scale': return `${cure.scale === 'half' ? 'Half' : 'Quarter'} scale ${verb}.`;
    case 'volume': return `A volume that sustains ${(cure.bytesPerSecond / 1e6).toFixed(1)} MB/s ${verb}.`;
    case 'processor': return `A processor that decodes and processes ${times(cure.factor)} as fast ${verb}.`;
    case 'faster': return `${cure.stage === 'decode' ? 'Decoding' : cure.stage === 'process' ? 'Processing' : 'Reading'} ${times(cure.factor)} as fast ${verb}.`;
  }
}
