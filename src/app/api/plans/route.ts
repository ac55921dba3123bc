import { route } from '@/server/platform/http';
import { plansOfRig, startPlan } from '@/server/decide/plans';

export const dynamic = 'force-dynamic';

export const GET = route('GET /api/plans', plansOfRig);

export const POST = route('POST /api/plans', async ({ body }) => ({ id: await startPlan(body) }));
