import { rounded } from '@/core/format';
import type { CrossCheck, SupportVerdict } from '@/core/decode/verdict';
import { decodeKinds, isOneOf, type DecodeKind } from '@/core/kinds/kinds';
import type { NavvyEvent } from '@/server/platform/events';
import type { TrialListRow } from '@/db/kinds';

/** Whether an event is of a decode trial that began or ended. */
export const isDecodeNews = (event: NavvyEvent) =>
  event.type === 'trial-status' && isOneOf(decodeKinds, event.kind);

/** What a decode trial is about, in a few words. */
export function trialWords({
  settings,
  subject,
}: Pick<TrialListRow<DecodeKind>, 'settings' | 'subject'>): string {
  switch (settings.kind) {
    case 'decode-rate':
      return 'Decode rate';
    case 'decode-support':
      return `On ${subject.device?.name ?? 'a device'}`;
    case 'decode-streams':
      return `Streams at ${settings.scale} scale`;
  }
}

/** Verdicts as they stand in a cell: a sign that reads without colour, and a word. */
export const verdictSigns: Record<SupportVerdict, string> = {
  accelerated: '▲',
  'not accelerated': '=',
  'slower on the device': '▼',
  undecided: '?',
};
export const verdictWords: Record<SupportVerdict, string> = {
  accelerated: 'accelerated',
  'not accelerated': 'not accelerated',
  'slower on the device': 'slower',
  undecided: 'undecided',
};

export const checkWords: Record<CrossCheck, string> = {
  agrees: '',
  'silent fallback': 'silent fallback',
  'device frames, no gain': 'device frames, no gain',
  'gain without device frames': 'gain without device frames',
};

/** Frames per second with as many digits as count. */
export function framesPerSecond(value: number | null | undefined): string {
  if (value === null || value === undefined || Number.isNaN(value)) return '–';
  return rounded(value);
}
