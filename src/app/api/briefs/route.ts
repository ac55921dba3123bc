import { briefsOfRig, createBrief } from '@/server/briefs';
import { route } from '@/server/http';

export const dynamic = 'force-dynamic';

export const GET = route('GET /api/briefs', briefsOfRig);

export const POST = route('POST /api/briefs', async ({ body }) => ({ id: await createBrief(body) }));
