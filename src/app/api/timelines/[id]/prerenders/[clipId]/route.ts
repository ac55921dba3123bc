import { route } from '@/server/platform/http';
import { removePrerender } from '@/server/timelines/prerenders';

/** Removes a rendered part with its file. */
export const DELETE = route('DELETE /api/timelines/{id}/prerenders/{clipId}', ({ ids }) =>
  removePrerender(ids.id, ids.clipId),
);
