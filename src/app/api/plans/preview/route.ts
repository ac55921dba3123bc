import { route } from '@/server/http';
import { previewPlan } from '@/server/plans';

export const POST = route('POST /api/plans/preview', ({ body }) => previewPlan(body));
