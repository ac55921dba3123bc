import { route } from '@/server/platform/http';
import { createEmpty, timelinesOfRig } from '@/server/timelines/timelines';

export const dynamic = 'force-dynamic';

export const GET = route('GET /api/timelines', timelinesOfRig);

export const POST = route('POST /api/timelines', async ({ body: { name, rate, width, height } }) => ({
  id: await createEmpty(name, rate, width, height),
}));
