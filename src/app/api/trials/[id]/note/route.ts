import { annotate } from '@/server/trials/annotations';
import { route } from '@/server/platform/http';

/** What a person says of a result, and whether it counts. */
export const PUT = route('PUT /api/trials/{id}/note', ({ ids, body }) => annotate(ids.id, body));
