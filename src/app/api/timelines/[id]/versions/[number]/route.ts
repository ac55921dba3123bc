import { route } from '@/server/platform/http';
import { versionDocument } from '@/server/timelines/timelines';

export const dynamic = 'force-dynamic';

export const GET = route('GET /api/timelines/{id}/versions/{number}', ({ ids }) =>
  versionDocument(ids.id, ids.number),
);
