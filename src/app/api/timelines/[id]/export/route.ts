import { fileAnswer, route } from '@/server/platform/http';
import { exportTimeline } from '@/server/timelines/interchange';

export const dynamic = 'force-dynamic';

/** An interchange file; with `?losses` only what it cannot carry. */
export const GET = route('GET /api/timelines/{id}/export', async ({ ids, query }) => {
  const { text, fileName, losses } = await exportTimeline(
    ids.id,
    query.get('format') === 'edl' ? 'edl' : 'otio',
    query.get('track'),
  );
  return query.has('losses') ? { losses, fileName } : fileAnswer(text, 'text/plain', fileName);
});
