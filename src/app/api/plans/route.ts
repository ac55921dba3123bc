import { route } from '@/server/http';
import { plansOfRig, startPlan } from '@/server/plans';

export const dynamic = 'force-dynamic';

export const GET = route('GET /api/plans', plansOfRig);

export const POST = route('POST /api/plans', async ({ body }) => ({ id: await startPlan(body) }));
