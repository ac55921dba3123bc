import { route } from '@/server/platform/http';
import { traceViewOf } from '@/server/timelines/playedTrials';

export const dynamic = 'force-dynamic';

/** The trace as columns; see `core/playback/traceView`. */
export const GET = route(
  'GET /api/trials/{id}/trace',
  async ({ ids }) =>
    new Response((await traceViewOf(ids.id)) as BodyInit, {
      headers: { 'content-type': 'application/octet-stream', 'cache-control': 'no-store' },
    }),
);
