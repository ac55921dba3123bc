import { route } from '@/server/platform/http';
import { actOnPlan } from '@/server/decide/plans';

export const POST = route('POST /api/plans/{id}/actions', ({ ids, body }) => actOnPlan(ids.id, body));
