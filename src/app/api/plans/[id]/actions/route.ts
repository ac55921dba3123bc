import { route } from '@/server/http';
import { actOnPlan } from '@/server/plans';

export const POST = route('POST /api/plans/{id}/actions', ({ ids, body }) => actOnPlan(ids.id, body));
