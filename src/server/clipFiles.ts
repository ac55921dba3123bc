import type { ClipRow } from '@/db/queries/clips';

/** Whether a clip lies in several files: one for each frame, or those of a take that a camera split. */
export const hasFiles = ({ setup }: Pick<ClipRow, 'setup'>): boolean =>
  setup?.sequence !== undefined || setup?.parts !== undefined;
