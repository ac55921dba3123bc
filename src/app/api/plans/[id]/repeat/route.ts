import { route } from '@/server/http';
import { repeatPlan } from '@/server/plans';

export const POST = route('POST /api/plans/{id}/repeat', async ({ ids }) => ({
  id: await repeatPlan(ids.id),
}));
