import { route } from '@/server/platform/http';
import { deletePlan, readPlanPage } from '@/server/decide/plans';

export const dynamic = 'force-dynamic';

export const GET = route('GET /api/plans/{id}', ({ ids }) => readPlanPage(ids.id));

export const DELETE = route('DELETE /api/plans/{id}', ({ ids }) => deletePlan(ids.id));
