import { route } from '@/server/platform/http';
import { viewerOf } from '@/server/library/pictures';

export const dynamic = 'force-dynamic';

/** The viewer's pictures and states as they come (see `ViewerSession`). */
export const GET = route('GET /api/viewers/{id}', ({ ids, request }) =>
  viewerOf(ids.id, 'GET', null, request.signal),
);

/** A command, or a document to look at; the viewer checks it. */
export const POST = route('POST /api/viewers/{id}', ({ ids, body, request }) =>
  viewerOf(ids.id, 'POST', body, request.signal),
);
