import type { RelinkReason } from '@/core/timeline/relink';

export const relinkWords: Record<RelinkReason, string> = {
  content: 'content hash',
  'name and timecode': 'name and timecode',
  name: 'name alone',
  timecode: 'reel and timecode',
};

/** Frame rates to choose from, exact. */
export const rateOptions = [
  ['24000/1001', '23.976'],
  ['24/1', '24'],
  ['25/1', '25'],
  ['30000/1001', '29.97'],
  ['30/1', '30'],
  ['48/1', '48'],
  ['50/1', '50'],
  ['60000/1001', '59.94'],
  ['60/1', '60'],
] as const;

export function rateFrom(text: string): { num: number; den: number } {
  const [num = 24, den = 1] = text.split('/').map(Number);
  return { num, den };
}
