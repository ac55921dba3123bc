import { route } from '@/server/platform/http';
import { nameVersion, versionsOf } from '@/server/timelines/timelines';

export const dynamic = 'force-dynamic';

export const GET = route('GET /api/timelines/{id}/versions', ({ ids }) => versionsOf(ids.id));

/** Keeps the present state under a name. */
export const POST = route('POST /api/timelines/{id}/versions', async ({ ids, body }) => ({
  number: await nameVersion(ids.id, body.name),
}));
