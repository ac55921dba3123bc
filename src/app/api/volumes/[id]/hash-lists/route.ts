import { listsOnVolume } from '@/server/library/hashLists';
import { route } from '@/server/platform/http';

export const dynamic = 'force-dynamic';

/** Hash lists that lie on a volume, the newest first. */
export const GET = route('GET /api/volumes/{id}/hash-lists', ({ ids }) => listsOnVolume(ids.id));
