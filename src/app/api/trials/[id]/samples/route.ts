import { readAround } from '@/server/trials/around';
import { route } from '@/server/platform/http';
import { requireTrial } from '@/server/platform/trialQueue';

export const dynamic = 'force-dynamic';

/** What the rig did meanwhile, the series it belongs to, and what people noted. */
export const GET = route('GET /api/trials/{id}/samples', async ({ ids }) => {
  await requireTrial(ids.id);
  return readAround(ids.id);
});
