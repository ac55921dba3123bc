import { route } from '@/server/http';
import { removePrerender } from '@/server/prerenders';

/** Removes a rendered part with its file. */
export const DELETE = route('DELETE /api/timelines/{id}/prerenders/{clipId}', ({ ids }) =>
  removePrerender(ids.id, ids.clipId),
);
