import type { Format } from '../media/format';
import type { WorkedIn } from './settings';

/** Whether pictures of a format have more levels than 8 bits a channel hold. */
export const isDeepFormat = ({ bitDepth }: Pick<Format, 'bitDepth'>): boolean => bitDepth > 8;

/** Whether pictures were chosen to be worked on in less than some formats have. */
export const losesDepth = ({ depth }: WorkedIn, formats: readonly Pick<Format, 'bitDepth'>[]): boolean =>
  depth === '8-bit' && formats.some(isDeepFormat);

/** In how many bits a channel pictures of some formats were worked on, in words. */
export function workedInWords(
  { depth = '8-bit' }: WorkedIn,
  formats: readonly Pick<Format, 'bitDepth'>[],
): string {
  if (depth === '8-bit' || !formats.some(isDeepFormat)) return '8 bits a channel';
  return formats.every(isDeepFormat)
    ? '16 bits a channel'
    : '16 bits a channel where a source has more than 8';
}
