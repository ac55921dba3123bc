import { fileAnswer, route } from '@/server/platform/http';
import { recordCsv } from '@/server/kinds/recordCsv';

export const dynamic = 'force-dynamic';

/** What a trial recorded, as CSV: one line per slot, request, file, pass or whatever its kind records. */
export const GET = route('GET /api/trials/{id}/csv', async ({ ids: { id } }) => {
  const { csv, kind } = await recordCsv(id);
  return fileAnswer(csv, 'text/csv', `navvy-${kind}-${id}.csv`);
});
