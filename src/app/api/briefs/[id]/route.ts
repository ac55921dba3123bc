import { changeBrief, deleteBrief, readBriefPage } from '@/server/decide/briefs';
import { route } from '@/server/platform/http';

export const dynamic = 'force-dynamic';

export const GET = route('GET /api/briefs/{id}', ({ ids }) => readBriefPage(ids.id));

export const PUT = route('PUT /api/briefs/{id}', ({ ids, body }) => changeBrief(ids.id, body));

export const DELETE = route('DELETE /api/briefs/{id}', ({ ids }) => deleteBrief(ids.id));
