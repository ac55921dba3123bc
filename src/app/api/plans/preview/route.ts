import { route } from '@/server/platform/http';
import { previewPlan } from '@/server/decide/plans';

export const POST = route('POST /api/plans/preview', ({ body }) => previewPlan(body));
