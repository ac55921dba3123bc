import { route } from '@/server/http';
import { deletePlan, readPlanPage } from '@/server/plans';

export const dynamic = 'force-dynamic';

export const GET = route('GET /api/plans/{id}', ({ ids }) => readPlanPage(ids.id));

export const DELETE = route('DELETE /api/plans/{id}', ({ ids }) => deletePlan(ids.id));
