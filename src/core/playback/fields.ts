import type { Scan } from '../media/identity';
import type { WorkedIn } from './settings';

export const isInterlaced = (scan: Scan | null | undefined): boolean =>
  scan != null && scan !== 'progressive';

/** Whether fields of what was played were shown one by one. */
export const showsFields = ({ fields }: WorkedIn, scans: readonly (Scan | null | undefined)[]): boolean =>
  fields === 'deinterlaced' && scans.some(isInterlaced);

/** What became of the fields of what was played, in words; null where nothing of it is known to be interlaced. */
export function fieldsWords(
  { fields }: WorkedIn,
  scans: readonly (Scan | null | undefined)[],
): string | null {
  if (!scans.some(isInterlaced)) return null;
  switch (fields) {
    case 'deinterlaced':
      return 'deinterlaced: a slot shows the field of its time';
    case 'woven':
      return 'both in one picture, scaled apart';
    case undefined:
      return 'both in one picture, scaled together';
  }
}
