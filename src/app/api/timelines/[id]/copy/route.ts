import { route } from '@/server/platform/http';
import { copyTimeline } from '@/server/timelines/timelines';

export const POST = route('POST /api/timelines/{id}/copy', async ({ ids, body }) => ({
  id: await copyTimeline(ids.id, body.name),
}));
