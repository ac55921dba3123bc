import { route } from '@/server/platform/http';
import { readPrerenders } from '@/server/timelines/prerenders';
import { requireTimeline } from '@/server/timelines/timelines';

export const dynamic = 'force-dynamic';

/** What of a timeline was rendered ahead, and whether it can still be used. */
export const GET = route('GET /api/timelines/{id}/prerenders', async ({ ids: { id } }) => ({
  prerenders: await readPrerenders(id, (await requireTimeline(id)).document),
}));
