import { route } from '@/server/platform/http';
import { livePictures } from '@/server/library/pictures';

export const dynamic = 'force-dynamic';

/** Live pictures of a running trial: records of [length][frame number][JPEG]. */
export const GET = route('GET /api/trials/{id}/pictures', ({ ids, request }) =>
  livePictures(ids.id, request.signal),
);
