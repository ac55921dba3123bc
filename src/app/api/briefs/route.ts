import { briefsOfRig, createBrief } from '@/server/decide/briefs';
import { route } from '@/server/platform/http';

export const dynamic = 'force-dynamic';

export const GET = route('GET /api/briefs', briefsOfRig);

export const POST = route('POST /api/briefs', async ({ body }) => ({ id: await createBrief(body) }));
