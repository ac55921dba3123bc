import { route } from '@/server/platform/http';
import { deleteTimeline, requireTimeline, saveDocument } from '@/server/timelines/timelines';

export const dynamic = 'force-dynamic';

export const GET = route('GET /api/timelines/{id}', ({ ids }) => requireTimeline(ids.id));

export const PUT = route('PUT /api/timelines/{id}', ({ ids, body }) => saveDocument(ids.id, body));

export const DELETE = route('DELETE /api/timelines/{id}', ({ ids }) => deleteTimeline(ids.id));
