import { route } from '@/server/http';
import { copyTimeline } from '@/server/timelines';

export const POST = route('POST /api/timelines/{id}/copy', async ({ ids, body }) => ({
  id: await copyTimeline(ids.id, body.name),
}));
