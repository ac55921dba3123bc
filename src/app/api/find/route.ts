import { findByName } from '@/server/find';
import { route } from '@/server/platform/http';

export const dynamic = 'force-dynamic';

/** What has the words of `text` in its name, with where its page is. */
export const GET = route('GET /api/find', async ({ query }) => ({
  found: await findByName(query.get('text') ?? ''),
}));
