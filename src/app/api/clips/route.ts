import { libraryCsv, readLibrary, type LibraryQuery } from '@/server/library/clipList';
import { csvAnswer, route } from '@/server/platform/http';

export const dynamic = 'force-dynamic';

/** A page of the library, by footage or by file; with `format=csv` all files of it as CSV. What narrows it stands in the address. */
export const GET = route('GET /api/clips', async ({ query }) => {
  const { format, ...narrowed } = Object.fromEntries(query) as LibraryQuery & { format?: string };
  return format === 'csv' ? csvAnswer(await libraryCsv(narrowed), 'navvy-clips.csv') : readLibrary(narrowed);
});
