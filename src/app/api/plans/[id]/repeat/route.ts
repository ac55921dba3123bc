import { route } from '@/server/platform/http';
import { repeatPlan } from '@/server/decide/plans';

export const POST = route('POST /api/plans/{id}/repeat', async ({ ids }) => ({
  id: await repeatPlan(ids.id),
}));
